<script setup lang="ts">
// What has been delivered, played: alone or against an earlier version, frame by frame,
// one shot after the other as in the cut. A note on a frame stays with the shot.
import {
  ChevronLeft,
  ChevronRight,
  Copy,
  Download,
  Expand,
  Pause,
  Play,
  Shrink,
  SkipBack,
  SkipForward,
} from '@lucide/vue'
import { useEventListener, useRafFn } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Output } from '@/api/client'
import type { Item, Recipe } from '@/core/bridge'
import { useDeliveries } from '@/stores/deliveries'
import { useScene } from '@/stores/scene'
import { perSecond } from '@/ui/rates'
import LivePicture from './LivePicture.vue'

const props = defineProps<{ watched: Output | null; playable: Output[] }>()
const filled = defineModel<boolean>('filled', { required: true })
const emit = defineEmits<{ watch: [output: Output]; close: [] }>()
const scene = useScene()
const deliveries = useDeliveries()

const video = useTemplateRef<HTMLVideoElement>('video')
const other = useTemplateRef<HTMLVideoElement>('other')
const playing = ref(false)
const frame = ref(0)
const on = ref(true) // one shot after the other
const compare = ref<'alone' | 'beside' | 'wiped'>('alone')
const wipe = ref(50)
const failed = ref(false)

/** Frames in a second of what is watched: the scene may have another rate by now. */
const rate = computed(() => (delivery.value ? perSecond(delivery.value.rate) : scene.rate))
const address = (o: Output) => `/api/outputs/${o.id}/file`
const name = computed(() => props.watched?.file.split('/').at(-1) ?? '')
const isPicture = computed(() => props.watched?.kind === 'picture' && !props.watched.file.endsWith('.exr'))
const plays = computed(() => props.watched?.kind === 'video' && /\.(mp4|webm)$/.test(props.watched.file))
const at = computed(() => props.playable.findIndex((o) => o.id === props.watched?.id))
const folder = computed(() => props.watched?.file.split('/').slice(0, -1).join('/') ?? '')

/** Finished versions of the same before this one, the newest first. */
const earlier = computed(() => {
  const w = props.watched
  if (!w) return []
  return [...deliveries.list, ...deliveries.newest]
    .flatMap((d) => d.outputs)
    .filter(
      (o, i, all) =>
        o.subject === w.subject &&
        o.state === 'done' &&
        o.version < w.version &&
        all.findIndex((x) => x.id === o.id) === i,
    )
    .sort((a, b) => b.version - a.version)
})
const against = ref('')
/** The delivery of what is watched, with the recipe by which the live program is shown like it. */
const delivery = computed(() =>
  [...deliveries.list, ...deliveries.newest].find((d) => d.outputs.some((o) => o.id === props.watched?.id)),
)
/** The live program can be shown in the format that is worked in, and at the rate of the file. */
const live = computed(() => {
  const item = props.watched?.item as Item | undefined
  const recipe = delivery.value?.recipe as Recipe | undefined
  const { format, rate } = scene.doc.settings
  const like = item?.format === format && delivery.value?.rate === rate
  return item && recipe && like && item.what !== 'camera' ? { item, recipe } : null
})
const second = computed(() =>
  against.value === 'live' && live.value
    ? undefined
    : (earlier.value.find((o) => o.id === against.value) ?? earlier.value[0]),
)
const withLive = computed(() => !!live.value && !second.value)
const comparing = computed(() => compare.value !== 'alone' && plays.value && (!!second.value || withLive.value))

watch(
  () => props.watched?.id,
  async (now) => {
    frame.value = 0
    failed.value = false
    playing.value = false
    if (!now) return
    await nextTick()
    if (plays.value) void play()
  },
)
async function play() {
  try {
    await video.value?.play()
  } catch {
    playing.value = false // the browser lets nothing play unasked
  }
}
const toggle = () => (playing.value ? video.value?.pause() : void play())
/** Goes to a frame: into its middle, as times between frames are rounded differently. */
function go(n: number) {
  const v = video.value
  if (!v || !props.watched) return
  v.pause()
  frame.value = Math.min(props.watched.frames - 1, Math.max(0, n))
  v.currentTime = (frame.value + 0.5) / rate.value
}
function told() {
  const v = video.value
  if (!v || !props.watched) return
  frame.value = Math.min(props.watched.frames - 1, Math.floor(v.currentTime * rate.value + 0.01))
  const o = other.value
  if (
    o &&
    Math.abs(o.currentTime - v.currentTime) > 0.5 / rate.value &&
    (v.paused || Math.abs(o.currentTime - v.currentTime) > 0.15)
  )
    o.currentTime = v.currentTime
}
const following = useRafFn(told, { immediate: false }) // the page is told of the time too seldom
function state() {
  const v = video.value
  playing.value = !!v && !v.paused
  if (playing.value) following.resume()
  else following.pause()
  if (!other.value) return
  if (playing.value) void other.value.play().catch(() => {})
  else other.value.pause()
}
function ended() {
  const next = props.playable[at.value + 1]
  if (on.value && at.value >= 0 && next) emit('watch', next)
}
const step = (by: -1 | 1) => {
  const to = props.playable[at.value + by]
  if (to) emit('watch', to)
}

