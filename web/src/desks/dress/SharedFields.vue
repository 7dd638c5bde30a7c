<script setup lang="ts">
// What one thing is like, or what several have in common: place, turn, scale, build, colours,
// figure, lamp, lens. What is changed is changed for all of them, in one step.
import { computed } from 'vue'
import { alone, core, type Cast, type Merge, type Node } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import KeyedColour from './KeyedColour.vue'

const props = defineProps<{ nodes: string[] }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const { pieces: shelf, builds, hairStyles, skin, opens } = core.stock()
const all = computed(() => props.nodes.flatMap((id) => (scene.doc.nodes[id] ? [{ id, n: scene.doc.nodes[id] }] : [])))
const every = (has: (n: Node) => unknown) => all.value.length > 0 && all.value.every(({ n }) => has(n))
const what = computed(() => (all.value.length === 1 ? all.value[0]!.n.name : `${all.value.length} things`))
const first = computed(() => all.value[0]?.n)

/** A figure that all of them have: what it is for each, and how each takes another. */
interface Figure {
  label: string
  unit?: string
  digits?: number
  step?: number
  of: (n: Node, id: string) => number
  put: (values: Record<string, number>, live: boolean) => void
}
const each = <T,>(values: Record<string, number>, to: (v: number) => T) =>
  Object.fromEntries(Object.entries(values).map(([id, v]) => [id, to(v)]))
/** Merges into each what its value makes. */
const merging =
  (to: (v: number) => Merge<Node>, name: string): Figure['put'] =>
  (values, live) => {
    const args = { collection: 'nodes', merges: each(values, to), label: `${name} of ${what.value}` } as const
    if (live) scene.preview('setEach', args)
    else scene.run('setEach', args)
  }
/** Gives each a value of a channel, which may have keys. */
const giving =
  (channel: string, key?: boolean): Figure['put'] =>
  (values, live) => {
    const args = { channel, values, frame: Math.round(head.story), key: key ?? view.autoKey }
    if (live) scene.preview('valueEach', args)
    else scene.run('valueEach', args)
  }
// The other axes stay as they are: they may have keys.
const placing =
  (field: 'position' | 'turn', axis: number): Figure['put'] =>
  (values, live) => {
    const args = { places: each(values, (v) => ({ [field]: alone(axis, v) })), frame: head.story, key: view.autoKey }
    if (live) scene.preview('placeEach', args)
    else scene.run('placeEach', args)
  }
const place = ['X', 'Y', 'Z'].map((label, i): Figure => {
  return { label, unit: 'm', of: (n) => n.position[i]!, put: placing('position', i) }
})
const turn = ['Pan', 'Tilt', 'Roll'].map((label, i): Figure => {
  return { label, unit: '°', digits: 1, step: 0.5, of: (n) => n.turn[i]!, put: placing('turn', i) }
})
const scale: Figure = {
  label: 'Scale',
  of: (n) => n.scale || 1,
  put: merging((v) => ({ scale: Math.max(0.001, Math.min(1000, v)) }), 'scale'),
}

const stockOf = (n: Node) => shelf.find((s) => s.id === n.piece?.stock)
/** How all of them are opened, if each has a door or lid. */
const opening = computed(() => every((n) => n.piece && opens[n.piece.stock]))
const isOpening = (n: Node, param: string) => opens[n.piece!.stock]?.param === param
const valueOf = (n: Node, param: string) =>
  n.piece!.params?.[param] ?? stockOf(n)?.params.find((p) => p.name === param)?.default ?? 0
