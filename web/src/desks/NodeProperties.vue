<script setup lang="ts">
// The selection's place, size and build.
import { computed } from 'vue'
import { alone, core, type Cast, type Merge, type Node, type Operations } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import ArrangeProperties from './dress/ArrangeProperties.vue'
import MarkProperties from './dress/MarkProperties.vue'
import ScreenPart from './dress/ScreenPart.vue'
import TravelProperties from './dress/TravelProperties.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const node = computed(() => scene.doc.nodes[view.node])
const { pieces: shelf, builds, hairStyles, skin, opens: doors } = core.stock()
/** Colours of a figure, with those that nobody has chosen. */
const colours = computed(() => {
  const c = node.value?.cast
  const build = builds.find((b) => b.name === (c?.build || 'average'))
  return [
    ['coat', 'Coat', c?.coat],
    ['legs', 'Legs', c?.legs],
    ['hair', 'Hair', c?.hair || build?.hair],
    ['skin', 'Skin', c?.skin || skin],
  ] as const
})
const valueOf = (e: Event) => (e.target as HTMLInputElement | HTMLSelectElement).value
const stock = computed(() => shelf.find((s) => s.id === node.value?.piece?.stock))
const axes = ['X', 'Y', 'Z'] as const
const turns = ['Pan', 'Tilt', 'Roll'] as const

