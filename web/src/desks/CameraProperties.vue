<script setup lang="ts">
// A camera in the order in which a crew says it: support, position and aim,
// lens, focus; then the numbers.
import { computed } from 'vue'
import { core, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import NumberField from '@/ui/NumberField.vue'
import { useFrameTick } from '@/view3d/useFrameTick'

const props = defineProps<{ camera: string }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const { tick, stage } = useFrameTick()
const node = computed(() => scene.doc.nodes[props.camera])
const cam = computed(() => node.value?.camera)
const primes = [18, 21, 25, 29, 35, 40, 50, 65, 75, 100, 135]
const stops = [1.4, 2, 2.8, 4, 5.6, 8, 11]
const index = computed(() => (tick.value, stage.cameraIndex(props.camera)))
const now = computed(() => (tick.value, index.value >= 0 ? stage.state.camera(index.value) : null))
const at = computed<Vec3>(() => {
  void tick.value
  const m = index.value >= 0 ? stage.state.cameraMatrix(index.value) : null
  return m ? [m[12]!, m[13]!, m[14]!] : [0, 0, 0]
})
const subjects = computed(() =>
  Object.entries(scene.doc.nodes)
    .filter(([id, n]) => id !== props.camera && n.kind !== 'camera' && n.kind !== 'group' && n.kind !== 'lamp')
    .map(([id, n]) => ({
      id,
      name: n.name,
      first: n.kind === 'cast' || n.kind === 'aim' || n.kind === 'vehicle' || n.kind === 'prop',
    }))
    .sort((a, b) => Number(b.first) - Number(a.first) || a.name.localeCompare(b.name)),
)
const zone = computed(() =>
  now.value && cam.value
    ? core.sharpZone(now.value.focal, now.value.stop, now.value.focus, cam.value.sensor as [number, number])
    : null,
)
const keyed = (channel: string) =>
  Object.values(scene.doc.curves).some((c) => c.node === props.camera && c.channel === channel)
const pathLength = computed(() => {
  const p = node.value?.path ? scene.doc.paths[node.value.path] : undefined
  return p ? (core.path(p).length ?? 0) : 0
})
const travelCurve = computed(() =>
  Object.values(scene.doc.curves).find((c) => c.node === props.camera && c.channel === 'travel'),
)
const travelNow = computed(() =>
  travelCurve.value ? core.curve(travelCurve.value.keys, head.story, head.story + 1, 1)[0]! : 0,
)
/** Metres in a second between this frame and the next. */
const speed = computed(() => {
  if (!travelCurve.value) return 0
  const v = core.curve(travelCurve.value.keys, head.story, head.story + 1, 1)
  return Math.abs(v[1]! - v[0]!) * pathLength.value * scene.rate
})

function merge(camera: object, label: string, more: object = {}) {
  scene.run('set', {
    collection: 'nodes',
    id: props.camera,
    merge: { camera, ...more },
    label: `${label} of camera ${cam.value!.number}`,
  })
}
function value(channel: string, v: number, live = false, key = view.autoKey) {
  const args = { node: props.camera, channel, frame: head.story, value: v, key }
  if (live) scene.preview('value', args)
  else scene.run('value', args)
}
function place(field: 'position' | 'turn', i: number, v: number, live: boolean) {
  const n = node.value!
  const value =
    field === 'turn'
      ? ([now.value!.pan, now.value!.tilt, now.value!.roll] as Vec3)
      : n.path || n.parent
        ? ([...n.position] as Vec3)
        : ([...at.value] as Vec3)
  value[i] = +v.toFixed(4)
  const args = { id: props.camera, frame: head.story, key: view.autoKey, [field]: value }
  if (live) scene.preview('place', args)
  else scene.run('place', args)
}
const free = computed(() => cam.value?.aim === 'free')
function aim(how: string) {
  if (how === 'at') merge({ aim: 'at', aimAt: cam.value!.aimAt || subjects.value[0]?.id }, 'aim')
  else merge({ aim: how, aimAt: null }, 'aim')
}
function remove() {
  if (!scene.run('remove', { collection: 'nodes', ids: [props.camera] })) return
  if (view.through === props.camera) view.lookThrough('')
  view.select('nodes', '')
}
const shown = (v: number) => (v < 0 ? 'no end' : v > 99 ? `${v.toFixed(0)} m` : `${v.toFixed(2)} m`)
const supports = { sticks: 'Sticks', dolly: 'Dolly', mounted: 'Mounted' }
</script>
<template>
  <section v-if="node && cam && now" class="props" :style="{ '--camera': cam.color }">
    <header class="head">
      <CameraBadge :number="cam.number" :color="cam.color" :size="26" />
      <input
        class="rename"
        :value="node.name"
        aria-label="Camera name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="
          scene.run('set', {
            collection: 'nodes',
            id: camera,
            merge: { name: ($event.target as HTMLInputElement).value },
            label: 'rename camera',
          })
        "
      />
      <input
        type="color"
        aria-label="Camera colour"
        :value="cam.color"
        @change="merge({ color: ($event.target as HTMLInputElement).value }, 'colour')"
      />
    </header>
    <div class="body">
      <h3>Lens</h3>
      <div class="chips" role="group" aria-label="Prime lenses">
        <button
          v-for="p in primes"
          :key="p"
          :aria-pressed="Math.abs(now.focal - p) < 0.01"
          :aria-label="`${p} mm`"
          @click="value('lens.focal', p)"
        >
          {{ p }}
        </button>
      </div>
      <NumberField
        label="Focal length"
        unit="mm"
        :digits="1"
        :step="0.2"
        :value="now.focal"
        :keyed="keyed('lens.focal')"
        @drag="value('lens.focal', Math.max(4, $event), true)"
        @change="value('lens.focal', $event)"
      />
      <div class="chips" role="group" aria-label="Stops">
        <button
          v-for="s in stops"
          :key="s"
          :aria-pressed="Math.abs(now.stop - s) < 0.01"
          :aria-label="`Stop ${s}`"
          @click="value('lens.stop', s)"
        >
          {{ s }}
        </button>
      </div>
      <h3>Focus</h3>
      <el-select
        :model-value="cam.focusOn ?? ''"
        size="small"
        filterable
        aria-label="Focus on"
        :empty-values="[null, undefined]"
        @change="merge({ focusOn: $event || null }, 'focus')"
      >
        <el-option value="" label="by distance" />
        <el-option v-for="s in subjects" :key="s.id" :value="s.id" :label="`on ${s.name}`" />
      </el-select>
      <NumberField
        label="Distance"
        unit="m"
        :step="0.03"
        :value="now.focus"
        :keyed="keyed('lens.focus')"
        :disabled="!!cam.focusOn"
        @drag="value('lens.focus', Math.max(0.1, $event), true)"
        @change="value('lens.focus', $event)"
      />
      <p v-if="zone" class="dim note">Sharp from {{ shown(zone.near) }} to {{ shown(zone.far) }}</p>
      <h3>
        Support <span class="dim">{{ supports[cam.support] }}</span>
      </h3>
      <template v-if="node.path">
        <NumberField
          label="Travel"
          unit="m"
          :step="0.02"
          keyed
          :value="travelNow * pathLength"
          @drag="value('travel', $event / pathLength, true)"
          @change="value('travel', $event / pathLength)"
        />
        <p class="dim note">
          Path {{ pathLength.toFixed(2) }} m, here {{ speed.toFixed(2) }} m/s.
          <button class="link" @click="value('travel', travelNow, false, true)">Set a key here</button>
        </p>
        <button class="act wide" @click="scene.run('remove', { collection: 'paths', ids: [node.path] })">
          Remove the path
        </button>
      </template>
      <p v-else class="dim note">Draw a path on the plan to put this camera on a dolly.</p>
      <h3>Position</h3>
      <NumberField
        v-for="(a, i) in ['X', 'Height', 'Z']"
        :key="a"
        :label="a"
        unit="m"
        :value="node.path ? node.position[i]! : at[i]!"
        :keyed="keyed(['position.x', 'position.y', 'position.z'][i]!)"
        @drag="place('position', i, $event, true)"
        @change="place('position', i, $event, false)"
      />
      <h3>Aim</h3>
      <el-segmented
        :model-value="cam.aim"
        size="small"
        :options="[
          { value: 'free', label: 'free' },
          { value: 'along', label: 'along', disabled: !node.path },
          { value: 'at', label: 'at' },
        ]"
        aria-label="Aim"
        @change="aim(String($event))"
      />
      <template v-if="cam.aim === 'at'">
        <el-select
          :model-value="cam.aimAt ?? ''"
          size="small"
          filterable
          aria-label="Aim at"
          @change="merge({ aim: 'at', aimAt: $event }, 'aim')"
        >
          <el-option v-for="s in subjects" :key="s.id" :value="s.id" :label="s.name" />
        </el-select>
        <NumberField
          v-for="(a, i) in ['Right', 'Up']"
          :key="a"
          :label="`${a} in picture`"
          :value="cam.framing[i]!"
          :step="0.005"
          @change="
            merge(
              {
                framing: i
                  ? [cam.framing[0], Math.max(-1, Math.min(1, $event))]
                  : [Math.max(-1, Math.min(1, $event)), cam.framing[1]],
              },
              'framing',
            )
          "
        />
      </template>
      <template v-else>
        <NumberField
          label="Pan"
          unit="°"
          :digits="1"
          :step="0.2"
          :value="now.pan"
          :disabled="!free"
          :keyed="keyed('turn.pan')"
          @drag="place('turn', 0, $event, true)"
          @change="place('turn', 0, $event, false)"
        />
        <NumberField
          label="Tilt"
          unit="°"
          :digits="1"
          :step="0.2"
          :value="now.tilt"
          :disabled="!free"
          :keyed="keyed('turn.tilt')"
          @drag="place('turn', 1, $event, true)"
          @change="place('turn', 1, $event, false)"
        />
      </template>
      <NumberField
        label="Roll"
        unit="°"
        :digits="1"
        :step="0.2"
        :value="now.roll"
        :keyed="keyed('turn.roll')"
        @drag="value('turn.roll', $event, true)"
        @change="value('turn.roll', $event)"
      />
      <h3>Numbers</h3>
      <dl class="figures">
        <dt>Height above zero</dt>
        <dd>{{ at[1].toFixed(2) }} m</dd>
        <dt>Field of view</dt>
        <dd>{{ now.hfov.toFixed(1) }}° × {{ now.vfov.toFixed(1) }}°</dd>
        <dt>Gate</dt>
        <dd>{{ now.gateWidth.toFixed(2) }} × {{ now.gateHeight.toFixed(2) }} mm</dd>
      </dl>
      <button class="act wide" @click="remove">Remove camera</button>
    </div>
  </section>
  <div v-else class="empty">
    <p>No camera is selected.</p>
    <p class="dim">Press one on the wall to look through it, or leave one from the scout view.</p>
  </div>
</template>
<style scoped>
.chips {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(29px, 1fr));
  gap: 3px;
  margin-bottom: 4px;
}
.chips button {
  height: 24px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 11px var(--font-mono);
  cursor: pointer;
}
.chips button[aria-pressed='true'] {
  border-color: var(--brass);
  background: var(--brass);
  color: var(--ink);
}
.note {
  margin: 4px 0;
  font-size: 12px;
}
.wide {
  width: 100%;
  justify-content: center;
  margin-top: 6px;
}
</style>