const opened = computed(
  () =>
    new Map(Object.values(scene.doc.curves).flatMap((c) => (c.channel === 'piece.swing' ? [[c.node, c.keys]] : []))),
)
/** How far a thing is open at the frame, where that is keyed. */
function swings(id: string) {
  const keys = opened.value.get(id)
  return keys && core.curve(keys, head.story, head.story + 1, 1)[0]
}
/** The parameters by which all of them are built. */
const build = computed((): Figure[] => {
  if (!every(stockOf)) return []
  const [one, ...others] = all.value.map(({ n }) => stockOf(n)!)
  return one!.params
    .filter((p) => others.every((s) => s.params.some((q) => q.name === p.name && q.title === p.title)))
    .map((p) => {
      const open = every((n) => isOpening(n, p.name))
      return {
        label: p.title,
        unit: p.unit,
        digits: p.unit ? 2 : 0,
        step: p.unit ? 0.02 : 0.1,
        of: (n, id) => (open ? swings(id) : undefined) ?? valueOf(n, p.name),
        put: open
          ? giving('piece.swing')
          : merging((v) => ({ piece: { params: { [p.name]: +v.toFixed(3) } } }), `change ${p.name}`),
      }
    })
})
/** Keys at this frame: all are closed, or open wide. */
function openHere(wide: boolean) {
  const values = all.value.map(({ id, n }) => [id, wide ? opens[n.piece!.stock]!.wide : 0])
  giving('piece.swing', true)(Object.fromEntries(values), false)
}
const height: Figure = {
  label: 'Height',
  unit: 'm',
  of: (n) => n.cast!.height,
  put: merging((v) => ({ cast: { height: v } }), 'height'),
}
const lamp = computed((): Figure[] => {
  const bounded = (v: number, most: number) => Math.max(0, Math.min(most, v))
  return [
    {
      label: 'Strength',
      digits: 1,
      of: (n) => n.lamp!.strength,
      put: merging((v) => ({ lamp: { strength: Math.max(0, v) } }), 'strength'),
    },
    {
      label: 'Reach',
      unit: 'm',
      digits: 1,
      of: (n) => n.lamp!.reach,
      put: merging((v) => ({ lamp: { reach: Math.max(0.01, v) } }), 'reach'),
    },
    {
      label: 'Cone',
      unit: '°',
      digits: 0,
      step: 1,
      of: (n) => n.lamp!.spot ?? 0,
      put: merging((v) => ({ lamp: { spot: bounded(v, 179) || null } }), 'cone'),
    },
    ...(every((n) => n.lamp!.spot)
      ? [
          {
            label: 'Soft edge',
            of: (n: Node) => n.lamp!.soft ?? 0,
            put: merging((v) => ({ lamp: { soft: bounded(v, 1) } }), 'edge'),
          },
        ]
      : []),
  ]
})
const lens: Figure[] = [
  { label: 'Focal length', unit: 'mm', digits: 1, step: 0.2, of: (n) => n.camera!.focal, put: giving('lens.focal') },
  { label: 'Stop', digits: 1, of: (n) => n.camera!.stop, put: giving('lens.stop') },
  { label: 'Focus', unit: 'm', of: (n) => n.camera!.focus, put: giving('lens.focus') },
]
/** Figures under headings, as far as all of the things have them. */
const groups = computed(() =>
  [
    { heading: 'Place', figures: place },
    { heading: 'Turn', figures: turn },
    ...(every((n) => !n.cast && !n.lamp && !n.camera && n.kind !== 'aim') ? [{ heading: '', figures: [scale] }] : []),
    { heading: 'Build', figures: build.value },
    { heading: 'Figure', figures: every((n) => n.cast) ? [height] : [] },
    { heading: 'Lamp', figures: every((n) => n.lamp) ? lamp.value : [] },
    { heading: 'Lens', figures: every((n) => n.camera) ? lens : [] },
  ]
    .filter((g) => g.figures.length)
    .map((g) => ({ ...g, figures: g.figures.map((f) => ({ f, values: all.value.map(({ id, n }) => f.of(n, id)) })) })),
)
function put(f: Figure, values: number[], live: boolean) {
  f.put(Object.fromEntries(all.value.map(({ id }, i) => [id, values[i]!])), live)
}

/** A colour or a choice that all of them have. */
const set = (merge: Merge<Node>, name: string) =>
  scene.run('setMany', { collection: 'nodes', ids: props.nodes, merge, label: `${name} of ${what.value}` })
