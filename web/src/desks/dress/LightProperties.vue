<script setup lang="ts">
// The light and the air of the whole scene.
import { KeyRound } from '@lucide/vue'
import { computed } from 'vue'
import { core, type Merge, type Settings } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import DifferFields from '@/ui/DifferFields.vue'
import KeyedColour from './KeyedColour.vue'
import LightFields from '@/ui/LightFields.vue'
import NumberField from '@/ui/NumberField.vue'

const scene = useScene()
const head = usePlayhead()
const s = computed(() => scene.doc.settings)
const clock = computed(() => s.value?.sun.clock)
const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
/** The middle day of each month. */
const days = [15, 46, 74, 105, 135, 166, 196, 227, 258, 288, 319, 349]
const month = computed(() => {
  const d = clock.value?.day ?? 1
  return days.reduce((best, x, i) => (Math.abs(x - d) < Math.abs(days[best]! - d) ? i : best), 0)
})
const stands = computed(() => (clock.value ? core.sunAt(clock.value) : null))

type Part = 'sun' | 'sky' | 'haze'
const set = <P extends Part>(part: P, merge: Merge<Settings>[P], label: string, live = false) =>
  change({ [part]: merge } as Merge<Settings>, label, live)
function change(merge: Merge<Settings>, label: string, live = false) {
  const args = { collection: 'settings', id: 'settings', merge, label } as const
  if (live) scene.preview('set', args)
  else scene.run('set', args)
}
/** The time of day as one slider: sun, sky and their colours follow it. */
function hour(v: number, live: boolean) {
  const now = clock.value ?? { latitude: 46, day: 258, hour: 17 }
  set('sun', { clock: { ...now, hour: v, light: true } }, 'set the time of day', live)
}
function follow() {
  if (clock.value)
    set('sun', { clock: null, heading: stands.value![0], height: stands.value![1] }, 'let the sun stand still')
  else set('sun', { clock: { latitude: 46, day: 258, hour: 17, light: true } }, 'let the sun follow a clock')
}
const curve = (channel: string) =>
  Object.values(scene.doc.curves).find((c) => c.node === 'settings' && c.channel === channel)
const now = (channel: string, still: number) => {
  const c = curve(channel)
  return c ? core.curve(c.keys, head.story, head.story + 1, 1)[0]! : still
}
function value(channel: string, v: number, live: boolean) {
  const args = { node: 'settings', channel, frame: Math.round(head.story), value: v, key: !!curve(channel) }
  if (live) scene.preview('value', args)
  else scene.run('value', args)
}
function key(channel: string, still: number) {
  scene.run('value', {
    node: 'settings',
    channel,
    frame: Math.round(head.story),
    value: now(channel, still),
    key: true,
  })
}
const clockText = (h: number) =>
  `${String(Math.floor(h)).padStart(2, '0')}:${String(Math.floor((h % 1) * 60)).padStart(2, '0')}`
