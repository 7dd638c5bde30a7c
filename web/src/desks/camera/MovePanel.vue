<script setup lang="ts">
// The move of a camera: the positions left for it, its speed, and the ways to
// change it as a whole.
import { ArrowDown, ArrowUp, Camera as CameraIcon, Clapperboard, Repeat, Trash2 } from '@lucide/vue'
import { watchDebounced } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'
import { core, type Key, type Operations } from '@/core/bridge'
import NumberField from '@/ui/NumberField.vue'
import { useCamera } from './useCamera'
import { useLeaving } from '@/view3d/leaving'
import { inWords } from '@/ui/lengths'

const props = defineProps<{ camera: string }>()
const { scene, head, stage, node, cam, now, run } = useCamera(() => props.camera)
const left = computed(() => cam.value?.left ?? [])

// A small picture for each position, taken when the scene or the position changes.
const pictures = reactive<Record<number, string>>({})
watchDebounced(
  [left, () => (head.playing ? 0 : scene.pictured)],
  () => left.value.forEach(async (p, i) => (pictures[i] = await stage.still(props.camera, p.frame, 72, 40))),
  { immediate: true, debounce: 150 },
)
const { leave, pose } = useLeaving()
const retake = (index: number) => run('positionRetake', { ...pose(props.camera), index })
const order = (from: number, to: number) => run('positionOrder', { from, to })

const numbers = computed(() => (void scene.pictured, void props.camera, core.numbers(props.camera)))
const moves = computed(() => !!numbers.value?.moves)
const way = computed(() => (void scene.changes, node.value?.path ? core.way('nodes', props.camera) : null))
const seconds = computed(() => ((numbers.value?.to ?? 0) - (numbers.value?.from ?? 0)) / scene.rate)
const lasts = (s: number) => run('moveShape', { lasts: s })
const speed = (v: number) => run('moveShape', { speed: v })
function starts(f: number) {
  run('moveShape', { by: Math.round(f) - numbers.value!.from })
}
const shape = (args: Partial<Operations['moveShape']>) => run('moveShape', args)
const ease = (easeIn: Key['ease'], easeOut: Key['ease']) => run('moveEase', { easeIn, easeOut })

/** Makes all of the move as soft as is asked for, in seconds. */
function settle(args: { in?: number; out?: number }, live = false) {
  if (live) scene.preview('moveSettle', { id: props.camera, ...args })
  else run('moveSettle', args)
}

/** Plays from the first key to the last, over and over. */
function playMove() {
  const { from, to } = numbers.value!
  head.marked.story = { in: Math.floor(from), out: Math.ceil(to) + 1 }
  head.loop = true
  head.set(Math.floor(from))
  head.go(1)
}

const amount = ref(100)
function scaled(live: boolean) {
  const args = { id: props.camera, amount: amount.value / 100, about: 'end' }
  if (live) return scene.preview('moveAmount', args)
  scene.cancel()
  scene.run('moveAmount', args)
  amount.value = 100
}
const overshoots = computed(() => (void scene.changes, core.overshoots(props.camera)))
const others = computed(() => scene.cameras.filter((c) => c.id !== props.camera))
const chosen = ref('')
const from = computed({
  get: () => (others.value.some((c) => c.id === chosen.value) ? chosen.value : (others.value[0]?.id ?? '')),
  set: (id) => (chosen.value = id),
})
const ways = { still: 'from now on', key: 'as a key here', position: 'as a position here' }
const as = ref<keyof typeof ways>('position')
const like = (what: 'picture' | 'place' | 'lens') =>
  run('cameraLike', { from: from.value, frame: Math.round(head.story), what, as: as.value })
