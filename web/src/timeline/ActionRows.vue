<script setup lang="ts">
// A row for each cast member with what they do and say, and for each vehicle or
// prop that travels or rides. Blocks are moved and trimmed by dragging.
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { deedWords } from '@/ui/words'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useBlockDrag, type Edge } from './useBlockDrag'
import { useStarting } from '@/stores/starting'

const starting = useStarting()

const props = defineProps<{ x: (frame: number) => number; perPixel: number }>()
const scene = useScene()
const view = useView()
const { gestures } = core.stock()
const drag = useBlockDrag(() => props.perPixel)

interface Block {
  id: string
  title: string
  hint: string
  in: number
  out: number
  do: string
  small: boolean
}
interface Row {
  id: string
  name: string
  color: string
  blocks: Block[]
  travel?: { in: number; out: number }
  lines: { id: string; text: string; in: number; out: number }[]
}
const rows = computed<Row[]>(() => {
  const of = new Map<string, Row>()
  const nodes = scene.doc.nodes
  const row = (id: string): Row | undefined => {
    const n = nodes[id]
    if (!n) return undefined
    let r = of.get(id)
    if (!r) {
      r = { id, name: n.name, color: n.tint ?? n.cast?.coat ?? n.piece?.color ?? '#8fb3c9', blocks: [], lines: [] }
      of.set(id, r)
    }
    return r
  }
  for (const [id, n] of Object.entries(nodes)) if (n.cast) row(id)
  for (const [id, a] of Object.entries(scene.doc.actions)) {
    const to = nodes[a.on ?? a.with ?? a.face ?? '']?.name
    const title = deedWords[a.do] ?? a.do
    row(a.cast)?.blocks.push({
      id,
      title: to && gestures.includes(a.do) ? `${title} ${to}` : title,
      hint: `${title}${to ? `, ${to}` : ''}: frames ${a.in} to ${a.out - 1}`,
      in: a.in,
      out: a.out,
      do: a.do,
      small: gestures.includes(a.do),
    })
  }
  for (const c of Object.values(scene.doc.curves)) {
    const n = nodes[c.node]
    if (c.channel !== 'travel' || !n || n.camera || c.keys.length < 2) continue
    const r = row(c.node)
    if (r) r.travel = { in: c.keys[0]!.frame, out: c.keys.at(-1)!.frame }
  }
  for (const [id, l] of Object.entries(scene.doc.lines))
    row(l.cast)?.lines.push({ id, text: l.text, in: l.in, out: l.out })
  const rank = (r: Row) => (nodes[r.id]?.cast ? 0 : 1)
  return [...of.values()].sort((a, b) => rank(a) - rank(b) || a.name.localeCompare(b.name))
})
const box = (b: { in: number; out: number }) => ({
  left: `${props.x(b.in)}px`,
  width: `${props.x(b.out) - props.x(b.in) - 1}px`,
})
function grabAction(e: PointerEvent, id: string) {
  view.select('actions', id)
  drag.begin(e, (edge, by) => ({ name: 'actionTime', args: { ids: [id], edge, by } }))
}
function grabLine(e: PointerEvent, id: string) {
  view.select('lines', id)
  const l = scene.doc.lines[id]!
  const [from, to] = [l.in, l.out]
  drag.begin(e, (edge: Edge, by) => {
    const merge = {
      in: edge === 'out' ? from : Math.min(from + by, to - (edge ? 1 : -1e9)),
      out: edge === 'in' ? to : Math.max(to + by, from + (edge ? 1 : -1e9)),
    }
    return { name: 'set', args: { collection: 'lines', id, merge, label: edge ? 'trim a line' : 'move a line' } }
  })
}
function grabTravel(e: PointerEvent, node: string) {
  view.select('nodes', node)
  const keys = Object.values(scene.doc.curves).find((c) => c.node === node && c.channel === 'travel')!.keys
  const frames = keys.map((k) => k.frame)
  drag.begin(e, (edge, by) => {
    const those = edge === 'in' ? frames.slice(0, 1) : edge === 'out' ? frames.slice(-1) : frames
    return { name: 'keyMove', args: { node, channel: 'travel', frames: those, by } }
  })
}
</script>
<template>
  <div
    v-for="r in rows"
    :key="r.id"
    class="strip-row deeds"
    :class="{ chosen: view.isSelected('nodes', r.id), thing: !scene.doc.nodes[r.id]?.cast }"
    :data-label="r.name"
    @click.self="view.select('nodes', r.id)"
  >
    <button
      v-if="r.travel"
      class="block travel"
      :style="{ ...box(r.travel), '--coat': r.color }"
      :aria-label="`${r.name} travels`"
      :title="`${r.name} travels along its path: frames ${r.travel.in} to ${r.travel.out}`"
      @pointerdown="grabTravel($event, r.id)"
    >
      travels
    </button>
    <button
      v-for="b in r.blocks"
      :key="b.id"
      class="block"
      :class="[b.do, { gesture: b.small, selected: view.isSelected('actions', b.id) }]"
      :style="{ ...box(b), '--coat': r.color }"
      :aria-label="`${r.name}: ${b.title}, from ${b.in}`"
      :title="b.hint"
      @pointerdown="grabAction($event, b.id)"
    >
      {{ b.title }}
    </button>
    <button
      v-for="l in r.lines"
      :key="l.id"
      class="line"
      :class="{ selected: view.isSelected('lines', l.id) }"
      :style="box(l)"
      :aria-label="`${r.name} says: ${l.text}`"
      :title="`${r.name}: ${l.text}`"
      @pointerdown="grabLine($event, l.id)"
    >
      {{ l.text }}
    </button>
  </div>
  <div v-if="!rows.length" class="strip-row dim none">
    Nobody is in the scene yet. Drag a person from the stock onto the plan, or
    <button class="link" @click="starting.person()">put one in the middle</button>.
  </div>
  <div v-if="drag.told.value" class="by">{{ drag.told.value }}</div>
