<script setup lang="ts">
// Playing, the timecode, and the tools of the desk, above the strip.
import MarkerName from './MarkerName.vue'
import {
  ArrowLeftToLine,
  Bookmark,
  ChevronLeft,
  ChevronRight,
  CircleDot,
  Pause,
  Play,
  Repeat,
  SkipBack,
  Volume2,
  VolumeX,
} from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { core } from '@/core/bridge'
import { useTip } from '@/stores/keys'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useSound } from '@/stores/sound'
import { useView } from '@/stores/view'
import { sentence } from '@/ui/sentence'
import CutTools from './CutTools.vue'
import DeedMenu from './DeedMenu.vue'
import KeyTools from './KeyTools.vue'
import type { Span } from './useSpan'

const props = defineProps<{ of: Span; keyed: string }>()
const { clock, now, set } = props.of
const tip = useTip()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const sound = useSound()
const tools = ref<InstanceType<typeof KeyTools> | null>(null)
const sign = computed(() => (clock.value === 'story' ? '◷' : '▷'))
const frame = computed(() => Math.round(now.value))
const fresh = ref('') // the marker that has just been made, to be named here
function marker() {
  // What is looked through is what the marker cues.
  const camera = view.desk === 'frame' ? view.through : ''
  const [made] = scene.make('markers', 'markerAdd', {
    clock: clock.value,
    assembly: scene.cut.assembly,
    frame: frame.value,
    ...(camera ? { camera } : {}),
  })
  if (!made) return
  if (!camera) view.select('markers', made)
  fresh.value = made
}
const typed = ref('')
const typing = ref(false)
function startTyping(e: FocusEvent) {
  typing.value = true
  typed.value = core.timecode(clock.value, frame.value)
  ;(e.target as HTMLInputElement).select()
}
function endTyping(e: Event) {
  typing.value = false
  ;(e.target as HTMLElement).blur()
}
function go(e: Event) {
  endTyping(e)
  const plain = Number(typed.value)
  if (typed.value !== '' && Number.isFinite(plain)) return set(Math.round(plain))
  const t = core.parseTimecode(clock.value, typed.value)
  if (t.frame !== undefined) set(t.frame)
  else
    ElMessage({ message: sentence(t.error ?? 'this is no timecode'), type: 'warning', grouping: true, showClose: true })
}
defineExpose({
  marker,
  setKeys: () => tools.value?.set(),
  stepKey: (by: -1 | 1) => tools.value?.step(by),
  pasteKeys: (reverse: boolean) => tools.value?.paste(reverse),
})
</script>
<template>
  <div class="bar">
    <button
      class="icon"
      aria-label="To the start"
      :title="tip('To the start', 'to the start')"
      @click="head.set(head.range.in)"
    >
      <SkipBack :size="15" />
    </button>
    <button
      class="icon"
      aria-label="One frame back"
      :title="tip('One frame back', 'one frame back')"
      @click="head.step(-1)"
    >
      <ChevronLeft :size="16" />
    </button>
    <button
      class="icon big"
      :aria-label="head.playing ? 'Pause' : 'Play'"
      :title="tip(head.playing ? 'Pause' : 'Play', 'play or pause')"
      @click="head.toggle()"
    >
      <Pause v-if="head.playing" :size="17" /><Play v-else :size="17" />
    </button>
    <button class="icon" aria-label="One frame on" :title="tip('One frame on', 'one frame on')" @click="head.step(1)">
      <ChevronRight :size="16" />
    </button>
    <label class="clock" :class="clock"
      >{{ sign }}
      <input
        v-typed
        :value="typing ? typed : core.timecode(clock, frame)"
        aria-label="Timecode"
        @focus="startTyping"
        @input="typed = ($event.target as HTMLInputElement).value"
        @keydown.enter="go"
        @keydown.esc.stop="endTyping"
        @keydown.stop
        @blur="typing = false"
      />
      <span>{{ frame }}</span>
    </label>
    <button
      v-if="Object.keys(scene.doc.tracks).length"
      class="icon"
      :aria-label="sound.on ? 'Sound off' : 'Sound on'"
      :title="sound.on ? 'Sound is on' : 'Sound is off'"
      :aria-pressed="sound.on"
      @click="sound.on = !sound.on"
    >
      <Volume2 v-if="sound.on" :size="15" /><VolumeX v-else :size="15" />
    </button>
    <button
      class="icon"
      aria-label="Loop"
      title="Play the range again and again"
      :aria-pressed="head.loop"
      @click="head.loop = !head.loop"
    >
      <Repeat :size="14" />
    </button>
    <button
      v-if="head.marked[clock]"
      class="icon"
      aria-label="Let the range go"
      :title="`Range ${head.marked[clock]!.in}–${head.marked[clock]!.out - 1}: let it go`"
      @click="head.marked[clock] = null"
    >
      <ArrowLeftToLine :size="14" />
    </button>
    <span v-if="head.speed && head.speed !== 1" class="speed">{{ head.speed }}×</span>
    <span class="gap"></span>
    <CutTools v-if="view.desk === 'splice'" />
    <DeedMenu v-if="view.desk === 'dress'" />
    <KeyTools v-if="head.clock === 'story'" ref="tools" :node="keyed || view.node || view.through" />
    <button
      v-if="head.clock === 'story'"
      class="act"
      :class="{ loud: view.autoKey }"
      :aria-pressed="view.autoKey"
      :title="tip('Set keys with every change', 'auto-key on or off')"
      @click="view.autoKey = !view.autoKey"
    >
      <CircleDot :size="14" /> Auto-key {{ view.autoKey ? 'on' : 'off' }}
    </button>
    <button class="act" :title="tip('Drop a marker', 'drop a marker')" @click="marker">
      <Bookmark :size="14" /> <template v-if="view.desk !== 'splice'">Marker</template
      ><span v-else class="sr-only">Marker</span>
    </button>
    <MarkerName v-model="fresh" />
  </div>
</template>
<style scoped>
.bar {
  display: flex;
  overflow-x: auto;
  scrollbar-width: none;
  align-items: center;
  gap: 4px;
  height: 36px;
  flex: none;
  padding: 0 8px;
  font-size: 12px;
}
.gap {
  flex: 1;
}
.clock {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-left: 8px;
  font: 13px var(--font-mono);
}
.clock input {
  width: 100px;
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  color: inherit;
  font: inherit;
}
.clock input:hover,
.clock input:focus {
  border-color: var(--line);
  background: var(--raised);
}
.clock span {
  color: var(--dim);
  font-size: 12px;
}
.speed {
  padding: 1px 8px;
  border-radius: 4px;
  background: var(--raised);
  font: 12px var(--font-mono);
}
.loud {
  background: var(--brass);
  border-color: var(--brass);
  color: var(--ink);
}
</style>
