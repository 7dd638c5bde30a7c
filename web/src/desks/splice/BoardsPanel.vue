<script setup lang="ts">
// Boards: those of the shot in a row, and panels dealt onto new shots in order.
import { Copy, FolderOpen, ImagePlus, Library, Trash2 } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { stem, upload, type KeptImage } from '@/api/uploads'
import type { Card } from '@/core/bridge'
import FromProduction from '../FromProduction.vue'
import { useCopying } from '@/stores/copying'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const id = computed(() => view.shot || (scene.doc.shots[head.airShot] ? head.airShot : ''))
const shot = computed(() => scene.doc.shots[id.value])
const boards = computed(() =>
  Object.entries(scene.doc.boards)
    .filter(([, b]) => b.shot === id.value)
    .map(([key, b]) => ({ id: key, b }))
    .sort((a, b) => (a.b.at ?? 0) - (b.b.at ?? 0)),
)
const length = ref(48)
const busy = ref('')
const taking = ref(false)
const copying = useCopying()

const fail = (e: unknown) => ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
function files(e: Event): File[] {
  const input = e.target as HTMLInputElement
  const list = [...(input.files ?? [])]
  input.value = ''
  return list
}
/** Gives the shot a board from the playhead on; the first one from its beginning. */
function give({ name, blob = '', width = 0, height = 0 }: Pick<Card, 'name' | 'blob' | 'width' | 'height'>) {
  const inside = shot.value ? Math.round(head.screen) - shot.value.screenIn : 0
  const within = inside > 0 && inside < shot.value!.screenOut - shot.value!.screenIn
  scene.run('boardAdd', { shot: id.value, name, blob, width, height, at: boards.value.length && within ? inside : 0 })
  taking.value = false
}
async function add(e: Event) {
  const [file] = files(e)
  if (!file) return
  try {
    give({ name: stem(file), ...(await upload<KeptImage>('images', file)) })
  } catch (e) {
    fail(e)
  }
}
/** Takes pictures and PDFs in, in order of their names, and deals them onto shots. */
async function deal(e: Event) {
  const list = files(e)
    .filter((f) => /\.(png|jpe?g|pdf)$/i.test(f.name))
    .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
  if (!list.length) return fail(new Error('there is no PNG, JPEG or PDF among what was chosen'))
  const panels: (KeptImage & { name: string })[] = []
  try {
    for (const [i, file] of list.entries()) {
      busy.value = `taking in ${i + 1} of ${list.length}`
      if (/\.pdf$/i.test(file.name)) {
        const { pages } = await upload<{ pages: KeptImage[] }>('panels', file)
        pages.forEach((p, k) => panels.push({ name: `${stem(file)} ${k + 1}`, ...p }))
      } else panels.push({ name: stem(file), ...(await upload<KeptImage>('images', file)) })
    }
    scene.run('boardsDeal', { assembly: scene.cut.assembly, frames: length.value, panels })
  } catch (e) {
    fail(e)
  }
  busy.value = ''
}
const change = (board: string, merge: object, label: string) =>
  scene.run('set', { collection: 'boards', id: board, merge, label })
</script>
<template>
  <div class="body">
    <template v-if="shot">
      <h3>Shot {{ shot.number }} {{ shot.name }}</h3>
      <figure v-for="{ id: key, b } in boards" :key="key">
        <img :src="`/api/images/${b.blob}`" :alt="b.name || 'board'" />
        <figcaption>
          <input
            v-typed
            class="rename"
            :value="b.name"
            aria-label="Name of the board"
            @keydown.stop
            @change="change(key, { name: ($event.target as HTMLInputElement).value }, 'name a board')"
          />
          <button
            class="icon"
            aria-label="Copy the board"
            title="Copy the board; Ctrl V gives it to the selected shot"
            @click="copying.take({ boards: [key] })"
          >
            <Copy :size="13" />
          </button>
          <button
            class="icon"
            aria-label="Remove the board"
            @click="scene.run('remove', { collection: 'boards', ids: [key] })"
          >
            <Trash2 :size="13" />
          </button>
        </figcaption>
        <NumberField
          label="From frame"
          unit="f"
          :digits="0"
          :value="b.at ?? 0"
          @change="change(key, { at: Math.max(0, Math.round($event)) }, 'hold a board from another frame')"
        />
      </figure>
      <div class="row">
        <label class="act file"
          ><ImagePlus :size="14" /> {{ boards.length ? 'Another from here' : 'Add a board' }}
          <input
            type="file"
            accept="image/png,image/jpeg,image/webp,image/tiff"
            aria-label="Picture of a board"
            @change="add"
        /></label>
        <button class="act" @click="taking = true"><Library :size="14" /> Of the production…</button>
        <FromProduction v-if="taking" kind="cards" @close="taking = false" @take="give" />
        <button
          v-if="boards.length && shot.plays !== 'board'"
          class="act"
          @click="scene.run('shotSet', { ids: [id], change: { plays: 'board' }, what: 'play the boards' })"
        >
          Play the boards
        </button>
        <button
          v-else-if="shot.plays === 'board' && shot.camera"
          class="act"
          @click="scene.run('shotSet', { ids: [id], change: { plays: '' }, what: 'play the camera' })"
        >
          Play the camera
        </button>
      </div>
    </template>
    <h3>New shots from panels</h3>
    <p class="note">
      Each picture, or page of a PDF, becomes a shot at the end of the main lane, in order of the names.
    </p>
    <NumberField
      label="Length of each"
      unit="f"
      :digits="0"
      :rate="scene.rate"
      :value="length"
      @change="length = Math.max(1, Math.round($event))"
    />
    <div class="row">
      <label class="act file"
        ><ImagePlus :size="14" /> Pictures or PDF…
        <input
          type="file"
          multiple
          accept="image/png,image/jpeg,image/webp,image/tiff,application/pdf"
          aria-label="Panels"
          :disabled="!!busy"
          @change="deal"
      /></label>
      <label class="act file"
        ><FolderOpen :size="14" /> Folder…
        <input type="file" webkitdirectory aria-label="Folder of panels" :disabled="!!busy" @change="deal"
      /></label>
    </div>
    <p v-if="busy" class="note" role="status">{{ busy }}</p>
  </div>
</template>
<style scoped>
figure {
  margin: 0 0 10px;
}
img {
  display: block;
  width: 100%;
  background: #e8e4da;
  border-radius: 4px;
}
figcaption {
  display: flex;
  gap: 4px;
  margin: 3px 0;
}
</style>