function put(field: 'position' | 'turn', i: number, v: number, live: boolean) {
  // The other axes stay as they are: they may have keys.
  const value = alone(i, v)
  const args: Operations['place'] = { id: view.node, frame: head.story, key: view.autoKey, [field]: value }
  if (live) scene.preview('place', args)
  else scene.run('place', args)
}
function set(merge: Merge<Node>, label: string, live = false) {
  const args = { collection: 'nodes', id: view.node, merge, label } as const
  if (live) scene.preview('set', args)
  else scene.run('set', args)
}
const param = (name: string) => node.value?.piece?.params?.[name]
/** How it is opened, if it has a door or lid. */
const opens = computed(() => stock.value && doors[stock.value.id])
/** How far it is open at the frame, where that is keyed. */
const swings = computed(() => {
  const c = Object.values(scene.doc.curves).find((c) => c.node === view.node && c.channel === 'piece.swing')
  return c && core.curve(c.keys, head.story, head.story + 1, 1)[0]
})
function build(name: string, v: number, live: boolean) {
  if (name === opens.value?.param) return swing(+v.toFixed(2), live)
  set({ piece: { params: { [name]: +v.toFixed(3) } } }, `change ${name} of ${node.value!.name}`, live)
}
function swing(value: number, live = false, key = view.autoKey) {
  const args = { node: view.node, channel: 'piece.swing', frame: Math.round(head.story), value, key }
  if (live) scene.preview('value', args)
  else scene.run('value', args)
}
function keyLamp(channel: string, v: number) {
  scene.run('value', { node: view.node, channel, frame: Math.round(head.story), value: v, key: true })
}
function keyColor(color: string) {
  scene.run('colorKey', { node: view.node, frame: Math.round(head.story), color })
}
/** Lets it ride, on the nearest person or vehicle to begin with. */
function ride() {
  const other = Object.entries(scene.doc.nodes).find(([id, n]) => id !== view.node && (n.kind === 'vehicle' || n.cast))
  if (!other) return
  const start = Math.round(head.story)
  const args = {
    cast: view.node,
    do: 'ride' as const,
    on: other[0],
    in: start,
    out: start + Math.round(2 * scene.rate),
  }
  const [made] = scene.make('actions', 'actionAdd', args)
  if (made) view.select('actions', made)
}
function remove() {
  if (scene.run('remove', { collection: 'nodes', ids: [view.node] })) view.select('nodes', '')
}
</script>
<template>
  <section v-if="node" class="props">
    <header class="head">
      <input
        v-typed
        class="rename"
        :value="node.name"
        aria-label="Name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="set({ name: ($event.target as HTMLInputElement).value }, 'rename')"
      />
      <span class="kind">{{ stock?.title ?? node.kind }}</span>
    </header>
    <div class="body">
      <h3>Place</h3>
      <div class="three">
        <NumberField
          v-for="(a, i) in axes"
          :key="a"
          :label="a"
          unit="m"
          :value="node.position[i]!"
          @drag="put('position', i, $event, true)"
          @cancel="scene.cancel()"
          @change="put('position', i, $event, false)"
        />
      </div>
      <h3>Turn</h3>
      <div class="three">
        <NumberField
          v-for="(a, i) in turns"
          :key="a"
          :label="a"
          unit="°"
          :digits="1"
          :step="0.5"
          :value="node.turn[i]!"
          @drag="put('turn', i, $event, true)"
          @cancel="scene.cancel()"
          @change="put('turn', i, $event, false)"
        />
      </div>
      <NumberField
        v-if="!node.cast && !node.lamp && node.kind !== 'aim'"
        label="Scale"
        :value="node.scale || 1"
        @change="set({ scale: Math.max(0.001, Math.min(1000, $event)) }, `scale ${node.name}`)"
      />
      <ScreenPart v-if="stock?.id === 'screen'" :key="view.node" :node="view.node" />
      <template v-if="stock?.params.length">
        <h3>Build</h3>
        <NumberField
          v-for="p in stock.params"
          :key="p.name"
          :label="p.title"
          :unit="p.unit"
          :digits="p.unit ? 2 : 0"
          :step="p.unit ? 0.02 : 0.1"
          :value="(p.name === opens?.param ? swings : undefined) ?? param(p.name) ?? p.default"
          @drag="build(p.name, $event, true)"
          @cancel="scene.cancel()"
          @change="build(p.name, $event, false)"
        />
        <div v-if="opens" class="row">
          <button class="act" title="A key at this frame: it is closed here" @click="swing(0, false, true)">
            Closed here
          </button>
          <button class="act" title="A key at this frame: it is open here" @click="swing(opens.wide, false, true)">
            Open here
          </button>
        </div>
      </template>
      <template v-if="node.piece">
        <h3>Colour</h3>
        <input
          type="color"
          aria-label="Colour"
          :value="node.piece.color || stock?.color || '#888888'"
          @change="set({ piece: { color: ($event.target as HTMLInputElement).value } }, `colour ${node.name}`)"
        />
      </template>
      <template v-if="node.cast">
        <h3>Figure</h3>
        <NumberField
          label="Height"
          unit="m"
          :value="node.cast.height"
          @change="set({ cast: { height: $event } }, `height of ${node.name}`)"
        />
        <div class="swatches">
          <label v-for="[part, title, color] in colours" :key="part"
            >{{ title }}
            <input
              type="color"
              :value="color"
              @change="set({ cast: { [part]: valueOf($event) } }, `${title.toLowerCase()} of ${node.name}`)"
          /></label>
        </div>
        <label class="pick"
          >Build
          <select
            :value="node.cast.build ?? 'average'"
            aria-label="Build"
            @change="set({ cast: { build: valueOf($event) as Cast['build'] } }, `build of ${node.name}`)"
          >
            <option v-for="b in builds" :key="b.name" :value="b.name">{{ b.name }}</option>
          </select></label
        >
        <label class="pick"
          >Hair
          <select
            :value="node.cast.hairStyle ?? 'short'"
            aria-label="Hair style"
            @change="set({ cast: { hairStyle: valueOf($event) as Cast['hairStyle'] } }, `hair of ${node.name}`)"
          >
            <option v-for="h in hairStyles" :key="h" :value="h">{{ h }}</option>
          </select></label
        >
      </template>
      <template v-if="node.lamp">
        <h3>Lamp</h3>
        <NumberField
          label="Strength"
          :value="node.lamp.strength"
          :digits="1"
          @drag="set({ lamp: { strength: Math.max(0, $event) } }, 'lamp strength', true)"
          @cancel="scene.cancel()"
          @change="set({ lamp: { strength: $event } }, `strength of ${node.name}`)"
        />
        <NumberField
          label="Reach"
          unit="m"
          :value="node.lamp.reach"
          :digits="1"
          @change="set({ lamp: { reach: Math.max(0.01, $event) } }, `reach of ${node.name}`)"
        />
        <NumberField
          label="Cone"
          unit="°"
          :value="node.lamp.spot ?? 0"
          :digits="0"
          :step="1"
          @drag="set({ lamp: { spot: Math.max(0, Math.min(179, $event)) } }, '', true)"
          @cancel="scene.cancel()"
          @change="set({ lamp: { spot: Math.max(0, Math.min(179, $event)) || null } }, `cone of ${node.name}`)"
        />
        <NumberField
          v-if="node.lamp.spot"
          label="Soft edge"
          :value="node.lamp.soft ?? 0"
          @change="set({ lamp: { soft: Math.max(0, Math.min(1, $event)) } }, `edge of ${node.name}`)"
        />
        <div class="row">
          <input
            type="color"
            aria-label="Colour of the light"
            :value="node.lamp.color"
            @change="set({ lamp: { color: ($event.target as HTMLInputElement).value } }, `colour of ${node.name}`)"
          />
          <button class="act" @click="keyLamp('lamp.strength', node.lamp.strength)">Key its strength</button>
          <button class="act" title="Set a key of its colour here" @click="keyColor(node.lamp.color)">
            Key its colour
          </button>
        </div>
      </template>
      <TravelProperties v-if="!node.cast && node.kind !== 'group'" :node="view.node" />
      <template v-if="node.cast || node.kind === 'prop' || node.kind === 'vehicle'">
        <h3>Carried</h3>
        <div class="row">
          <button class="act" title="Let it ride on something for two seconds from here" @click="ride">
            Rides on…
          </button>
        </div>
      </template>
      <ArrangeProperties :nodes="[view.node]" />
      <MarkProperties :nodes="[view.node]" />
      <div class="row"><button class="act" @click="remove">Remove</button></div>
    </div>
  </section>
</template>
<style scoped>
.three {
  display: grid;
  gap: 4px;
}
.swatches {
  display: flex;
  gap: 16px;
  margin-top: 6px;
  color: var(--dim);
  font-size: 12px;
}
</style>