const note = ref('')
/** Writes a note on the frame into the notes of the shot. */
function keepNote() {
  const w = props.watched
  const shot = w && scene.doc.shots[w.shot]
  const text = note.value.trim()
  if (!w || !shot || !text) return
  const line = `v${w.version}, frame ${frame.value + 1}: ${text}`
  const notes = shot.notes ? `${shot.notes}\n${line}` : line
  if (scene.run('shotSet', { ids: [w.shot], change: { notes } })) {
    note.value = ''
    ElMessage({ message: `It is with shot ${shot.number}.`, type: 'success' })
  }
}
async function copyFolder() {
  try {
    await navigator.clipboard.writeText(folder.value)
    ElMessage({ message: 'The folder is copied: it lies below the store of the server.', type: 'success' })
  } catch {
    ElMessage({ message: `The browser lets nothing be copied here: ${folder.value}`, type: 'warning', showClose: true })
  }
}
/** Fields that keys belong to, and not to the playback. */
const typing = 'input:not([type=radio], [type=checkbox], [type=range])'
function keys(e: KeyboardEvent) {
  if ((e.target as HTMLElement).matches(typing) || !plays.value) return
  const done: Record<string, () => void> = {
    ' ': toggle,
    ArrowLeft: () => go(frame.value - 1),
    ArrowRight: () => go(frame.value + 1),
    ',': () => go(frame.value - 1),
    '.': () => go(frame.value + 1),
    Home: () => go(0),
    End: () => go((props.watched?.frames ?? 1) - 1),
    ArrowUp: () => step(-1),
    ArrowDown: () => step(1),
    f: () => (filled.value = !filled.value),
  }
  if (e.ctrlKey || e.metaKey || e.altKey || !done[e.key]) return
  e.preventDefault()
  e.stopPropagation()
  done[e.key]!()
}
const box = useTemplateRef<HTMLElement>('box')
const hold = () => props.watched && box.value?.focus({ preventScroll: true })
watch([() => props.watched?.id, filled], () => nextTick(hold))
// What is pressed with the mouse lets the focus go; the keys stay with the playback.
useEventListener(window, 'click', (e) => {
  const t = e.target as HTMLElement
  if (box.value?.contains(t) && !t.matches(typing) && !t.closest('.el-select')) hold()
})
</script>
<template>
  <Teleport to="main.desk" :disabled="!filled">
    <div ref="box" class="watch" :class="{ filled }" tabindex="-1" aria-label="Playback" role="region" @keydown="keys">
      <header class="head">
        Playback<span class="dim name" :title="watched?.file">{{ name }}</span>
        <button
          v-if="watched"
          class="icon"
          :aria-label="filled ? 'Beside the list' : 'Fill the desk'"
          :title="filled ? 'Beside the list (F)' : 'Fill the desk (F)'"
          @click="filled = !filled"
        >
          <Shrink v-if="filled" :size="15" /><Expand v-else :size="15" />
        </button>
      </header>
      <div v-if="!watched" class="empty">
        <p>No video is open.</p>
        <p class="dim">Deliver, then press play in the table.</p>
      </div>
      <template v-else>
        <div class="pictures" :class="comparing ? compare : 'alone'">
          <img v-if="isPicture" :src="address(watched)" :alt="name" />
          <template v-else-if="plays">
            <LivePicture
              v-if="comparing && withLive"
              class="other"
              :item="live!.item"
              :recipe="live!.recipe"
              :frame="frame"
            />
            <video
              v-else-if="comparing"
              ref="other"
              :key="`other${second!.id}`"
              class="other"
              muted
              :aria-label="`Version ${second!.version}`"
              :src="address(second!)"
            ></video>
            <video
              ref="video"
              :key="watched.id"
              class="one"
              :style="comparing && compare === 'wiped' ? { clipPath: `inset(0 0 0 ${wipe}%)` } : {}"
              :aria-label="`Video of ${watched.number ? `shot ${watched.number}` : 'the cut'}`"
              :src="address(watched)"
              @timeupdate="told"
              @seeked="told"
              @play="state"
              @pause="state"
              @ended="ended"
              @error="failed = true"
            ></video>
          </template>
          <div v-else class="empty">
            <p>
              Browsers do not play {{ watched.kind === 'pictures' ? 'numbered pictures' : name.split('.').at(-1) }}.
            </p>
            <p class="dim">Save it, and open it elsewhere.</p>
          </div>
        </div>
        <p v-if="failed" class="why">The file cannot be played; it may not lie in the store any more.</p>
        <template v-if="plays">
          <input
            class="seek"
            type="range"
            min="0"
            :max="watched.frames - 1"
            step="1"
            :value="frame"
            aria-label="Frame"
            @input="go(+($event.target as HTMLInputElement).value)"
          />
          <div class="bar">
            <button class="icon" aria-label="Shot before" :disabled="at < 1" @click="step(-1)">
              <SkipBack :size="15" />
            </button>
            <button class="icon" aria-label="Frame back" @click="go(frame - 1)"><ChevronLeft :size="16" /></button>
            <button class="icon" :aria-label="playing ? 'Stop' : 'Play'" @click="toggle">
              <Pause v-if="playing" :size="16" /><Play v-else :size="16" />
            </button>
            <button class="icon" aria-label="Frame on" @click="go(frame + 1)"><ChevronRight :size="16" /></button>
            <button class="icon" aria-label="Next shot" :disabled="at < 0 || at > playable.length - 2" @click="step(1)">
              <SkipForward :size="15" />
            </button>
            <output class="mono" aria-label="Frame of the file">{{ frame + 1 }} / {{ watched.frames }}</output>
            <el-checkbox v-model="on" size="small" label="go on" title="One shot after the other, as in the cut" />
          </div>
          <div v-if="earlier.length || live" class="bar">
            <el-segmented v-model="compare" size="small" :options="['alone', 'beside', 'wiped']" aria-label="Compare" />
            <el-select
              v-if="comparing"
              :model-value="second?.id ?? 'live'"
              size="small"
              class="versions"
              aria-label="Against version"
              @change="against = String($event)"
            >
              <el-option v-if="live" value="live" label="live" />
              <el-option v-for="o in earlier" :key="o.id" :value="o.id" :label="`v${o.version}`" />
            </el-select>
            <input
              v-if="comparing && compare === 'wiped'"
              v-model.number="wipe"
              type="range"
              min="0"
              max="100"
              aria-label="Wipe"
            />
          </div>
        </template>
        <div class="bar save">
          <a class="act" :href="address(watched)" download><Download :size="14" /> Save</a>
          <button class="act" :title="folder" @click="copyFolder"><Copy :size="14" /> Folder</button>
        </div>
        <form v-if="scene.doc.shots[watched.shot] && plays" class="bar" @submit.prevent="keepNote">
          <input
            v-model="note"
            class="note"
            :placeholder="`a note on frame ${frame + 1}`"
            aria-label="Note on the frame"
            maxlength="500"
          />
          <button class="act" :disabled="!note.trim()">Note</button>
        </form>
      </template>
    </div>
  </Teleport>
