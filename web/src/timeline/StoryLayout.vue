<script setup lang="ts">
// The shots of the cut laid out in story time: which moments are used, by which
// camera, how often. Edges are dragged here too; later shots follow on the
// screen clock.
import { computed } from 'vue'
import { core, storyOut } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { useBlockDrag, type Edge } from './useBlockDrag'

const props = defineProps<{ x: (frame: number) => number; perPixel: number }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const { begin, told } = useBlockDrag(() => props.perPixel)

interface Use {
  id: string
  number: string
  in: number
  out: number
  screenIn: number
  speed: number
}
const uses = computed(() =>
  scene.cut.shots.flatMap((c): (Use & { camera: string })[] => {
    const s = scene.shotOf(c.id)
    if (!s) return []
    const out = s.speed === 0 ? s.storyIn + 1 : storyOut(s)
    return [
      {
        id: c.id,
        number: s.number,
        in: s.storyIn,
        out,
        screenIn: s.screenIn,
        speed: s.speed,
        camera: s.plays ? '' : s.camera,
      },
    ]
  }),
)
const rows = computed(() => {
  const by = new Map<string, Use[]>()
  for (const u of uses.value) by.set(u.camera, [...(by.get(u.camera) ?? []), u])
  const list = scene.cameras.filter((c) => by.has(c.id)).map((c) => ({ camera: c, uses: by.get(c.id)! }))
  const still = by.get('')
  return still ? [...list, { camera: null, uses: still }] : list
})
/** Stretches of the story and how many shots show them. */
const counts = computed(() => {
  void scene.changes
  return core.uses()
})
function down(e: PointerEvent, u: Use) {
  if (!scene.doc.shots[u.id]) return
  view.select('shots', u.id)
  begin(e, (edge: Edge, by: number): [string, object] => {
    const frames = Math.round(by / (u.speed || 1))
    return edge
      ? ['shotTrim', { id: u.id, edge, by: frames, ripple: true }]
      : ['shotSlip', { ids: [u.id], by: u.speed ? frames : by }]
  })
}
</script>
<template>
  <div class="strip-row used" data-label="seen" role="img" :aria-label="`Story time seen by the cut`">
    <i
      v-for="(c, i) in counts"
      :key="i"
      :style="{
        left: `${x(c.in)}px`,
        width: `${x(c.out) - x(c.in)}px`,
        opacity: 0.35 + 0.3 * Math.min(2, c.times - 1),
      }"
      :title="`${c.in}–${c.out - 1}: ${c.times === 1 ? 'once' : `${c.times} times`}`"
      ><b v-if="c.times > 1">{{ c.times }}×</b></i
    >
  </div>
  <div
    v-for="r in rows"
    :key="r.camera?.id ?? ''"
    class="strip-row uses"
    role="list"
    :aria-label="r.camera?.node.name ?? 'Boards and cards'"
  >
    <span class="camera"
      ><template v-if="r.camera"
        ><CameraBadge :number="r.camera.camera.number" :color="r.camera.camera.color" :size="16" />{{
          r.camera.node.name
        }}</template
      ><template v-else>boards, cards</template></span
    >
    <div
      v-for="u in r.uses"
      :key="u.id"
      class="use"
      role="listitem"
      tabindex="0"
      :class="{ selected: view.isSelected('shots', u.id), air: head.airShot === u.id }"
      :style="{
        left: `${x(u.in)}px`,
        width: `${Math.max(3, x(u.out) - x(u.in))}px`,
        '--camera': r.camera?.camera.color ?? '#8a979b',
      }"
      :aria-label="`Shot ${u.number} shows story ${Math.round(u.in)} to ${Math.round(u.out - 1)}`"
      :title="`Shot ${u.number}: drag its edges to show more or less, its body to show another moment`"
      @pointerdown="down($event, u)"
      @dblclick="head.setScreen(u.screenIn)"
    >
      {{ u.number }}
    </div>
  </div>
  <span v-if="told" class="told">{{ told }}</span>
</template>
<style scoped>
.used i {
  position: absolute;
  top: 4px;
  bottom: 4px;
  background: var(--sand);
  color: var(--ink);
  font: 600 10.5px/16px var(--font-mono);
  text-align: center;
  overflow: hidden;
}
.uses {
  height: 22px;
}
.camera {
  position: absolute;
  z-index: 2;
  left: calc(-1 * var(--labels));
  width: calc(var(--labels) - 4px);
  height: 100%;
  padding-left: 6px;
  display: flex;
  gap: 4px;
  align-items: center;
  background: var(--panel);
  color: var(--dim);
  font: 11.5px var(--font-condensed);
  white-space: nowrap;
  overflow: hidden;
}
.use {
  position: absolute;
  top: 2px;
  bottom: 2px;
  padding: 0 4px;
  border-radius: 4px;
  background: color-mix(in srgb, var(--camera) 45%, var(--panel));
  box-shadow: inset 0 0 0 1px var(--camera);
  font: 11px/17px var(--font-mono);
  overflow: hidden;
  cursor: ew-resize;
  touch-action: none;
}
.use.selected {
  box-shadow: inset 0 0 0 2px var(--text);
}
.use.air {
  border-right: 4px solid var(--vermilion);
}
.told {
  position: absolute;
  right: 12px;
  top: 2px;
  z-index: 3;
  padding: 1px 7px;
  border-radius: 4px;
  background: var(--ink);
  font: 11px var(--font-mono);
}
</style>
