<script setup lang="ts">
// Lens, stop, focus, sensor and gate.
import { ElButton, ElMessage } from 'element-plus'
import { computed, h, ref } from 'vue'
import { core } from '@/core/bridge'
import NumberField from '@/ui/NumberField.vue'
import { useSubjects } from '../useSubjects'
import KitDialog from './KitDialog.vue'
import { useCamera } from './useCamera'
import { inWords } from '@/ui/lengths'

const props = defineProps<{ camera: string }>()
const { scene, view, node, cam, now, keyed, curve, run, runNow, merge, value, valueOf } = useCamera(() => props.camera)
const { subjects } = useSubjects()
const trade = core.trade()
const kit = computed(() => scene.doc.kits[cam.value?.kit ?? ''])
const editing = ref(false)
/** What a new lens leaves as it is. */
const keep = ref<'place' | 'size'>('place')
const primes = computed(() => kit.value?.primes ?? [18, 21, 25, 29, 35, 40, 50, 65, 75, 100, 135])
const zooms = computed(() => kit.value?.zooms ?? [])
function choose(focal: number) {
  runNow('lensChoose', { focal, keep: keep.value, key: view.autoKey || keyed('lens.focal') })
}
/** Takes a focal length as it is typed; a kit may not have it, and then says so. */
function type(focal: number) {
  value('lens.focal', focal)
  const taken = valueOf('lens.focal', cam.value!.focal)
  if (!kit.value || Math.abs(taken - focal) < 0.01) return
  const said = ElMessage({
    message: h('span', [
      `${kit.value.name} has no ${focal} mm; ${taken} mm was taken. `,
      h(
        ElButton,
        {
          size: 'small',
          link: true,
          onClick: () => {
            said.close()
            merge({ kit: null }, 'any focal length')
            value('lens.focal', focal)
          },
        },
        () => 'As typed',
      ),
    ]),
    type: 'info',
    duration: 8000,
    showClose: true,
  })
}
function useKit(id: string) {
  const squeeze = scene.doc.kits[id]?.squeeze
  merge(id ? { kit: id, squeeze: squeeze ?? null } : { kit: null }, 'lens kit')
  if (id) value('lens.focal', now.value!.focal)
}
const sensor = computed(() => {
  const [w, h] = cam.value!.sensor
  return trade.sensors.findIndex((s) => s.width === w && s.height === h)
})
function chooseSensor(i: number) {
  const s = trade.sensors[i]
  if (s) merge({ sensor: [s.width, s.height] }, `sensor ${s.name}`)
}
const zone = computed(() =>
  now.value
    ? core.sharpZone(now.value.focal, now.value.stop, now.value.focus, cam.value!.sensor as [number, number])
    : null,
)
const shown = (v: number) => (v < 0 ? 'no end' : inWords(v, v > 99 ? 0 : 2))
const pulls = computed(() => curve('lens.focus')?.keys.length ?? 0)
const shift = (i: number) => cam.value!.shift?.[i] ?? 0
</script>
<template>
  <template v-if="node && cam && now">
    <h3>
      Lens
      <span class="side">
        <button
          class="link"
          :aria-pressed="keep === 'place'"
          title="A new lens changes the size of things"
          @click="keep = 'place'"
        >
          keep place
        </button>
        <button
          class="link"
          :aria-pressed="keep === 'size'"
          title="The camera moves so that the subject keeps its size"
          @click="keep = 'size'"
        >
          keep size
        </button>
      </span>
    </h3>
    <div class="chips" role="group" aria-label="Prime lenses">
      <button
        v-for="p in primes"
        :key="p"
        :aria-pressed="Math.abs(now.focal - p) < 0.01"
        :aria-label="`${p} mm`"
        @click="choose(p)"
      >
        {{ p }}
      </button>
      <button
        v-for="z in zooms"
        :key="z[0]"
        class="zoom"
        :aria-label="`Zoom ${z[0]} to ${z[1]} mm`"
        @click="choose(z[0])"
      >
        {{ z[0] }}–{{ z[1] }}
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
      @cancel="scene.cancel()"
      @change="type"
    />
    <div class="pair">
      <el-select
        :model-value="cam.kit ?? ''"
        size="small"
        aria-label="Lens kit"
        :empty-values="[null, undefined]"
        @change="useKit(String($event))"
      >
        <el-option value="" label="any focal length" />
        <el-option v-for="(k, id) in scene.doc.kits" :key="id" :value="id" :label="k.name" />
      </el-select>
      <button class="act" @click="editing = true">Kits…</button>
    </div>
    <div class="chips" style="grid-template-columns: repeat(8, 1fr)" role="group" aria-label="Stops">
      <button
        v-for="s in trade.stops"
        :key="s"
        :aria-pressed="Math.abs(now.stop - s) < 0.01"
        :aria-label="`Stop ${s}`"
        @click="value('lens.stop', s)"
      >
        {{ s }}
      </button>
    </div>
    <h3>
      Focus
      <span class="side"
        ><button
          class="link"
          :aria-pressed="view.picking === 'follow'"
          title="Press a subject or a place in the lens view to focus on it"
          @click="view.picking = view.picking === 'follow' ? null : 'follow'"
        >
          pick
        </button>
        <button
          class="link"
          :aria-pressed="view.picking === 'pull'"
          title="Press in the lens view to key the focus here; press again at another frame to pull to it"
          @click="view.picking = view.picking === 'pull' ? null : 'pull'"
        >
          pull
        </button></span
      >
    </h3>
    <el-select
      :model-value="cam.focusOn ?? ''"
      size="small"
      filterable
      aria-label="Focus on"
      :empty-values="[null, undefined]"
      @change="run('focusFollow', { on: $event })"
    >
      <el-option value="" :label="pulls > 1 ? `pulled, ${pulls} keys` : 'by distance'" />
      <el-option
        v-for="s in subjects.filter((s) => s.id !== camera)"
        :key="s.id"
        :value="s.id"
        :label="`on ${s.name}`"
      />
    </el-select>
    <NumberField
      label="Distance"
      unit="m"
      :step="0.03"
      :value="now.focus"
      :keyed="keyed('lens.focus')"
      :disabled="!!cam.focusOn"
      @drag="value('lens.focus', Math.max(0.1, $event), true)"
      @cancel="scene.cancel()"
      @change="value('lens.focus', $event)"
    />
    <p v-if="zone" class="dim note">
      Sharp from {{ shown(zone.near) }} to {{ shown(zone.far) }}, hyperfocal {{ shown(zone.hyperfocal) }}
    </p>
    <h3>Sensor and gate</h3>
    <el-select :model-value="sensor" size="small" aria-label="Sensor" @change="chooseSensor(Number($event))">
      <el-option
        v-for="(s, i) in trade.sensors"
        :key="s.name"
        :value="i"
        :label="`${s.name}, ${s.width} × ${s.height}`"
      />
      <el-option :value="-1" :label="`custom, ${cam.sensor[0]} × ${cam.sensor[1]}`" />
    </el-select>
    <div class="pair">
      <NumberField
        label="Wide"
        unit="mm"
        :value="cam.sensor[0]!"
        @change="merge({ sensor: [Math.max(1, $event), cam.sensor[1]] }, 'sensor')"
      />
      <NumberField
        label="High"
        unit="mm"
        :value="cam.sensor[1]!"
        @change="merge({ sensor: [cam.sensor[0], Math.max(1, $event)] }, 'sensor')"
      />
    </div>
    <div class="chips" style="grid-template-columns: repeat(4, 1fr)" role="group" aria-label="Squeeze">
      <button
        v-for="s in trade.squeezes"
        :key="s"
        :aria-pressed="(cam.squeeze || 1) === s"
        :aria-label="`Squeeze ${s}`"
        @click="merge({ squeeze: s }, 'squeeze')"
      >
        {{ s }}×
      </button>
    </div>
    <h3>Lens shift</h3>
    <div class="pair">
      <NumberField
        v-for="(a, i) in ['Right', 'Up']"
        :key="a"
        :label="a"
        unit="mm"
        :value="shift(i)"
        :keyed="keyed(i ? 'lens.shiftY' : 'lens.shiftX')"
        @drag="value(i ? 'lens.shiftY' : 'lens.shiftX', $event, true)"
        @cancel="scene.cancel()"
        @change="value(i ? 'lens.shiftY' : 'lens.shiftX', $event)"
      />
    </div>
    <p class="dim note">
      Gate {{ now.gateWidth.toFixed(2) }} × {{ now.gateHeight.toFixed(2) }} mm, field of view {{ now.hfov.toFixed(1) }}°
      × {{ now.vfov.toFixed(1) }}°
    </p>
    <KitDialog v-if="editing" :first="cam.kit ?? ''" @close="editing = false" @use="useKit" />
  </template>
</template>
<style scoped>
.pair .act {
  justify-content: center;
  margin-bottom: 4px;
}
.zoom {
  grid-column: span 2;
}
</style>
