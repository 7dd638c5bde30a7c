<script setup lang="ts">
// A picture of one or two people, or of a thing: size, angle, side and lens give the
// places where a camera could stand, as small live pictures to choose from, and how it
// goes on when its subject moves.
import { watchDebounced } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { core, type Composed, type ComposeWish, type Lasting } from '@/core/bridge'
import { sentence } from '@/ui/sentence'
import NumberField from '@/ui/NumberField.vue'
import { useSubjects } from '../useSubjects'
import { useCamera } from './useCamera'

const props = defineProps<{ camera: string }>()
const { scene, view, head, stage, cam, now } = useCamera(() => props.camera)
const { cast, shown } = useSubjects()
const trade = core.trade()
const shoulder = 'over the shoulder'
const holds = {
  '': ['still', 'The camera stays as it is'],
  turn: ['turn with them', 'The camera stays in its place and turns with its subject'],
  along: ['go along with them', 'The subject carries the camera along, as far away and from the same side'],
  move: ['from here to there', 'A move runs through the pictures that are taken at different frames'],
} as const
const wish = reactive({
  subject: '',
  second: '',
  size: 'medium',
  angle: 'eye',
  side: '',
  hold: '' as keyof typeof holds,
  focal: 0,
  x: 'auto' as 'auto' | 'left' | 'middle' | 'right',
  headroom: -1,
  room: 0.34,
})
const all = computed(() => shown.value.flatMap((g) => g.of))
watch(
  () => props.camera,
  () => {
    const held = cam.value?.aim === 'at' ? cam.value.aimAt : ''
    if (!all.value.some((s) => s.id === wish.subject))
      wish.subject = all.value.find((s) => s.id === held)?.id ?? all.value[0]?.id ?? ''
    wish.focal = +(now.value?.focal ?? cam.value?.focal ?? 35).toFixed(1)
  },
  { immediate: true },
)
const person = computed(() => cast.value.some((s) => s.id === wish.subject))
const angles = computed(() => trade.angles.filter((a) => person.value || a !== shoulder))
/** The angle that is asked for: over a shoulder there are only pictures of people. */
const angle = computed(() => (angles.value.includes(wish.angle) ? wish.angle : 'eye'))
const over = computed(() => angle.value === shoulder)
const sided = computed(() => !over.value && angle.value !== 'overhead')
const sizeOf = computed(() => trade.sizes.find((s) => s.name === wish.size)!)
const sides = { left: -0.33, middle: 0, right: 0.33 }
const others = computed(() => cast.value.filter((s) => s.id !== wish.subject))
const asked = computed<ComposeWish>(() => {
  const second = others.value.some((o) => o.id === wish.second) ? wish.second : (others.value[0]?.id ?? '')
  return {
    camera: props.camera,
    subjects: person.value && !over.value && wish.second && second ? [wish.subject, second] : [wish.subject],
    ...(over.value ? { over: second } : {}),
    size: wish.size,
    angle: angle.value,
    ...(sided.value && wish.side ? { side: wish.side } : {}),
    focal: wish.focal,
    ...(wish.x === 'auto' ? {} : { x: sides[wish.x] }),
    ...(wish.headroom >= 0 ? { headroom: wish.headroom } : {}),
    room: wish.room,
    frame: Math.round(head.story),
  }
})
const found = ref<{ place: Composed; picture: string }[]>([])
const trouble = ref('')
function look() {
  if (!wish.subject) return
  const out = core.suggest(asked.value, 6)
  trouble.value = out.error ? sentence(out.error) : ''
  const list = (out.all ?? []).map((place) => reactive({ place, picture: '' }))
  found.value = list
  for (const f of list)
    void stage
      .stillFrom(f.place, asked.value.frame, 116, Math.round(116 / scene.aspect))
      .then((picture) => (f.picture = picture))
}
watchDebounced([asked, () => (head.playing ? 0 : scene.pictured)], look, { immediate: true, deep: true, debounce: 120 })
const name = computed(() => all.value.find((s) => s.id === wish.subject)?.name ?? '')
/** Puts this camera there, at this frame. */
function take(p: Composed) {
  const key = view.autoKey && !wish.hold
  scene.run('cameraTake', { id: props.camera, frame: asked.value.frame, key, ...given(p) })
}
/** Leaves a new camera there. */
function leave(p: Composed) {
  const [made] = scene.make('nodes', 'cameraAdd', {
    ...given(p),
    frame: asked.value.frame,
    name: sentence(`${p.words} of ${name.value}`).slice(0, -1),
    like: props.camera,
  })
  if (made) view.lookThrough(made)
}
const given = (p: Composed) => ({
  position: p.position,
  turn: p.turn,
  focal: p.focal,
  focus: p.focus,
  ...(wish.hold ? { hold: wish.hold, on: wish.subject, framing: p.framing } : {}),
})
/** How long this camera's picture of the subject stays what it is. */
const promise = ref<Lasting | null>(null)
watchDebounced(
  [() => props.camera, () => wish.subject, () => (head.playing ? 0 : scene.pictured)],
  () => (promise.value = wish.subject ? core.lasting(props.camera, wish.subject, Math.round(head.story)) : null),
  { immediate: true, debounce: 150 },
)
const code = (frame: number) => core.timecode('story', frame)
</script>
<template>
  <div v-if="!all.length" class="empty">
    <p>There is nothing to compose a picture of.</p>
    <p class="dim">Place somebody or something in Dress first.</p>
  </div>
  <template v-else-if="cam">
    <h3>Of whom</h3>
    <div class="pair">
      <el-select v-model="wish.subject" size="small" filterable aria-label="Subject">
        <el-option-group v-for="g in shown" :key="g.heading" :label="g.heading">
          <el-option v-for="s in g.of" :key="s.id" :value="s.id" :label="s.name" />
        </el-option-group>
      </el-select>
      <el-select
        v-if="person"
        v-model="wish.second"
        size="small"
        :aria-label="over ? 'Over the shoulder of' : 'Second subject'"
        :empty-values="[null, undefined]"
      >
        <el-option v-if="!over" value="" label="alone" />
        <el-option v-for="s in others" :key="s.id" :value="s.id" :label="over ? `over ${s.name}` : `and ${s.name}`" />
      </el-select>
    </div>
    <h3>Size</h3>
    <div class="chips words" role="group" aria-label="Size">
      <button v-for="s in trade.sizes" :key="s.name" :aria-pressed="wish.size === s.name" @click="wish.size = s.name">
        {{ s.name }}
      </button>
    </div>
    <h3>Angle</h3>
    <div class="chips words" role="group" aria-label="Angle">
      <button v-for="a in angles" :key="a" :aria-pressed="angle === a" @click="wish.angle = a">
        {{ a }}
      </button>
    </div>
    <div class="pair">
      <label v-if="sided"
        >From the
        <el-select v-model="wish.side" size="small" aria-label="Side of the subject" :empty-values="[null, undefined]">
          <el-option value="" label="best side" />
          <el-option v-for="s in trade.sides" :key="s" :value="s" :label="s" />
        </el-select>
      </label>
      <label
        >Hold
        <el-select v-model="wish.hold" size="small" aria-label="Hold" :empty-values="[null, undefined]">
          <el-option v-for="([words, says], h) in holds" :key="h" :value="h" :label="words" :title="says" />
        </el-select>
      </label>
    </div>
    <h3>Suggestions</h3>
    <p v-if="promise" role="status" aria-label="Promise" class="note promise">
      {{ name }}: {{ promise.size }}
      <template v-if="promise.then">
        until <button class="link" @click="head.set(promise.until)">◷ {{ code(promise.until) }}</button>, then
        {{ promise.then }}
      </template>
      <template v-else>for the rest, to ◷ {{ code(promise.to) }}</template>
    </p>
    <p v-if="trouble" role="alert" class="dim note">{{ trouble }}</p>
    <ul class="found" aria-label="Suggestions">
      <li v-for="(f, i) in found" :key="i">
        <button :aria-label="`Take suggestion ${i + 1}, ${f.place.words}`" @click="take(f.place)">
          <img :src="f.picture" alt="" />
          <span>{{ f.place.words }}</span>
        </button>
        <button class="link" :aria-label="`New camera at suggestion ${i + 1}`" @click="leave(f.place)">
          new camera
        </button>
      </li>
    </ul>
    <h3>Side of frame</h3>
    <div class="chips words" role="group" aria-label="Side of frame">
      <button
        v-for="s in ['auto', 'left', 'middle', 'right'] as const"
        :key="s"
        :aria-pressed="wish.x === s"
        @click="wish.x = s"
      >
        {{ s === 'auto' ? 'looking room' : s }}
      </button>
    </div>
    <div class="fields">
      <NumberField
        label="Lens"
        unit="mm"
        :digits="0"
        :step="0.3"
        :value="wish.focal"
        @drag="wish.focal = Math.max(8, $event)"
        @cancel="scene.cancel()"
        @change="wish.focal = Math.max(4, $event)"
      />
      <NumberField
        label="Headroom"
        unit="%"
        :digits="0"
        :step="0.1"
        :value="(wish.headroom >= 0 ? wish.headroom : sizeOf.headroom) * 100"
        @change="wish.headroom = Math.max(0, Math.min(60, $event)) / 100"
      />
      <NumberField
        v-if="wish.x === 'auto' && !over"
        label="Looking room"
        unit="%"
        :digits="0"
        :step="0.2"
        :value="wish.room * 100"
        @change="wish.room = Math.max(0, Math.min(80, $event)) / 100"
      />
    </div>
  </template>
</template>
<style scoped>
.pair label {
  min-width: 0;
  margin-top: 6px;
  color: var(--dim);
  font-size: 12px;
}
.promise {
  margin: 0 0 4px;
}
.found {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.found button:not(.link) {
  display: block;
  width: 100%;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 11px var(--font-condensed);
  cursor: pointer;
}
.found button:hover,
.found button:focus-visible {
  border-color: var(--brass);
}
.found img {
  display: block;
  width: 100%;
}
.found span {
  display: block;
  padding: 2px 4px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.found .link {
  font-size: 11px;
}
</style>
