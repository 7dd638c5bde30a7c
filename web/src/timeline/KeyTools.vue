<script setup lang="ts">
// What can be done with keys: set them, step between them, ease, copy, paste and
// scale the selected ones, open their curves.
import { useTip } from '@/stores/keys'
import {
  ChartSpline,
  ChevronsLeft,
  ChevronsRight,
  ClipboardCopy,
  ClipboardPaste,
  FlipHorizontal2,
  KeyRound,
  Scaling,
  Trash2,
} from '@lucide/vue'
import { computed, ref } from 'vue'
import type { Key } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import KeyFigures from './KeyFigures.vue'
import KeyPin from './KeyPin.vue'

const tip = useTip()

const props = defineProps<{ node: string }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const count = computed(() => Object.values(view.keys?.rows ?? {}).reduce((n, f) => n + f.length, 0))
const eases = ['soft', 'even', 'hold', 'shaped'] as const

/** The frames at which the node has keys. */
const frames = computed(() => {
  const all = Object.values(scene.doc.curves).flatMap((c) => (c.node === props.node ? c.keys.map((k) => k.frame) : []))
  return [...new Set(all)].sort((a, b) => a - b)
})
function step(by: -1 | 1) {
  const here = head.story
  const next = by > 0 ? frames.value.find((f) => f > here + 0.01) : frames.value.findLast((f) => f < here - 0.01)
  if (next !== undefined) head.set(next)
}
function set() {
  if (props.node) scene.run('keySet', { node: props.node, frame: Math.round(head.story) })
}
function ease(kind: Key['ease']) {
  if (view.keys) scene.run('keyEase', { ...view.keys, ease: kind })
}
function remove() {
  if (view.keys && scene.run('keyRemove', { ...view.keys })) view.keys = null
}
function paste(reverse: boolean) {
  if (view.copied && props.node)
    scene.run('keyPaste', { node: props.node, rows: view.copied, frame: Math.round(head.story), reverse })
}
const time = ref(100)
const value = ref(100)
const by = ref(0)
function scale() {
  const k = view.keys
  if (!k) return
  if (time.value !== 100 || value.value !== 100)
    if (!scene.run('keyScale', { ...k, time: time.value / 100, value: value.value / 100 })) return
  if (by.value) view.moveKeys(Math.round(by.value))
  else if (time.value !== 100) view.keys = null
  time.value = value.value = 100
  by.value = 0
}
defineExpose({ step, set, paste })
</script>
<template>
  <div class="keys" role="group" aria-label="Keys">
    <template v-if="view.keys">
      <span class="dim">{{ count }} {{ count === 1 ? 'key' : 'keys' }}</span>
      <KeyFigures />
      <button v-for="k in eases" :key="k" class="icon" :aria-label="`Make the keys ${k}`" :title="k" @click="ease(k)">
        <KeyPin :ease="k" />
      </button>
      <button
        class="icon"
        aria-label="Copy the keys"
        :title="tip('Copy', 'copy what is selected')"
        @click="view.copyKeys()"
      >
        <ClipboardCopy :size="14" />
      </button>
      <el-popover placement="top" :width="200" trigger="click">
        <template #reference>
          <button class="icon" aria-label="Scale and move the keys" title="Scale and move by figures">
            <Scaling :size="14" />
          </button>
        </template>
        <form class="figures" @submit.prevent="scale" @keydown.stop>
          <label>time <input v-model.number="time" type="number" aria-label="Time in per cent" /> %</label>
          <label>value <input v-model.number="value" type="number" aria-label="Value in per cent" /> %</label>
          <label>later by <input v-model.number="by" type="number" aria-label="Frames later" /> f</label>
          <button class="act">Scale the keys</button>
        </form>
      </el-popover>
      <button
        class="icon"
        aria-label="Remove keys"
        :title="tip('Remove keys', 'remove; shots or a range leave a gap')"
        @click="remove"
      >
        <Trash2 :size="14" />
      </button>
    </template>
    <template v-if="view.copied">
      <button
        class="icon"
        aria-label="Paste keys"
        :title="tip('Paste at the playhead', 'paste, also from another scene')"
        :disabled="!node"
        @click="paste(false)"
      >
        <ClipboardPaste :size="14" />
      </button>
      <button
        class="icon"
        aria-label="Paste keys reversed"
        title="Paste reversed (Ctrl Shift V)"
        :disabled="!node"
        @click="paste(true)"
      >
        <FlipHorizontal2 :size="14" />
      </button>
    </template>
    <button
      class="icon"
      aria-label="To the key before"
      :title="tip('To the key before', 'to the key before')"
      :disabled="!frames.length"
      @click="step(-1)"
    >
      <ChevronsLeft :size="14" />
    </button>
    <button
      class="act"
      :title="tip('Set keys of all that moves, here', 'set keys here')"
      :disabled="!node"
      @click="set"
    >
      <KeyRound :size="13" /> Set keys
    </button>
    <button
      class="icon"
      aria-label="To the next key"
      :title="tip('To the next key', 'to the next key')"
      :disabled="!frames.length"
      @click="step(1)"
    >
      <ChevronsRight :size="14" />
    </button>
    <button
      class="icon"
      aria-label="Curves"
      :title="tip('Curves above the rows', 'curves above the rows')"
      :aria-pressed="view.curves"
      @click="view.curves = !view.curves"
    >
      <ChartSpline :size="14" />
    </button>
  </div>
</template>
<style scoped>
.keys {
  display: flex;
  align-items: center;
  gap: 3px;
}
.icon {
  width: 24px;
  height: 24px;
}
.figures {
  display: grid;
  gap: 6px;
}
.figures label {
  display: grid;
  grid-template-columns: 60px 1fr 14px;
  gap: 6px;
  align-items: center;
}
.figures input {
  width: 100%;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font-mono);
}
</style>
