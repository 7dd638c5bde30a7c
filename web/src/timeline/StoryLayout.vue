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
import { useBlockDrag } from './useBlockDrag'

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
  camera: string // '' when something else stands for it
}
const uses = computed(() =>
  scene.cut.shots.flatMap((c): Use[] => {
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
const tall = 22 // px of a tier
const most = 4 // tiers of a row
/**
 * Uses in tiers, so that none lies over another; those that find no place are
 * counted. What is selected or on air always has one.
 */
function tiers(list: Use[]): { tiers: Use[][]; more: number } {
  const out: Use[][] = []
  const left: Use[] = []
  for (const u of list.toSorted((a, b) => a.in - b.in)) {
    const free = out.find((t) => t.at(-1)!.out <= u.in)
    if (free) free.push(u)
    else if (out.length < most) out.push([u])
    else left.push(u)
  }
  let more = left.length
  for (const u of left) {
    if (u.id !== head.airShot && !view.isSelected('shots', u.id)) continue
    const last = out[most - 1]!
    const away = last.filter((o) => o.in < u.out && u.in < o.out)
    out[most - 1] = [...last.filter((o) => !away.includes(o)), u]
    more += away.length - 1
  }
  return { tiers: out, more }
}
const rows = computed(() => {
  const by = new Map<string, Use[]>()
  for (const u of uses.value) {
    const list = by.get(u.camera)
    if (list) list.push(u)
    else by.set(u.camera, [u])
  }
  const row = (camera: (typeof scene.cameras)[number] | null, list: Use[]) => ({ camera, ...tiers(list) })
  const list = scene.cameras.filter((c) => by.has(c.id)).map((c) => row(c, by.get(c.id)!))
  const still = by.get('')
  return still ? [...list, row(null, still)] : list
})
/** Stretches of the story and how many shots show them. */
const counts = computed(() => {
  void scene.changes
  return core.uses()
})
function down(e: PointerEvent, u: Use) {
  if (!scene.doc.shots[u.id]) return
  view.select('shots', u.id)
  begin(e, (edge, by) => {
    const frames = Math.round(by / (u.speed || 1))
    return edge
      ? { name: 'shotTrim', args: { id: u.id, edge, by: frames, ripple: true } }
      : { name: 'shotSlip', args: { ids: [u.id], by: u.speed ? frames : by } }
  })
}
</script>
<template>
  <div class="strip-row used" data-label="used" role="img" :aria-label="`Story time used by the cut`">
    <i
      v-for="(c, i) in counts"
      :key="i"
      :style="{
        left: `${x(c.in)}px`,
        width: `${x(c.out) - x(c.in)}px`,
        opacity: 0.35 + 0.3 * Math.min(2, c.times - 1),
      }"
      :title="`${c.in}–${c.out - 1}: ${c.times === 1 ? 'once' : `${c.times} times`}`"
      ><b v-if="c.times > 1 && x(c.out) - x(c.in) > 30">{{ c.times }}×</b></i
    >
  </div>
  <div
    v-for="r in rows"
    :key="r.camera?.id ?? ''"
    class="strip-row uses"
    role="list"
    :style="{ height: `${r.tiers.length * tall}px` }"
    :aria-label="r.camera?.node.name ?? 'Boards and cards'"
  >
    <span class="camera"
      ><template v-if="r.camera"
        ><CameraBadge :number="r.camera.camera.number" :color="r.camera.camera.color" :size="16" />{{
          r.camera.node.name
        }}</template
      ><template v-else>boards, cards</template></span
    >
    <span v-if="r.more" class="more" :title="`${r.more} more shots show the same frames`">+{{ r.more }}</span>
    <template v-for="(tier, k) in r.tiers" :key="k">
      <div
        v-for="u in tier"
        :key="u.id"
        class="use"
        role="listitem"
        tabindex="0"
        :class="{ selected: view.isSelected('shots', u.id), air: head.airShot === u.id }"
        :style="{
          left: `${x(u.in)}px`,
          top: `${k * tall + 2}px`,
          width: `${Math.max(3, x(u.out) - x(u.in))}px`,
          '--camera': scene.colorOf(scene.shotOf(u.id)),
        }"
        :aria-label="`Shot ${u.number} shows story ${Math.round(u.in)} to ${Math.round(u.out - 1)}`"
        :title="`Shot ${u.number}: drag its edges to show more or less, its body to show another moment`"
        @pointerdown="down($event, u)"
        @dblclick="head.setScreen(u.screenIn)"
      >
        {{ u.number }}
      </div>
    </template>
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
.more {
  position: absolute;
  z-index: 2;
  right: 6px;
  bottom: 2px;
  color: var(--dim);
  font: 11px/18px var(--font-mono);
}
.use {
  position: absolute;
  height: 18px;
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
