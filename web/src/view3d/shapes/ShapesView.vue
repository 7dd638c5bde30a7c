<script setup lang="ts">
// A camera's picture in every format side by side, and how each of them is framed: for
// the camera in all its shots, or for the shot that is on air alone.
import { Columns3 } from '@lucide/vue'
import { computed, ref } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core, readCamera, type Reframe, type ReframeArgs } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import NumberField from '@/ui/NumberField.vue'
import { useFrameTick } from '../useFrameTick'
import { usePane } from '../usePane'
import { inWords } from './reframing'
import ShapePicture from './ShapePicture.vue'

const props = defineProps<{ camera: string }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const turnover = useTurnover()
const pane = usePane('lens')
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const { tick } = useFrameTick()
const node = computed(() => scene.doc.nodes[props.camera])
const alone = ref(false)
/** The shot on air, when it is seen through this camera in the format that is worked in or has it as its own. */
const shot = computed(() => {
  const id = head.airShot
  const s = scene.shotOf(id)
  return s && !s.plays && (s.camera === props.camera || head.airCamera === props.camera) ? id : ''
})
const of = computed(() => (alone.value ? shot.value : ''))
const number = computed(() => scene.shotOf(shot.value)?.number ?? '')
const at = computed(() => (of.value ? head.screen : head.story))
const formats = computed(() => turnover.allFormats)
const caption = 42
const gap = 14
/** In as many rows as let them be largest, all at one height. */
const laid = computed(() => {
  const all = formats.value.map((f) => ({ ...f, wide: Math.max(f.width / f.height, 0.45) }))
  let best = { high: 0, rows: [all] }
  for (let n = 1; n <= all.length; n++) {
    const rows = [all.slice(0, 0)]
    const share = all.reduce((sum, f) => sum + f.wide, 0) / n
    let used = 0
    for (const f of all) {
      if (rows.length < n && used + f.wide / 2 > share * rows.length && rows.at(-1)!.length) rows.push([])
      rows.at(-1)!.push(f)
      used += f.wide
    }
    const widths = rows.map((r) => (width.value - gap * (r.length + 1)) / r.reduce((sum, f) => sum + f.wide, 0))
    const high = Math.min(height.value / rows.length - caption, ...widths)
    if (high > best.high) best = { high, rows }
  }
  return best
})
const picked = ref('')
const format = computed(() => formats.value.find((f) => f.id === picked.value) ?? formats.value[1] ?? formats.value[0]!)
function framedIn(format: string): Reframe & { camera?: string } {
  return (of.value ? scene.shotOf(of.value)?.formats?.[format] : node.value?.camera?.formats?.[format]) ?? {}
}
/** What a picture says below: what it is framed by, and for whom. */
function told(format: string) {
  const own = scene.shotOf(shot.value)?.formats?.[format]
  const camera = node.value?.camera?.formats?.[format]
  const mine = of.value ? own : camera
  const by = own?.camera ? scene.doc.nodes[own.camera]?.camera?.number : undefined
  const words = [of.value && by ? `camera ${by}` : '', mine ? inWords(mine) : ''].filter(Boolean).join(' · ')
  if (words) return words
  if (of.value && camera) return 'as its camera is framed'
  if (!of.value && own) return `shot ${number.value} is framed by itself`
  return ''
}
const now = computed(() => framedIn(format.value.id))
type Change = Omit<ReframeArgs, 'id' | 'format'>
function set(change: Change, live = false) {
  const args = { id: of.value || props.camera, format: format.value.id, ...change }
  if (live) scene.preview('reframe', { ...args, within: true })
  else scene.run('reframe', args)
}
function shift(axis: 0 | 1, percent: number, live = false) {
  const to: [number, number] = [...(now.value.shift ?? [0, 0])]
  to[axis] = percent / 100
  set({ shift: to }, live)
}
function move(axis: number, metres: number, live = false) {
  const to: [number, number, number] = [...(now.value.move ?? [0, 0, 0])]
  to[axis] = metres
  set({ move: to }, live)
}
const lens = (mm: number, live = false) => set({ lens: mm, frame: head.story }, live)
/** The lens through which the picked picture is seen. */
const focal = computed(() => {
  void tick.value
  const n = core.inFormat(format.value.id, of.value, props.camera, at.value)
  return n ? readCamera(n).focal : 0
})
</script>
<template>
  <div v-bind="pane" class="shapes" tabindex="-1" role="region" aria-label="All shapes">
    <header class="bar">
      <template v-if="node?.camera">
        <CameraBadge :number="node.camera.number" :color="node.camera.color" />
        <span class="name">{{ node.name }}</span>
        <el-radio-group :model-value="!!of" size="small" aria-label="Framed for" @change="alone = !!$event">
          <el-radio-button :value="false">in all its shots</el-radio-button>
          <el-radio-button
            :value="true"
            :disabled="!shot"
            :title="shot ? '' : 'No shot of this camera is on air: move the playhead into one'"
            >{{ shot ? `in shot ${number} alone` : 'in one shot alone' }}</el-radio-button
          >
        </el-radio-group>
      </template>
      <span class="space"></span>
      <button
        class="icon"
        aria-label="All shapes"
        aria-pressed="true"
        title="Back to the lens view"
        @click="view.shapes = false"
      >
        <Columns3 :size="15" />
      </button>
    </header>
    <div ref="element" class="rows">
      <div v-for="(row, i) in laid.rows" :key="i" class="row">
        <figure
          v-for="f in row"
          :key="f.id"
          :class="{ picked: f.id === format.id }"
          :aria-label="f.name"
          :style="{ width: `${laid.high * f.wide}px` }"
        >
          <div :style="{ height: `${laid.high}px` }">
            <ShapePicture
              v-if="node?.camera && laid.high > 0"
              :format="f.id"
              :camera="camera"
              :shot="of"
              :at="at"
              :framed="framedIn(f.id)"
              @pick="picked = f.id"
            />
          </div>
          <figcaption>
            <button class="link" :aria-pressed="f.id === format.id" @click="picked = f.id">{{ f.name }}</button>
            <span class="dim">{{ told(f.id) }}</span>
          </figcaption>
        </figure>
      </div>
    </div>
    <form v-if="node?.camera && format" class="bar figures" :aria-label="`Framing in ${format.name}`" @submit.prevent>
      <strong>{{ format.name }}</strong>
      <el-select
        v-if="of"
        :model-value="now.camera ?? ''"
        size="small"
        class="other"
        aria-label="Seen through"
        :empty-values="[null, undefined]"
        @change="set({ camera: $event })"
      >
        <el-option value="" :label="`the shot’s camera`" />
        <el-option v-for="c in scene.wall" :key="c.id" :value="c.id" :label="`${c.camera.number} ${c.node.name}`" />
      </el-select>
      <NumberField
        v-for="(label, axis) in ['right', 'up']"
        :key="label"
        :label="label"
        unit="%"
        :digits="0"
        :step="0.5"
        :value="(now.shift?.[axis] ?? 0) * 100"
        @drag="shift(axis as 0 | 1, $event, true)"
        @cancel="scene.cancel()"
        @change="shift(axis as 0 | 1, $event)"
      />
      <NumberField
        label="part"
        unit="%"
        :digits="0"
        :step="0.5"
        :value="(now.scale || 1) * 100"
        @drag="set({ scale: Math.max(5, Math.min(100, $event)) / 100 }, true)"
        @cancel="scene.cancel()"
        @change="set({ scale: $event / 100 })"
      />
      <NumberField
        label="lens"
        unit="mm"
        :digits="1"
        :step="0.2"
        :value="focal"
        @drag="lens(Math.max(1, $event), true)"
        @cancel="scene.cancel()"
        @change="lens($event)"
      />
      <NumberField
        v-for="(label, axis) in ['aside', 'higher', 'back']"
        :key="label"
        :label="label"
        unit="m"
        :value="now.move?.[axis] ?? 0"
        @drag="move(axis, $event, true)"
        @cancel="scene.cancel()"
        @change="move(axis, $event)"
      />
      <button class="act" type="button" :disabled="!Object.keys(now).length" @click="set({ clear: true })">
        {{ of ? 'As in all shots' : 'As it is by itself' }}
      </button>
    </form>
  </div>
</template>
<style scoped>
.shapes {
  display: flex;
  flex-direction: column;
  height: 100%;
  overflow: hidden;
  outline: none;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  padding: 6px 10px;
  background: var(--panel);
  font-size: 12.5px;
}
.space {
  flex: 1;
}
.rows {
  display: flex;
  flex: 1;
  flex-direction: column;
  justify-content: center;
  min-height: 0;
}
.row {
  display: flex;
  gap: 14px;
  justify-content: center;
}
figure {
  flex: none;
  min-width: 0;
  margin: 0;
}
figure > div {
  outline: 1px solid var(--line);
  outline-offset: 2px;
}
.picked > div {
  outline-color: var(--brass);
}
figcaption {
  display: grid;
  min-height: 36px;
  padding-top: 5px;
  font: 12px var(--font-condensed);
}
figcaption .link {
  justify-self: start;
  color: inherit;
}
figcaption .dim {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.figures > :deep(.field) {
  width: 118px;
}
.other {
  width: 170px;
}
</style>
