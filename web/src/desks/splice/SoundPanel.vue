<script setup lang="ts">
// A sound and its track: place, gain and fades; which clock the track is tied
// to. Footage is taken in here too, with its sound.
import { Film, Library, Music, Trash2 } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { stem, upload } from '@/api/uploads'
import type { Clock, Footage } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useView } from '@/stores/view'
import { useSoundFiles } from '@/timeline/useSoundFiles'
import NumberField from '@/ui/NumberField.vue'
import FromProduction from '../FromProduction.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const { take, put, busy } = useSoundFiles()
const taking = ref<'sounds' | 'footage' | ''>('')
const sound = computed(() => (view.selected?.collection === 'sounds' ? scene.doc.sounds[view.selected.id] : undefined))
const trackID = computed(() => sound.value?.track ?? (view.selected?.collection === 'tracks' ? view.selected.id : ''))
const track = computed(() => scene.doc.tracks[trackID.value])
const set = (merge: object, label: string) =>
  scene.run('set', { collection: 'sounds', id: view.selected!.id, merge, label })
const setTrack = (merge: object, label: string) =>
  scene.run('set', { collection: 'tracks', id: trackID.value, merge, label })
const frames = (v: number) => Math.max(0, Math.round(v))
const value = (e: Event) => (e.target as HTMLInputElement).value
const tracks = computed(() =>
  Object.entries(scene.doc.tracks)
    .filter(([, t]) => t.clock === 'story' || t.assembly === scene.cut.assembly)
    .map(([id, t]) => ({ id, t })),
)
const working = ref('')
/** Lets a video stand as a shot at the playhead; `from` is the rate of the library that it comes from. */
function stand(video: Footage, from = '') {
  const [made] = scene.make('footage', 'footageAdd', { ...video, from })
  if (!made) return
  const { name, frames } = scene.doc.footage[made]!
  const args = {
    assembly: scene.cut.assembly,
    plays: 'footage' as const,
    footage: made,
    at: Math.round(head.screen),
    frames,
    name,
  }
  const [shot] = scene.make('shots', 'shotInsert', args)
  if (shot) view.select('shots', shot)
}
async function footage(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  working.value = `taking in ${file.name}`
  try {
    stand({ ...(await upload<Footage>(`footage?rate=${scene.doc.settings.rate}`, file)), name: stem(file) })
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
  }
  working.value = ''
}
</script>
<template>
  <div class="body">
    <template v-if="sound">
      <h3>Sound</h3>
      <div class="top">
        <input
          v-typed
          class="rename"
          :value="sound.name"
          aria-label="Name of the sound"
          @keydown.stop
          @change="set({ name: value($event) }, 'name a sound')"
        />
        <button
          class="icon"
          aria-label="Remove the sound"
          @click="scene.run('remove', { collection: 'sounds', ids: [view.selected!.id] }) && view.select('sounds', '')"
        >
          <Trash2 :size="13" />
        </button>
      </div>
      <NumberField
        label="Gain"
        unit="dB"
        :digits="1"
        :step="0.1"
        :value="sound.gain"
        @change="set({ gain: Math.max(-90, Math.min(24, $event)) }, 'gain of a sound')"
      />
      <NumberField
        label="Fade in"
        unit="f"
        :digits="0"
        :rate="scene.rate"
        :value="sound.fadeIn ?? 0"
        @change="set({ fadeIn: frames($event) }, 'fade in')"
      />
      <NumberField
        label="Fade out"
        unit="f"
        :digits="0"
        :rate="scene.rate"
        :value="sound.fadeOut ?? 0"
        @change="set({ fadeOut: frames($event) }, 'fade out')"
      />
      <dl class="figures">
        <dt>From</dt>
        <dd :class="track?.clock">{{ sound.in }}–{{ sound.out - 1 }}</dd>
        <dt>Of the file</dt>
        <dd>{{ (sound.from ?? 0).toFixed(2) }} s of {{ sound.seconds.toFixed(2) }} s</dd>
      </dl>
      <label class="pick"
        >track
        <select
          :value="sound.track"
          aria-label="Track of the sound"
          @change="scene.run('soundMove', { id: view.selected!.id, by: 0, track: value($event) })"
        >
          <option v-for="{ id, t } in tracks" :key="id" :value="id">{{ t.name }}</option>
        </select></label
      >
    </template>
    <template v-if="track">
      <h3>Track</h3>
      <div class="top">
        <input
          v-typed
          class="rename"
          :value="track.name"
          aria-label="Name of the track"
          @keydown.stop
          @change="setTrack({ name: value($event) }, 'name a track')"
        />
        <button
          class="icon"
          aria-label="Remove the track"
          @click="scene.run('trackRemove', { id: trackID }) && view.select('tracks', '')"
        >
          <Trash2 :size="13" />
        </button>
      </div>
      <NumberField
        label="Gain"
        unit="dB"
        :digits="1"
        :step="0.1"
        :value="track.gain"
        @change="setTrack({ gain: Math.max(-90, Math.min(24, $event)) }, 'gain of a track')"
      />
      <label class="pick"
        >tied to
        <select
          :value="track.clock"
          aria-label="Tied to"
          @change="scene.run('trackTie', { id: trackID, clock: value($event) as Clock, assembly: scene.cut.assembly })"
        >
          <option value="story">◷ story time</option>
          <option value="screen">▷ screen time</option>
        </select></label
      >
      <p class="note">
        {{
          track.clock === 'story'
            ? 'It jumps with the cut and runs with the speed of its shots.'
            : 'It runs along with the sequence, whatever is cut.'
        }}
      </p>
    </template>
    <h3>Add</h3>
    <div class="row">
      <label class="act file"
        ><Music :size="14" /> Sound files…
        <input
          type="file"
          multiple
          accept="audio/*,.wav,.flac,.mp3,.ogg,.m4a"
          aria-label="Sound files"
          :disabled="!!busy"
          @change="take([...(($event.target as HTMLInputElement).files ?? [])], trackID)"
      /></label>
      <button class="act" @click="taking = 'sounds'"><Library :size="14" /> Of the production…</button>
      <button class="act" @click="scene.run('trackAdd', { clock: 'story', gain: 0 })">◷ track</button>
      <button class="act" @click="scene.run('trackAdd', { clock: 'screen', assembly: scene.cut.assembly, gain: 0 })">
        ▷ track
      </button>
    </div>
    <p v-if="busy" class="note" role="status">{{ busy }}</p>
    <h3>Footage</h3>
    <p class="note">A video stands as a shot at the playhead, to be trimmed and timed like others.</p>
    <div class="row">
      <label class="act file"
        ><Film :size="14" /> Video…
        <input
          type="file"
          accept="video/*,.mkv,.mov,.mp4,.avi,.ts,.webm"
          aria-label="Video"
          :disabled="!!working"
          @change="footage"
      /></label>
      <button class="act" @click="taking = 'footage'"><Library :size="14" /> Of the production…</button>
    </div>
    <FromProduction
      v-if="taking === 'sounds'"
      kind="sounds"
      @close="taking = ''"
      @take="(put($event, trackID), (taking = ''))"
    />
    <FromProduction
      v-if="taking === 'footage'"
      kind="footage"
      @close="taking = ''"
      @take="(v, from) => (stand(v, from), (taking = ''))"
    />
    <p v-if="working" class="note" role="status">{{ working }}</p>
  </div>
</template>
<style scoped>
.top {
  display: flex;
  gap: 4px;
}
</style>
