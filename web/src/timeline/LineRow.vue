<script setup lang="ts">
// The lines as the cut lets them be heard: each at the screen frames that show
// its stretch of the story. A double click edits the text; dragging moves the
// line in story time, with the gestures of its speaker, or with Alt without.
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, ref } from 'vue'
import { core } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useBlockDrag } from './useBlockDrag'

const props = defineProps<{ x: (frame: number) => number; perPixel: number; from: number; to: number }>()
const scene = useScene()
const view = useView()
const { begin, told } = useBlockDrag(() => props.perPixel)
const alone = ref(false)
useEventListener(window, 'pointermove', (e) => (alone.value = e.altKey), { passive: true, capture: true })

const heard = computed(() => {
  void scene.changes
  return core.lines(props.from, props.to, 3 * props.perPixel).flatMap((h) => {
    const l = scene.doc.lines[h.line]
    return l ? [{ ...h, l, key: `${h.shot}-${h.line}` }] : []
  })
})
const speaker = (cast: string) => scene.doc.nodes[cast]?.name ?? ''
const tint = (cast: string) => scene.doc.nodes[cast]?.cast?.coat ?? '#5c7a8a'
const editing = ref('')
const text = ref('')
function edit(key: string, now: string) {
  editing.value = key
  text.value = now
  void nextTick(() => document.querySelector<HTMLInputElement>('.line input')?.focus())
}
function done(id: string) {
  if (!editing.value) return
  editing.value = ''
  const now = text.value.trim()
  if (now && now !== scene.doc.lines[id]?.text)
    scene.run('set', { collection: 'lines', id, merge: { text: now }, label: 'change a line' })
}
function down(e: PointerEvent, id: string, speed: number) {
  if (editing.value) return
  view.select('lines', id)
  begin(
    e,
    (_, by) => ({ name: 'linesMove', args: { ids: [id], by: Math.round(by * speed), with: !alone.value } }),
    false,
  )
}
</script>
<template>
  <div class="strip-row lines" data-label="lines" role="list" aria-label="Lines">
    <div
      v-for="h in heard"
      :key="h.key"
      v-memo="[
        h.l,
        x(h.in),
        x(h.out),
        speaker(h.l.cast),
        tint(h.l.cast),
        h.cut,
        editing === h.key && text,
        view.isSelected('lines', h.line),
      ]"
      class="line"
      role="listitem"
      tabindex="0"
      :class="{ selected: view.isSelected('lines', h.line), cut: h.cut }"
      :style="{
        transform: `translateX(${x(h.in)}px)`,
        width: `${Math.max(3, (h.out - h.in) / perPixel)}px`,
        '--tint': tint(h.l.cast),
      }"
      :aria-label="`${speaker(h.l.cast)}: ${h.l.text}`"
      :title="`${speaker(h.l.cast)}: ${h.l.text}${h.cut ? ' · the cut shows a part of it' : ''}`"
      @pointerdown="down($event, h.line, h.speed)"
      @dblclick.stop="edit(h.key, h.l.text)"
    >
      <input
        v-if="editing === h.key"
        v-model="text"
        aria-label="Text of the line"
        @pointerdown.stop
        @keydown.stop
        @keydown.enter="done(h.line)"
        @keydown.esc="editing = ''"
        @blur="done(h.line)"
      />
      <template v-else
        ><b>{{ speaker(h.l.cast) }}</b> {{ h.l.text }}</template
      >
    </div>
    <span v-if="told" class="told">{{ told }}</span>
  </div>
</template>
<style scoped>
.lines {
  height: 22px;
}
.line {
  position: absolute;
  left: 0;
  top: 2px;
  bottom: 2px;
  padding: 0 5px;
  border-left: 3px solid var(--tint);
  border-radius: 3px;
  background: color-mix(in srgb, var(--tint) 30%, var(--panel));
  font: 11.5px/17px var(--font-condensed);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  cursor: grab;
  touch-action: none;
}
.line.cut {
  border-right: 2px dotted var(--warning);
}
.line.selected {
  box-shadow: inset 0 0 0 1px var(--text);
}
.line b {
  color: var(--dim);
  font-weight: 500;
}
.line input {
  width: 100%;
  min-width: 200px;
  height: 17px;
  padding: 0 2px;
  border: 0;
  background: var(--ink);
  color: var(--text);
  font: inherit;
}
.told {
  position: absolute;
  left: calc(var(--shift, 0px) + 8px);
  z-index: 3;
  top: 2px;
  padding: 0 6px;
  border-radius: 4px;
  background: var(--ink);
  font: 11px var(--font-mono);
}
</style>
