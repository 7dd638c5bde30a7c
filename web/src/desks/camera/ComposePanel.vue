<script setup lang="ts">
// A picture of one or two people: size, angle, side and lens give the places
// where a camera could stand, as small live pictures to choose from.
import { watchDebounced } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { core, type Composed, type ComposeWish } from '@/core/bridge'
import { sentence } from '@/ui/sentence'
import NumberField from '@/ui/NumberField.vue'
import { useSubjects } from '../useSubjects'
import { useCamera } from './useCamera'

const props = defineProps<{ camera: string }>()
const { scene, view, head, stage, cam, now } = useCamera(() => props.camera)
const { cast } = useSubjects()
const trade = core.trade()
const wish = reactive({
  subject: '',
  second: '',
  size: 'medium',
  angle: 'eye',
  focal: 0,
  x: 'auto' as 'auto' | 'left' | 'middle' | 'right',
  headroom: -1,
  room: 0.34,
})
watch(
  () => props.camera,
  () => {
    const held = cam.value?.aim === 'at' ? cam.value.aimAt : ''
    if (!cast.value.some((s) => s.id === wish.subject))
      wish.subject = cast.value.find((s) => s.id === held)?.id ?? cast.value[0]?.id ?? ''
    wish.focal = +(now.value?.focal ?? cam.value?.focal ?? 35).toFixed(1)
  },
  { immediate: true },
)
const over = computed(() => wish.angle === 'over the shoulder')
const sizeOf = computed(() => trade.sizes.find((s) => s.name === wish.size)!)
const sides = { left: -0.33, middle: 0, right: 0.33 }
const others = computed(() => cast.value.filter((s) => s.id !== wish.subject))
const asked = computed<ComposeWish>(() => {
  const second = others.value.some((o) => o.id === wish.second) ? wish.second : (others.value[0]?.id ?? '')
  return {
    camera: props.camera,
    subjects: !over.value && wish.second && second ? [wish.subject, second] : [wish.subject],
    ...(over.value ? { over: second } : {}),
    size: wish.size,
    angle: wish.angle,
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
/** Puts this camera there, at this frame. */
function take(p: Composed) {
  scene.run('cameraTake', { id: props.camera, frame: asked.value.frame, key: view.autoKey, ...given(p) })
}
/** Leaves a new camera there. */
function leave(p: Composed) {
  const name = `${p.words} of ${cast.value.find((s) => s.id === wish.subject)?.name}`
  const [made] = scene.make('nodes', 'cameraAdd', {
    ...given(p),
    name: sentence(name).slice(0, -1),
    like: props.camera,
  })
  if (made) view.lookThrough(made)
}
const given = (p: Composed) => ({ position: p.position, turn: p.turn, focal: p.focal, focus: p.focus })
</script>
<template>
  <div v-if="!cast.length" class="empty">
    <p>There is nobody to compose a picture of.</p>
    <p class="dim">Place somebody of the cast in Dress first.</p>
  </div>
  <template v-else-if="cam">
    <h3>Of whom</h3>
    <div class="pair">
      <el-select v-model="wish.subject" size="small" aria-label="Subject">
        <el-option v-for="s in cast" :key="s.id" :value="s.id" :label="s.name" />
      </el-select>
      <el-select
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
      <button v-for="a in trade.angles" :key="a" :aria-pressed="wish.angle === a" @click="wish.angle = a">
        {{ a }}
      </button>
    </div>
    <h3>Suggestions</h3>
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
