<script setup lang="ts">
// A picture to be used somewhere: a file, one that the scene has as a board or a card, or
// footage, whole or a frame of it.
import { computed, onBeforeUnmount, ref } from 'vue'
import { ElMessage } from 'element-plus'
import { stem, upload, type KeptImage } from '@/api/uploads'
import type { Footage } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { perSecond } from '@/ui/rates'
import { sentence } from '@/ui/sentence'

const props = defineProps<{
  /** What the picture is for, as in ‘to match’. */
  purpose: string
  /** The camera whose boards come first. */
  camera?: string
  /** Footage is used as it is; else a frame of it is. */
  films?: boolean
}>()
const emit = defineEmits<{ picture: [picture: KeptImage & { name: string }]; film: [film: Footage] }>()
const scene = useScene()
const busy = ref('')

/** The pictures that the scene has: boards of the shots of the camera first. */
const pictures = computed(() => {
  const { boards, cards, shots } = scene.doc
  const mine = (b: { shot: string }) => (props.camera && shots[b.shot]?.camera === props.camera ? 0 : 1)
  const panels = Object.values(boards).sort(
    (a, b) => mine(a) - mine(b) || (shots[a.shot]?.number ?? '').localeCompare(shots[b.shot]?.number ?? ''),
  )
  const seen = new Set<string>()
  return [
    ...panels.map((b) => ({ ...b, name: `board of shot ${shots[b.shot]?.number ?? ''}` })),
    ...Object.values(cards).flatMap((c) =>
      c.blob ? [{ name: c.name, blob: c.blob, width: c.width!, height: c.height! }] : [],
    ),
  ].filter((p) => !seen.has(p.blob) && seen.add(p.blob))
})
const footage = computed(() => Object.entries(scene.doc.footage))
const film = ref('') // the footage that a frame is taken of
const frame = ref(0)
const video = ref<HTMLVideoElement | null>(null)
const ready = ref(false) // it has a picture
const chosen = computed(() => scene.doc.footage[film.value])
function seek() {
  const f = chosen.value!
  const rate = f.rate ? perSecond(f.rate) : scene.rate
  if (video.value) video.value.currentTime = (Math.floor(frame.value * (f.pace || 1)) + 0.5) / rate
}
let gone = false // what it was for is not open any more
onBeforeUnmount(() => (gone = true))
async function keep(file: Blob, name: string) {
  busy.value = `Taking in ${name}…`
  try {
    if (props.films && !file.type.startsWith('image/'))
      // some videos have no type here

      emit('film', { ...(await upload<Footage>(`footage?rate=${scene.doc.settings.rate}`, file)), name })
    else emit('picture', { ...(await upload<KeptImage>('images', file)), name })
    film.value = ''
    if (gone)
      ElMessage({ message: `What ${name} was chosen for is closed: it is not used. Choose it again.`, type: 'info' })
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
  } finally {
    busy.value = ''
  }
}
function take(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void keep(file, stem(file))
}
function choose() {
  frame.value = 0
  if (!props.films || !chosen.value) return
  emit('film', chosen.value)
  film.value = ''
}
/** Keeps the frame of footage that is shown as a picture, once it is shown. */
async function takeFrame() {
  const v = video.value!
  if (v.seeking) await new Promise((done) => v.addEventListener('seeked', done, { once: true }))
  const canvas = document.createElement('canvas')
  canvas.width = v.videoWidth
  canvas.height = v.videoHeight
  canvas.getContext('2d')!.drawImage(v, 0, 0)
  const name = `${chosen.value!.name}, frame ${frame.value}`
  canvas.toBlob((b) => b && void keep(b, name), 'image/png')
}
const kinds = computed(() => `image/png,image/jpeg,image/webp,image/tiff${props.films ? ',video/*' : ''}`)
</script>
<template>
  <div class="row">
    <label class="act file"
      >{{ films ? 'Picture or video…' : 'Choose a picture…' }}
      <input type="file" :accept="kinds" :aria-label="`Picture ${purpose}`" @change="take"
    /></label>
    <span v-if="busy" class="dim" role="status">{{ busy }}</span>
  </div>
  <template v-if="pictures.length">
    <h3>From the scene</h3>
    <ul class="pictures" aria-label="Pictures of the scene">
      <li v-for="(p, i) in pictures" :key="i">
        <button
          :aria-label="`Take the ${p.name}`"
          :title="p.name"
          @click="emit('picture', { name: p.name, blob: p.blob, width: p.width, height: p.height })"
        >
          <img :src="`/api/images/${p.blob}`" alt="" loading="lazy" />
        </button>
      </li>
    </ul>
  </template>
  <template v-if="footage.length">
    <h3>{{ films ? 'Footage' : 'A frame of footage' }}</h3>
    <el-select v-model="film" size="small" aria-label="Footage" placeholder="choose footage" @change="choose">
      <el-option v-for="[id, f] in footage" :key="id" :value="id" :label="f.name" />
    </el-select>
    <template v-if="chosen">
      <video
        ref="video"
        :src="`/api/footage/${chosen.blob}`"
        muted
        preload="auto"
        aria-label="Frame of the footage"
        @loadstart="ready = false"
        @loadeddata="((ready = true), seek())"
      ></video>
      <input
        v-model.number="frame"
        type="range"
        min="0"
        :max="chosen.frames - 1"
        aria-label="Frame of the footage"
        @input="seek"
      />
      <button class="act" :disabled="!ready" @click="takeFrame">Take frame {{ frame }}</button>
    </template>
  </template>
</template>
<style scoped>
.pictures {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
  max-height: 190px;
  overflow-y: auto;
  margin: 0;
  padding: 0;
  list-style: none;
}
.pictures button {
  width: 100%;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: none;
  cursor: pointer;
}
.pictures img,
video {
  display: block;
  width: 100%;
  aspect-ratio: 16 / 9;
  object-fit: contain;
}
input[type='range'] {
  width: 100%;
  accent-color: var(--brass);
}
</style>
