<script setup lang="ts">
// The points of a match in the set, over scout and plan. They are pressed and dragged on
// the surfaces of things, and snap to corners.
import { computed, ref } from 'vue'
import { OrthographicCamera, PerspectiveCamera } from 'three'
import { core, type Vec3 } from '@/core/bridge'
import { useMatching } from '@/stores/matching'
import { presses } from '@/ui/useDrag'
import { useEditDrag } from '@/ui/useEditDrag'
import { inWords } from '@/ui/lengths'
import DragTold from './DragTold.vue'
import MatchPoint from './MatchPoint.vue'
import { onPlane, pointer, project, tidy, type PointerLike, type Screen } from './screen'
import { useFrameTick } from './useFrameTick'

const props = defineProps<{ screen: Screen | null }>()
const matching = useMatching()
const { tick, stage } = useFrameTick()
const root = ref<HTMLElement | null>(null)
const drag = useEditDrag()
const near = 9 // pixels from a corner
/** Metres of a pixel for each metre of the distance, or, seen flat, of a pixel. */
function pixel(s: Screen) {
  if (s.camera instanceof PerspectiveCamera) return (2 * Math.tan((s.camera.fov * Math.PI) / 360)) / s.height
  const c = s.camera as OrthographicCamera
  return (c.top - c.bottom) / c.zoom / s.height
}
/** The corner by the pointer, else the place on a surface, else on the ground. */
function at(e: PointerLike & { altKey: boolean }): { place: Vec3; corner: boolean } | null {
  const s = props.screen
  if (!s) return null
  const p = pointer(s, e)
  const { from, direction } = stage.rayAt(p, s.camera)
  const corner = e.altKey ? null : core.corner(from, direction, near * pixel(s), s.camera instanceof OrthographicCamera)
  if (corner) return { place: tidy(corner as Vec3), corner: true }
  const place = stage.pick(p, s.camera)?.at ?? onPlane(stage, s, e, [0, 0, 0], s.normal)
  return place && { place: tidy(place as Vec3), corner: false }
}
const shown = computed(() => {
  void tick.value
  const s = props.screen
  return s ? matching.points.map((p) => project(s, p.at as Vec3)) : []
})
const hovered = ref<{ place: Vec3; corner: boolean } | null>(null)
const ring = computed(
  () => (void tick.value, props.screen && hovered.value && project(props.screen, hovered.value.place)),
)
const half = computed(
  () => (void tick.value, props.screen && matching.half.at && project(props.screen, matching.half.at)),
)
function hover(e: PointerEvent) {
  hovered.value = e.buttons ? null : at(e)
}
function press(e: PointerLike & { altKey: boolean }) {
  const found = at(e)
  if (found) matching.press({ at: found.place })
}
function grab(e: PointerEvent, i: number) {
  if (!presses(e)) return
  const means = (e: PointerEvent) => {
    const found = at(e)
    if (!found) return null
    const text = found.place.map((v) => inWords(v)).join(', ')
    return { ...matching.moved(i, { at: found.place }), text: found.corner ? `corner at ${text}` : text }
  }
  // Seen flat, the foot of a corner lies under its head: a new point can begin in the place of another.
  const click = () =>
    matching.half.in ? matching.press({ at: matching.points[i]!.at as Vec3 }) : (matching.chosen = i)
  drag.begin(e, root.value!, means, { click })
}
defineExpose({ hover, press, leave: () => (hovered.value = null) })
</script>
<template>
  <div ref="root" class="places">
    <span
      v-if="ring"
      class="ring"
      :class="{ corner: hovered!.corner }"
      :style="{ transform: `translate(${ring.x}px, ${ring.y}px)` }"
    ></span>
    <template v-for="(p, i) in shown" :key="i">
      <MatchPoint
        v-if="p"
        :number="i + 1"
        :place="p"
        where="the set"
        :chosen="i === matching.chosen"
        @grab="grab($event, i)"
      />
    </template>
    <MatchPoint v-if="half" :number="matching.points.length + 1" :place="half" where="the set" fresh />
    <DragTold :told="drag.told.value" />
  </div>
</template>
<style scoped>
.places {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
.ring {
  position: absolute;
  left: -4px;
  top: -4px;
  width: 8px;
  height: 8px;
  box-sizing: border-box;
  border: 1px solid var(--text);
  border-radius: 4px;
}
.ring.corner {
  border: 2px solid var(--brass);
  border-radius: 0;
}
</style>
