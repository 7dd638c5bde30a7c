<script setup lang="ts">
// The picture that a camera is matched to, over what it sees: its points are pressed and
// dragged here, and crosses stand where the camera sees them.
import { computed, ref } from 'vue'
import { useMatching, type InPicture } from '@/stores/matching'
import { presses } from '@/ui/useDrag'
import { useEditDrag } from '@/ui/useEditDrag'
import DragTold from '../DragTold.vue'
import MatchPoint from '../MatchPoint.vue'
import { fit } from '../useStageView'
import { useFrameTick } from '../useFrameTick'

const props = defineProps<{ box: { x: number; y: number; width: number; height: number } }>()
const matching = useMatching()
const { tick } = useFrameTick()
const root = ref<HTMLElement | null>(null)
const drag = useEditDrag()
/** Where the whole picture lies in the gate. */
const area = computed(() => {
  const m = matching.match!
  return fit(props.box.width, props.box.height, m.width / m.height)
})
const place = ([x, y]: readonly [number, number]) => ({
  x: area.value.x + ((x + 1) / 2) * area.value.width,
  y: area.value.y + ((1 - y) / 2) * area.value.height,
})
function at(e: PointerEvent): InPicture {
  const b = root.value!.getBoundingClientRect()
  const bound = (v: number) => +Math.max(-1, Math.min(1, v)).toFixed(5)
  const x = ((e.clientX - b.x - area.value.x) / area.value.width) * 2 - 1
  const y = 1 - ((e.clientY - b.y - area.value.y) / area.value.height) * 2
  return [bound(x), bound(y)]
}
const shown = computed(() => {
  void tick.value
  const found = matching.quality()?.points ?? []
  return matching.points.map((p, i) => {
    const seen = found[i]
    return {
      ...place(p.in as InPicture),
      off: seen?.off ?? 0,
      seen: seen && !seen.behind && matching.points.length >= 4 ? place(seen.in as InPicture) : null,
    }
  })
})
function press(e: PointerEvent) {
  if (presses(e)) matching.press({ in: at(e) })
}
function grab(e: PointerEvent, i: number) {
  if (!presses(e)) return
  matching.chosen = i
  drag.begin(e, root.value!, (e) => ({ ...matching.moved(i, { in: at(e) }), text: `point ${i + 1}` }))
}
</script>
<template>
  <div
    ref="root"
    class="match"
    role="application"
    aria-label="Picture to match"
    :style="{ left: `${box.x}px`, top: `${box.y}px`, width: `${box.width}px`, height: `${box.height}px` }"
    @pointerdown.stop="press"
  >
    <img
      :src="`/api/images/${matching.match!.blob}`"
      alt=""
      draggable="false"
      :style="{ opacity: matching.opacity / 100 }"
    />
    <svg>
      <g v-for="(p, i) in shown" :key="i">
        <template v-if="p.seen">
          <line :x1="p.x" :y1="p.y" :x2="p.seen.x" :y2="p.seen.y" />
          <path :d="`M${p.seen.x - 5} ${p.seen.y}h10M${p.seen.x} ${p.seen.y - 5}v10`" class="seen" />
        </template>
      </g>
    </svg>
    <MatchPoint
      v-for="(p, i) in shown"
      :key="i"
      :number="i + 1"
      :place="p"
      where="the picture"
      :chosen="i === matching.chosen"
      @grab="grab($event, i)"
    />
    <MatchPoint
      v-if="matching.half.in"
      :number="shown.length + 1"
      :place="place(matching.half.in)"
      where="the picture"
      fresh
    />
    <DragTold :told="drag.told.value" />
  </div>
</template>
<style scoped>
.match {
  position: absolute;
  cursor: crosshair;
  touch-action: none;
}
img,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
  pointer-events: none;
}
svg {
  overflow: visible;
}
line {
  stroke: var(--vermilion);
  stroke-width: 1.5;
}
.seen {
  stroke: var(--text);
  stroke-width: 1.5;
}
</style>
