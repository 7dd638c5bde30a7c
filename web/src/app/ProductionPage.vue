<script setup lang="ts">
// What the scenes of a production share: what new ones begin with, lens kits, models,
// sounds, pictures and footage. The library is a document like a scene, with the same
// undo, history and people.
import { ArrowLeft, ImagePlus, Film, Music, Pencil, Plus, Trash2 } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { stem, upload, type KeptImage } from '@/api/uploads'
import { core, type Footage } from '@/core/bridge'
import KitDialog from '@/desks/camera/KitDialog.vue'
import { lensesOf } from '@/desks/camera/kits'
import ImportDialog from '@/desks/dress/ImportDialog.vue'
import MediaRow from '@/desks/MediaRow.vue'
import { useHome } from '@/stores/home'
import type { Shared } from '@/stores/library'
import { useScene } from '@/stores/scene'
import { rateName } from '@/ui/rates'
import { sentence } from '@/ui/sentence'
import EditState from './EditState.vue'
import FormatsTable from './FormatsTable.vue'
import PastBanner from './PastBanner.vue'

const props = defineProps<{ library: string }>()
const scene = useScene()
const home = useHome()
watch(
  () => props.library,
  (id) => {
    void scene.load(id)
    void home.load()
  },
  { immediate: true },
)
onBeforeUnmount(() => scene.leave())
const production = computed(() => home.productions.find((p) => p.library === props.library))
const scenes = computed(
  () => home.scenes?.filter((s) => s.production === production.value?.name && !s.binnedAt && !s.archived) ?? [],
)
watch(
  () => scene.loaded && scene.doc.settings.production,
  (name) => name && (document.title = `${name} · Proscen`),
)
async function rename(e: Event) {
  const field = e.target as HTMLInputElement
  const name = field.value.trim()
  const is = scene.doc.settings.production
  if (!production.value || !name || name === is || !(await home.renameProduction(production.value.id, name)))
    field.value = is
}

const rates = computed(() => (scene.loaded ? core.offered().rates : []))
function changeRate(rate: string) {
  scene.run('rateChange', { rate, keep: 'frames', drop: !!core.atRate(rate).drops })
}
/** The kit that is put together, '' for a new one. */
const kit = ref<string | null>(null)
const remove = (collection: string, id: string) => scene.run('remove', { collection, ids: [id] })

const busy = ref('')
async function takeIn(e: Event, put: (file: File) => Promise<unknown>) {
  const field = e.target as HTMLInputElement
  for (const file of field.files ?? []) {
    busy.value = `Taking in ${file.name}…`
    try {
      await put(file)
    } catch (failed) {
      ElMessage({ message: sentence((failed as Error).message), type: 'warning', showClose: true })
    }
  }
  busy.value = field.value = ''
}
const picture = async (file: File) =>
  scene.run('cardAdd', { name: stem(file), ...(await upload<KeptImage>('images', file)) })
const footage = async (file: File) =>
  scene.run('footageAdd', {
    ...(await upload<Footage>(`footage?rate=${scene.doc.settings.rate}`, file)),
    name: stem(file),
  })
