<script setup lang="ts">
// When a camera sees whom: a ribbon for each chosen subject over story time, or without a
// camera whom the cut shows over screen time. It is computed a little at a time, so that
// nothing waits for it.
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'

const props = defineProps<{ camera: string; subjects: string[]; from: number; to: number; perPixel: number }>()
const scene = useScene()
const head = usePlayhead()
const canvases = ref<HTMLCanvasElement[]>([])
const width = computed(() => (props.to - props.from) / props.perPixel)
const names = computed(() => props.subjects.map((id) => scene.doc.nodes[id]?.name ?? ''))
/** Frames between looks; the whole story, or cut, is looked at. */
const step = 4
const known = ref<{ key: string; first: number; states: Uint8Array; done: number }>()
let request = 0
/** What ribbons are out of date with: pictures, and for the cut the cut too. */
const seenBy = computed(() =>
  props.camera ? `${scene.pictured}` : `${scene.changes} ${scene.pictured} ${scene.cut.assembly}`,
)

function begin() {
  const { in: first, out } = props.camera ? scene.doc.settings.story : { in: 0, out: scene.cutLength }
  const count = Math.ceil((out - first) / step)
  const key = `${props.camera} ${seenBy.value} ${props.subjects.join()}`
  if (known.value?.key === key || !count || !props.subjects.length) return
  known.value = { key, first, states: new Uint8Array(count * props.subjects.length), done: 0 }
  clearTimeout(request)
  request = window.setTimeout(slice, 60)
}
function slice() {
  const k = known.value
  if (!k) return
  if (head.playing) return (request = window.setTimeout(slice, 300)) as unknown as void
  const n = props.subjects.length
  const count = k.states.length / n
  const start = performance.now()
  while (k.done < count && performance.now() - start < 6) {
    const few = Math.min(4, count - k.done)
    k.states.set(core.ribbon(props.camera, props.subjects, k.first + k.done * step, step, few), k.done * n)
    k.done += few
  }
  draw()
  if (k.done < count) request = window.setTimeout(slice, 8)
}
// 0 outside, 1 hidden, 2 cut, 3 small, 4 seen, 5 more than half hidden; 8 is added in focus.
const fills = ['', '#3a4a50', '#b8953f', '#55705c', '#7cc68d', '#6b7f87']
function draw() {
  const k = known.value
  if (!k) return
  const ratio = window.devicePixelRatio || 1
  const scale = 1 / props.perPixel
  canvases.value.forEach((c, s) => {
    c.width = Math.max(1, width.value * ratio)
    c.height = 16 * ratio
    const g = c.getContext('2d')!
    g.scale(ratio, ratio)
    const n = props.subjects.length
    for (let i = 0; i < k.done; i++) {
      const state = k.states[i * n + s]!
      const x = (k.first + i * step - props.from) * scale
      const w = step * scale + 0.5
      if (x > width.value || x + w < 0) continue
      const seen = state & 7
      if (seen) {
        g.fillStyle = fills[seen]!
        // Hidden, half hidden and small are lower, so that the shape tells them too.
        const h = { 1: 3, 3: 6, 5: 6 }[seen] ?? 10
        g.fillRect(x, 12 - h, w, h)
      }
      if (state & 8 && seen > 1) {
        g.fillStyle = '#e2b45a'
        g.fillRect(x, 13, w, 2)
      }
    }
  })
}
watch([() => props.camera, seenBy, () => props.subjects.join()], begin, { immediate: true })
watch([width, () => props.from, () => props.to, canvases], () => draw(), { flush: 'post' })
onBeforeUnmount(() => clearTimeout(request))
</script>
<template>
  <div class="ribbons">
    <div
      v-for="(name, i) in names"
      :key="subjects[i]"
      class="strip-row ribbon"
      :data-label="name"
      role="img"
      :aria-label="camera ? `When ${name} is in the picture` : `When ${name} is seen in the cut`"
      title="Green: in the picture. Low: too small. Amber: cut by the frame. Grey: more than half hidden, and flat: hidden. Brass line: in focus."
    >
      <canvas ref="canvases" :style="{ width: `${width}px` }"></canvas>
    </div>
  </div>
</template>
<style scoped>
.ribbons {
  position: relative;
}
.ribbon.strip-row {
  height: 18px;
}
canvas {
  display: block;
  height: 16px;
}
</style>