const colors = computed(() => {
  const v = s.value as Settings
  return [
    { part: 'sky' as Part, field: 'zenith', title: 'Sky above', value: v.sky.zenith },
    { part: 'sky' as Part, field: 'horizon', title: 'Horizon', value: v.sky.horizon },
    { part: 'sky' as Part, field: 'ground', title: 'Ground', value: v.sky.ground },
  ]
})
const sliders = computed(() => [
  { channel: 'sun.strength', title: 'Sun strength', unit: '', still: s.value.sun.strength },
  { channel: 'sky.strength', title: 'Sky strength', unit: '', still: s.value.sky.strength },
  { channel: 'haze.distance', title: 'Haze distance', unit: 'm', still: s.value.haze.distance },
])
</script>
<template>
  <section v-if="s?.sun" class="props" aria-label="Light and air">
    <header class="head">Light and air <span class="kind">nothing is selected</span></header>
    <div class="body">
      <DifferFields collection="settings" id="settings" />
      <h3>Time of day</h3>
      <label class="day">
        <input
          type="range"
          min="0"
          max="24"
          step="0.1"
          aria-label="Time of day"
          :value="now('sun.hour', clock?.hour ?? 12)"
          @input="hour(+($event.target as HTMLInputElement).value, true)"
          @change="hour(+($event.target as HTMLInputElement).value, false)"
        /><output>{{ clock ? clockText(now('sun.hour', clock.hour)) : 'by hand' }}</output>
      </label>
      <label class="check"><input type="checkbox" :checked="!!clock" @change="follow" /> Sun follows the clock</label>
      <template v-if="clock">
        <label class="pick"
          >Month
          <select
            :value="month"
            aria-label="Month"
            @change="set('sun', { clock: { day: days[+($event.target as HTMLSelectElement).value] } }, 'set the month')"
          >
            <option v-for="(m, i) in months" :key="m" :value="i">{{ m }}</option>
          </select></label
        >
        <NumberField
          label="Latitude"
          unit="°"
          :digits="1"
          :step="0.5"
          :value="clock.latitude"
          @change="set('sun', { clock: { latitude: Math.max(-90, Math.min(90, $event)) } }, 'set the latitude')"
        />
        <label class="check"
          ><input
            type="checkbox"
            :checked="!!clock.light"
            @change="set('sun', { clock: { light: clock!.light ? null : true } }, 'colour the light by the clock')"
          />
          Colours follow the clock</label
        >
        <dl class="figures">
          <dt>Sun stands</dt>
          <dd>{{ stands![0].toFixed(0) }}° · {{ stands![1].toFixed(1) }}° high</dd>
        </dl>
      </template>
      <template v-else>
        <NumberField
          label="Sun heading"
          unit="°"
          :digits="0"
          :step="1"
          :value="s.sun.heading"
          @drag="set('sun', { heading: $event }, '', true)"
          @cancel="scene.cancel()"
          @change="set('sun', { heading: $event }, 'turn the sun')"
        />
        <NumberField
          label="Sun height"
          unit="°"
          :digits="1"
          :step="0.3"
          :value="s.sun.height"
          @drag="set('sun', { height: Math.max(-90, Math.min(90, $event)) }, '', true)"
          @cancel="scene.cancel()"
          @change="set('sun', { height: Math.max(-90, Math.min(90, $event)) }, 'raise the sun')"
        />
      </template>
      <h3>Strength and haze</h3>
      <div v-for="x in sliders" :key="x.channel" class="keyed">
        <NumberField
          :label="x.title"
          :unit="x.unit"
          :digits="x.unit ? 0 : 2"
          :step="x.unit ? 2 : 0.01"
          :value="now(x.channel, x.still)"
          :keyed="!!curve(x.channel)"
          @drag="value(x.channel, Math.max(0, $event), true)"
          @cancel="scene.cancel()"
          @change="value(x.channel, Math.max(0, $event), false)"
        />
        <button
          class="icon"
          :aria-label="`Key ${x.title.toLowerCase()}`"
          title="Set a key here"
          @click="key(x.channel, x.still)"
        >
          <KeyRound :size="12" />
        </button>
      </div>
      <NumberField
        label="Haze thins every"
        unit="m"
        :digits="0"
        :step="1"
        :value="s.haze.rise ?? 0"
        @change="set('haze', { rise: Math.max(0, $event) || null }, 'let the haze lie')"
      />
      <NumberField
        label="above a height of"
        unit="m"
        :digits="1"
        :value="s.haze.base ?? 0"
        @change="set('haze', { base: $event || null }, 'let the haze lie')"
      />
      <h3>Colours</h3>
      <KeyedColour
        label="Sun colour"
        title="Sun"
        :nodes="['settings']"
        :still="s.sun.color"
        keys="Key the sun's colour"
        :keys-only="!!clock?.light"
        @set="set('sun', { color: $event }, 'colour the sun')"
      />
      <template v-if="!clock?.light">
        <label v-for="c in colors" :key="c.title" class="pick"
          >{{ c.title }}
          <input
            type="color"
            :value="c.value"
            :aria-label="`${c.title} colour`"
            @change="
              set(
                c.part,
                { [c.field]: ($event.target as HTMLInputElement).value },
                `colour the ${c.title.toLowerCase()}`,
              )
            "
        /></label>
      </template>
      <h3>Pictures</h3>
      <LightFields
        whose="the scene"
        :exposure="s.exposure"
        :tint="s.tint"
        @exposure="(v, live) => change({ exposure: v || null }, 'set the exposure', live)"
        @tint="change({ tint: $event || null }, 'set the filter')"
        @cancel="scene.cancel()"
      />
      <div class="row">
        <button v-if="clock" class="act" title="Set a key for the hour here" @click="key('sun.hour', clock.hour)">
          <KeyRound :size="12" /> Key the hour
        </button>
      </div>
      <p class="note">
        Select something in the plan, the scout view or the list to change it; drag a stand-in from the stock into a
        view to add it.
      </p>
    </div>
  </section>
</template>
<style scoped>
.day {
  display: flex;
  align-items: center;
  gap: 8px;
}
.day input {
  flex: 1;
  min-width: 0;
  accent-color: var(--brass);
}
output {
  width: 52px;
  font: 12px var(--font-mono);
  text-align: right;
}
.keyed {
  display: grid;
  grid-template-columns: 1fr 24px;
  gap: 4px;
  margin-top: 4px;
}
.keyed + .field {
  margin-top: 4px;
}
.keyed .icon {
  width: 24px;
  height: 100%;
}
</style>