</template>
<style scoped>
.watch {
  display: flex;
  flex-direction: column;
  height: 100%;
  outline: none;
  background: var(--panel);
}
.watch.filled {
  position: absolute;
  inset: 0;
  z-index: 20;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.pictures {
  position: relative;
  display: flex;
  gap: 4px;
  margin: 0 8px;
  min-height: 120px;
  border-radius: 4px;
  overflow: hidden;
  background: #000;
}
.filled .pictures {
  flex: 1;
  min-height: 0;
}
.pictures > :is(video, img) {
  width: 100%;
  min-width: 0;
  object-fit: contain;
}
.pictures > .empty {
  flex: 1;
}
.pictures.beside > * {
  width: calc(50% - 2px);
}
.pictures.wiped > .other {
  position: absolute;
  inset: 0;
  height: 100%;
}
.pictures.wiped > .one {
  position: relative;
}
input[type='range'] {
  accent-color: var(--brass);
}
.seek {
  margin: 6px 8px 0;
}
.bar {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 4px 8px;
}
.bar output {
  flex: 1;
}
.mono {
  font: 11.5px var(--font-mono);
}
.versions {
  width: 76px;
}
.note {
  flex: 1;
  min-width: 0;
  height: 26px;
  padding: 0 7px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12.5px var(--font);
}
.why {
  margin: 4px 10px;
  color: var(--warning);
  font-size: 12px;
}
</style>