async function sound(file: File) {
  const kept = await upload<{ blob: string; seconds: number }>('sounds', file)
  const track =
    Object.keys(scene.doc.tracks)[0] ?? scene.make('tracks', 'trackAdd', { name: 'sounds', clock: 'story', gain: 0 })[0]
  if (!track) return
  scene.run('soundAdd', { track, name: stem(file), ...kept, in: 0, gain: 0 })
}
function call(collection: Shared, id: string, e: Event) {
  const name = (e.target as HTMLInputElement).value.trim()
  if (name) scene.run('set', { collection, id, merge: { name }, label: `name ${name}` })
}
const shelves = [
  {
    kind: 'models',
    title: 'Models',
    none: 'No models yet. Each scene of the production can take them onto its shelf.',
  },
  { kind: 'cards', title: 'Pictures', none: 'No pictures yet. Scenes take them as boards.' },
  { kind: 'sounds', title: 'Sounds', none: 'No sounds yet.' },
  { kind: 'footage', title: 'Footage', none: 'No videos yet.' },
] as const
</script>
<template>
  <main class="production">
    <header class="bar">
      <router-link to="/" class="act"><ArrowLeft :size="15" /> All scenes</router-link>
      <h1>{{ scene.doc.settings.production }}</h1>
      <span class="dim">what its scenes share</span>
      <span class="gap"></span>
      <EditState v-if="scene.loaded" />
    </header>
    <PastBanner v-if="scene.past && scene.loaded" />
    <div v-if="scene.failure" class="fail">
      <p>{{ scene.failure }}</p>
      <button class="act" @click="scene.load(props.library)">Try again</button>
    </div>
    <div v-else-if="scene.loaded" class="all">
      <section aria-labelledby="begin">
        <h2 id="begin">New scenes begin with</h2>
        <label class="one"
          ><span>Name of the production</span>
          <input
            v-typed
            class="text"
            :value="scene.doc.settings.production"
            aria-label="Name of the production"
            maxlength="200"
            @change="rename"
        /></label>
        <label class="one"
          ><span>Rate</span>
          <el-select
            :model-value="scene.doc.settings.rate"
            size="small"
            class="rate"
            aria-label="Rate of new scenes"
            @change="changeRate"
          >
            <el-option
              v-for="r in [...new Set([...rates, scene.doc.settings.rate])]"
              :key="r"
              :value="r"
              :label="`${rateName(r)} f/s`"
            />
          </el-select>
          <span v-if="scene.doc.settings.drop" class="dim">drop-frame timecode</span>
        </label>
        <FormatsTable />
        <p class="note">Scenes that are there keep their own rate and formats.</p>
      </section>
      <section aria-labelledby="kits">
        <h2 id="kits">
          Lens kits
          <button class="act" @click="kit = ''"><Plus :size="14" /> New kit</button>
        </h2>
        <ul v-if="Object.keys(scene.doc.kits).length" class="kits" aria-label="Lens kits">
          <li v-for="(k, id) in scene.doc.kits" :key="id">
            <b>{{ k.name }}</b>
            <span class="dim">{{ lensesOf(k) }} mm{{ k.squeeze && k.squeeze !== 1 ? ` · ${k.squeeze}×` : '' }}</span>
            <button class="icon" :aria-label="`Change ${k.name}`" @click="kit = String(id)">
              <Pencil :size="13" />
            </button>
            <button class="icon" :aria-label="`Remove ${k.name}`" @click="remove('kits', String(id))">
              <Trash2 :size="13" />
            </button>
          </li>
        </ul>
        <p v-else class="note">No kits yet: cameras have any focal length.</p>
        <p class="note">
          A kit that is changed here is changed in every scene of the production, but for scenes that have made it their
          own.
        </p>
        <KitDialog v-if="kit !== null" :first="kit" shelf @close="kit = null" />
      </section>
      <section v-for="s in shelves" :key="s.kind" :aria-label="s.title">
        <h2>
          {{ s.title }}
          <ImportDialog v-if="s.kind === 'models'" shelf />
          <label v-else-if="s.kind === 'cards'" class="act file"
            ><ImagePlus :size="14" /> Pictures…
            <input
              type="file"
              multiple
              accept="image/png,image/jpeg,image/webp,image/tiff"
              aria-label="Pictures"
              :disabled="!!busy"
              @change="takeIn($event, picture)"
          /></label>
          <label v-else-if="s.kind === 'sounds'" class="act file"
            ><Music :size="14" /> Sound files…
            <input
              type="file"
              multiple
              accept="audio/*,.wav,.flac,.mp3,.ogg,.m4a"
              aria-label="Sound files"
              :disabled="!!busy"
              @change="takeIn($event, sound)"
          /></label>
          <label v-else class="act file"
            ><Film :size="14" /> Videos…
            <input
              type="file"
              multiple
              accept="video/*,.mkv,.mov,.mp4,.avi,.ts,.webm"
              aria-label="Videos"
              :disabled="!!busy"
              @change="takeIn($event, footage)"
          /></label>
        </h2>
        <ul v-if="Object.keys(scene.doc[s.kind]).length" class="media" :aria-label="s.title">
          <MediaRow v-for="(thing, id) in scene.doc[s.kind]" :key="id" :kind="s.kind" :thing="thing">
            <template #name
              ><input
                v-typed
                class="rename"
                :value="thing.name"
                :aria-label="`Name of ${thing.name}`"
                @change="call(s.kind, String(id), $event)"
            /></template>
            <button class="icon" :aria-label="`Remove ${thing.name}`" @click="remove(s.kind, String(id))">
              <Trash2 :size="13" />
            </button>
          </MediaRow>
        </ul>
        <p v-else class="note">{{ s.none }}</p>
      </section>
      <section aria-label="Scenes">
        <h2>Scenes</h2>
        <p v-if="!scenes.length" class="note">No scenes yet.</p>
        <p v-else class="scenes">
          <router-link v-for="s in scenes" :key="s.id" :to="`/scenes/${s.id}`">{{ s.title }}</router-link>
        </p>
      </section>
    </div>
    <p v-if="busy" class="busy" role="status">{{ busy }}</p>
  </main>
</template>
<style scoped>
.production {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.bar {
  display: flex;
  align-items: center;
  gap: 10px;
  flex: none;
  height: 44px;
  padding: 0 16px 0 10px;
  border-bottom: 1px solid var(--line);
  background: var(--panel);
}
h1 {
  margin: 0 0 0 6px;
  font: 600 16px var(--font);
}
.gap {
  flex: 1;
}
.all {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(460px, 1fr));
  align-content: start;
  gap: 20px 40px;
  flex: 1;
  padding: 20px 28px 40px;
  overflow: auto;
}
section {
  min-width: 0;
}
h2 {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: 34px;
  margin: 0 0 10px;
  padding-bottom: 6px;
  border-bottom: 1px solid var(--line);
  font: 600 14px var(--font);
}
.one {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 8px;
}
.one > span:first-child {
  width: 150px;
  color: var(--dim);
  font: 12px var(--font-condensed);
}
.text {
  width: 240px;
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: inherit;
  font: 12.5px var(--font);
}
.rate {
  width: 128px;
}
ul {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.kits li {
  display: flex;
  align-items: center;
  gap: 10px;
}
.kits b {
  font-weight: 500;
}
.kits span {
  flex: 1;
  overflow: hidden;
  font: 12px var(--font-mono);
  text-overflow: ellipsis;
  white-space: nowrap;
}
.scenes {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  margin: 0;
}
.fail {
  padding: 40px;
}
.busy {
  position: fixed;
  right: 20px;
  bottom: 12px;
  margin: 0;
  padding: 8px 14px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
}
</style>