const lensTo = ref(0)
function lensMove() {
  const from = Math.round(head.story)
  run('lensMove', {
    in: from,
    out: from + Math.round(3 * scene.rate),
    focal: lensTo.value || Math.round(now.value!.focal * 2),
  })
}
</script>
<template>
  <template v-if="node && cam && now">
    <h3>Positions of the move</h3>
    <ol v-if="left.length" class="left" aria-label="Positions of the move">
      <li v-for="(p, i) in left" :key="i">
        <button class="shot" :aria-label="`Go to position ${i + 1}`" @click="head.set(p.frame)">
          <img :src="pictures[i]" :alt="`Position ${i + 1}`" />
        </button>
        <NumberField
          label="Frame"
          :digits="0"
          :step="1"
          :value="p.frame"
          @change="run('positionTime', { index: i, frame: Math.round($event) })"
        />
        <span class="tools">
          <button class="icon" :aria-label="`Position ${i + 1} earlier`" :disabled="i === 0" @click="order(i, i - 1)">
            <ArrowUp :size="13" />
          </button>
          <button
            class="icon"
            :aria-label="`Position ${i + 1} later`"
            :disabled="i === left.length - 1"
            @click="order(i, i + 1)"
          >
            <ArrowDown :size="13" />
          </button>
          <button
            class="icon"
            :aria-label="`Retake position ${i + 1}`"
            title="Take it anew from the view"
            @click="retake(i)"
          >
            <CameraIcon :size="13" />
          </button>
          <button class="icon" :aria-label="`Remove position ${i + 1}`" @click="run('positionRemove', { index: i })">
            <Trash2 :size="13" />
          </button>
        </span>
      </li>
    </ol>
    <p v-else class="dim note">
      Roam in scout or unlock the lens view, and leave positions: a smooth move runs through them.
    </p>
    <div class="row">
      <button class="act main" @click="leave(camera)"><CameraIcon :size="14" /> Add a position</button>
      <button v-if="left.length > 1" class="act" @click="run('positionSpace', {})">Even speed</button>
    </div>
    <div v-if="moves && seconds > 0" class="row">
      <button class="act" title="From its first key to its last, over and over" @click="playMove">
        <Repeat :size="14" /> Play this move
      </button>
      <button
        class="act"
        title="A shot at the end of the cut that shows just this move"
        @click="scene.make('shots', 'shotFromMove', { assembly: scene.cut.assembly, camera })"
      >
        <Clapperboard :size="14" /> A shot from the move
      </button>
    </div>
    <template v-if="moves && numbers">
      <h3>Time and speed</h3>
      <div class="three">
        <NumberField label="Starts" :digits="0" :step="1" :value="numbers.from" @change="starts" />
        <NumberField label="Lasts" unit="s" :value="seconds" @change="lasts" />
        <NumberField v-if="way" label="Speed" unit="m/s" :value="way.length / (seconds || 1)" @change="speed" />
      </div>
      <p v-if="way" class="dim note">The path is {{ inWords(way.length) }} long.</p>
      <h3>Ease of the move</h3>
      <div class="chips words" role="group" aria-label="Ease of the move">
        <button @click="ease('soft', 'soft')">soft at both ends</button>
        <button @click="ease('soft', 'even')">soft start</button>
        <button @click="ease('even', 'soft')">soft stop</button>
        <button @click="ease('even', 'even')">even</button>
      </div>
      <div class="pair">
        <NumberField
          label="Sets off in"
          unit="s"
          :value="numbers.setsOff"
          :step="0.02"
          @drag="settle({ in: Math.max(0, $event) }, true)"
          @cancel="scene.cancel()"
          @change="settle({ in: Math.max(0, $event) })"
        />
        <NumberField
          label="Settles in"
          unit="s"
          :value="numbers.settles"
          :step="0.02"
          @drag="settle({ out: Math.max(0, $event) }, true)"
          @cancel="scene.cancel()"
          @change="settle({ out: Math.max(0, $event) })"
        />
      </div>
      <h3>Whole move</h3>
      <label class="amount"
        >Amount <output>{{ amount }} %</output>
        <input
          v-model.number="amount"
          type="range"
          min="0"
          max="200"
          step="5"
          aria-label="Amount of the move"
          @input="scaled(true)"
          @change="scaled(false)"
        />
      </label>
      <div class="row">
        <button
          class="act"
          title="The end stays; everything before comes half way to it"
          @click="run('moveAmount', { amount: 0.5 })"
        >
          Half the move
        </button>
        <button class="act" @click="shape({ reverse: true })">Reverse</button>
        <button class="act" @click="shape({ mirror: true })">Mirror</button>
      </div>
      <template v-if="overshoots.length">
        <h3 class="warn">Beyond its keys</h3>
        <ul class="over" aria-label="Overshoots">
          <li v-for="o in overshoots" :key="`${o.channel}${o.from}`">
            <button class="link" @click="head.set(o.from)">{{ o.channel }}</button> by {{ o.by.toPrecision(2) }} between
            {{ o.from }} and {{ o.to }}
          </li>
        </ul>
      </template>
    </template>
    <template v-if="others.length">
      <h3>Another camera’s picture</h3>
      <div class="pair">
        <el-select v-model="from" size="small" filterable aria-label="Of camera">
          <el-option v-for="c in others" :key="c.id" :value="c.id" :label="`${c.camera.number} ${c.node.name}`" />
        </el-select>
        <el-select v-model="as" size="small" aria-label="Taken as">
          <el-option v-for="(words, how) in ways" :key="how" :value="how" :label="words" />
        </el-select>
      </div>
      <div class="row">
        <button
          v-for="what in ['picture', 'place', 'lens'] as const"
          :key="what"
          class="act"
          :title="`Takes its ${what} at this frame`"
          @click="like(what)"
        >
          Its {{ what }}
        </button>
      </div>
    </template>
    <h3>Dolly zoom</h3>
    <p class="dim note">Lens and distance change together; the subject keeps its size.</p>
    <div class="pair">
      <NumberField
        label="To"
        unit="mm"
        :digits="0"
        :step="0.3"
        :value="lensTo || Math.round(now.focal * 2)"
        @change="lensTo = Math.max(4, $event)"
      />
      <button class="act" @click="lensMove">Make the move</button>
    </div>
  </template>
</template>
<style scoped>
.left {
  margin: 0;
  padding: 0;
  list-style: none;
}
.left li {
  display: grid;
  grid-template-columns: 72px 1fr;
  gap: 0 6px;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.shot {
  grid-row: span 2;
  padding: 0;
  border: 0;
  background: var(--raised);
  cursor: pointer;
}
.shot img {
  display: block;
  width: 72px;
  height: 40px;
}
.tools {
  display: flex;
  gap: 2px;
}
.tools .icon {
  width: 24px;
  height: 20px;
}
.amount {
  display: grid;
  grid-template-columns: 1fr auto;
  font-size: 12px;
}
.amount input {
  grid-column: span 2;
  width: 100%;
  accent-color: var(--brass);
}
.amount output {
  font: 11.5px var(--font-mono);
}
.over {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 12px;
}
.warn {
  color: var(--warning);
}
</style>