const picked = (e: Event) => (e.target as HTMLInputElement | HTMLSelectElement).value
/** Colours of a figure, with those that nobody has chosen. */
const colours = computed(() => {
  const c = first.value!.cast
  const build = builds.find((b) => b.name === (c?.build || 'average'))
  return [
    ['coat', 'Coat', c?.coat],
    ['legs', 'Legs', c?.legs],
    ['hair', 'Hair', c?.hair || build?.hair],
    ['skin', 'Skin', c?.skin || skin],
  ] as const
})
function castShadows(box: HTMLInputElement) {
  set({ lamp: { shadow: box.checked || null } }, 'shadows')
  box.checked = every((n) => n.lamp!.shadow) // there may be too many
}
const strengths = () => Object.fromEntries(all.value.map(({ id, n }) => [id, n.lamp!.strength]))
/** What all of them have in common of a choice, or nothing. */
const common = (of: (c: Cast) => string) => {
  const have = new Set(all.value.map(({ n }) => of(n.cast!)))
  return have.size === 1 ? [...have][0] : ''
}
</script>
<template>
  <template v-if="first">
    <template v-for="g in groups" :key="g.heading">
      <h3 v-if="g.heading">{{ g.heading }}</h3>
      <div class="figures-of">
        <NumberField
          v-for="{ f, values } in g.figures"
          :key="f.label"
          :label="f.label"
          :unit="f.unit"
          :digits="f.digits"
          :step="f.step"
          :value="values[0]!"
          :values="values"
          @each="(to, live) => put(f, to, live)"
          @cancel="scene.cancel()"
        />
      </div>
      <div v-if="g.heading === 'Build' && opening" class="row">
        <button class="act" title="A key at this frame: it is closed here" @click="openHere(false)">Closed here</button>
        <button class="act" title="A key at this frame: it is open here" @click="openHere(true)">Open here</button>
      </div>
      <template v-if="g.heading === 'Figure'">
        <div class="swatches">
          <label v-for="[part, title, color] in colours" :key="part"
            >{{ title }}
            <input type="color" :value="color" @change="set({ cast: { [part]: picked($event) } }, title.toLowerCase())"
          /></label>
        </div>
        <label class="pick"
          >Build
          <select
            :value="common((c) => c.build ?? 'average')"
            aria-label="Build"
            @change="set({ cast: { build: picked($event) as Cast['build'] } }, 'build')"
          >
            <option v-for="b in builds" :key="b.name" :value="b.name">{{ b.name }}</option>
          </select></label
        >
        <label class="pick"
          >Hair
          <select
            :value="common((c) => c.hairStyle ?? 'short')"
            aria-label="Hair style"
            @change="set({ cast: { hairStyle: picked($event) as Cast['hairStyle'] } }, 'hair')"
          >
            <option v-for="h in hairStyles" :key="h" :value="h">{{ h }}</option>
          </select></label
        >
      </template>
      <KeyedColour
        v-if="g.heading === 'Lamp'"
        label="Colour of the light"
        :nodes="nodes"
        :still="first.lamp!.color"
        keys="Key its colour"
        @set="set({ lamp: { color: $event } }, 'colour')"
      >
        <button class="act" @click="giving('lamp.strength', true)(strengths(), false)">Key its strength</button>
      </KeyedColour>
      <label v-if="g.heading === 'Lamp'" class="check">
        <input
          type="checkbox"
          :checked="every((n) => n.lamp!.shadow)"
          :indeterminate="!every((n) => n.lamp!.shadow) && !every((n) => !n.lamp!.shadow)"
          @change="castShadows($event.target as HTMLInputElement)"
        />
        Casts shadows
      </label>
    </template>
    <template v-if="every((n) => n.piece && !n.screen)">
      <h3>Colour</h3>
      <KeyedColour
        label="Colour"
        :nodes="nodes"
        :still="first.piece!.color || stockOf(first)?.color || '#888888'"
        keys="Key its colour"
        @set="set({ piece: { color: $event } }, 'colour')"
      />
    </template>
  </template>
</template>
<style scoped>
.swatches {
  display: flex;
  gap: 16px;
  margin-top: 6px;
  color: var(--dim);
  font-size: 12px;
}
</style>