</template>
<style scoped>
.strip-row.deeds {
  height: 44px;
}
.strip-row.thing {
  height: 24px;
}
.deeds.chosen {
  background: rgb(239 233 220 / 0.045);
}
.block,
.line {
  position: absolute;
  padding: 0 5px;
  overflow: hidden;
  border: 0;
  border-radius: 4px;
  color: var(--text);
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: grab;
}
.block {
  top: 1px;
  height: 15px;
  background: color-mix(in srgb, var(--coat) 46%, var(--raised));
  font: 11px/15px var(--font-condensed);
}
.block.stand,
.block.idle,
.block.ride {
  background: color-mix(in srgb, var(--coat) 18%, var(--raised));
  color: var(--dim);
}
.block.gesture {
  top: 17px;
  height: 13px;
  border-left: 2px solid var(--coat);
  background: color-mix(in srgb, var(--coat) 26%, var(--ink));
  font: 10.5px/13px var(--font-condensed);
}
.block.travel {
  background: repeating-linear-gradient(
    115deg,
    color-mix(in srgb, var(--coat) 40%, var(--raised)) 0 9px,
    color-mix(in srgb, var(--coat) 30%, var(--raised)) 9px 18px
  );
}
.block.selected,
.line.selected {
  outline: 1.5px solid var(--text);
  outline-offset: -1px;
}
.line {
  bottom: 1px;
  height: 12px;
  border-left: 2px solid var(--brass);
  border-radius: 2px;
  background: rgb(17 24 27 / 0.6);
  font: 10px/12px var(--font-condensed);
}
.by {
  position: sticky;
  bottom: 2px;
  left: 50%;
  width: max-content;
  padding: 1px 8px;
  border-radius: 4px;
  background: var(--ink);
  font: 11px var(--font-mono);
  pointer-events: none;
}
.none {
  padding-left: 10px;
  font-size: 12px;
  line-height: 24px;
}
</style>
