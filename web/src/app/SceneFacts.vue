<script setup lang="ts">
// Facts of the open scene: what is in it, its files with their sizes, those that are
// missing and can be given again, and what nothing uses.
import { ElMessage } from 'element-plus'
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { api, ask, type Facts, type KnownFile } from '@/api/client'
import { upload } from '@/api/uploads'
import { core, type CollectionName } from '@/core/bridge'
import MediaRow from '@/desks/MediaRow.vue'
import { useLibrary, type Shared } from '@/stores/library'
import { useScene } from '@/stores/scene'
import { megabytes } from '@/ui/megabytes'
import { sentence } from '@/ui/sentence'

defineEmits<{ close: [] }>()
const scene = useScene()
const library = useLibrary()
const facts = ref<Facts | null>(null)
const failure = ref('')
async function load() {
  try {
    await scene.flushed()
    facts.value = await ask(api.GET('/scenes/{scene}/facts', { params: { path: { scene: scene.id } } }))
    failure.value = ''
  } catch (e) {
    failure.value = (e as Error).message
  }
}
onMounted(() => Promise.all([load(), library.load()]))
watch(
  () => scene.revision,
  () => void load(),
)

const counts = computed(() => {
  const d = scene.doc
  const nodes = Object.values(d.nodes)
  const of = (...kinds: string[]) => nodes.filter((n) => kinds.includes(n.kind)).length
  const keys = Object.values(d.curves).reduce((n, c) => n + c.keys.length, 0)
  const size = (c: CollectionName) => Object.keys(d[c]).length
  return [
    ['set and props', of('set', 'prop', 'vehicle')],
    ['people', of('cast')],
    ['cameras', of('camera')],
    ['lamps', of('lamp')],
    ['paths', size('paths')],
    ['keys', keys],
    ['actions', size('actions')],
    ['lines', size('lines')],
    ['assemblies', size('assemblies')],
    ['shots', size('shots')],
    ['markers', size('markers')],
    ['boards', size('boards')],
  ] as const
})
const missing = computed(() => facts.value?.files.filter((f) => f.bytes < 0) ?? [])
const total = computed(() => facts.value?.files.reduce((n, f) => n + Math.max(0, f.bytes), 0) ?? 0)
const bytesOf = (blob: string | undefined) => facts.value?.files.find((f) => f.blob === blob)?.bytes ?? -1

// Files that are missing are given again: the same, or another in their place.
const accepts = {
  models: '.glb,.gltf,.obj,.zip',
  images: 'image/png,image/jpeg,image/webp,image/tiff',
  sounds: 'audio/*,.wav,.flac,.mp3,.ogg,.m4a',
  footage: 'video/*,.mkv,.mov,.mp4,.avi,.ts,.webm',
} as Record<string, string>
const busy = ref('')
async function give(f: KnownFile, e: Event) {
  const field = e.target as HTMLInputElement
  const file = field.files?.[0]
  field.value = ''
  if (!file) return
  busy.value = `Taking in ${file.name}…`
  try {
    const own = Object.values(scene.doc.footage).find((x) => x.blob === f.blob)?.rate
    const here = scene.doc.settings.rate
    const send = (rate: string) =>
      upload<{ blob: string }>(f.kind === 'footage' ? `footage?rate=${rate}` : f.kind, file)
    let kept = await send(own ?? here)
    if (kept.blob !== f.blob && own) kept = await send(here) // another one, so it need not be as the old one was
    if (kept.blob !== f.blob) scene.run('fileReplace', { kind: f.kind, blob: f.blob, with: kept })
    await load()
    void scene.fetchModels()
  } catch (failed) {
    ElMessage({ message: sentence((failed as Error).message), type: 'warning', showClose: true })
  }
  busy.value = ''
}

/** One of those that name each file. */
const media = computed(() => {
  const out: { kind: Shared; id: string }[] = []
  for (const kind of ['models', 'cards', 'sounds', 'footage'] as const) {
    const seen = new Set<string>()
    for (const [id, { blob }] of Object.entries(scene.doc[kind])) {
      if (!blob || seen.has(blob)) continue
      seen.add(blob)
      out.push({ kind, id })
    }
  }
  return out
})
const sharing = ref('')
/** Puts a file of the scene into the library of its production. */
async function share(kind: Shared, id: string) {
  sharing.value = id
  const rate = scene.doc.settings.rate
  switch (kind) {
    case 'models':
      await library.operate('modelAdd', { ...scene.doc.models[id] })
      break
    case 'cards':
      await library.operate('cardAdd', { ...scene.doc.cards[id] })
      break
    case 'footage':
      await library.operate('footageAdd', { ...scene.doc.footage[id], from: rate })
      break
    case 'sounds': {
      const { name, blob, seconds } = scene.doc.sounds[id]!
      const track = () => Object.keys(library.kept?.tracks ?? {})[0]
      if (!track() && !(await library.operate('trackAdd', { name: 'sounds', clock: 'story', gain: 0 }))) break
      await library.operate('soundAdd', { track: track(), name, blob, seconds, in: 0, gain: 0 })
    }
  }
  sharing.value = ''
}

const unused = computed(() => {
  void scene.changes
  return core.unused()
})
const spared = reactive(new Set<string>())
const key = (t: { collection: string; id: string }) => `${t.collection}/${t.id}`
const cleared = computed(() => unused.value.filter((t) => !spared.has(key(t))))
const clear = () =>
  scene.run('clearUnused', { things: cleared.value.map(({ collection, id }) => ({ collection, id })) })
</script>
<template>
  <el-dialog
    :model-value="true"
    append-to-body
    :title="`Facts of ${scene.doc.settings.title}`"
    width="660"
    @close="$emit('close')"
  >
    <div class="facts">
      <p v-if="failure" class="why" role="alert">{{ failure }} <button class="link" @click="load">Try again</button></p>
      <dl class="counts" aria-label="Counts">
        <template v-for="[what, n] in counts" :key="what">
          <dt>{{ what }}</dt>
          <dd>{{ n.toLocaleString('en') }}</dd>
        </template>
      </dl>
      <p class="note">
        {{ scene.revision }} edits<template v-if="facts"
          >, a document of {{ megabytes(facts.bytes) }}, {{ facts.files.length }}
          {{ facts.files.length === 1 ? 'file' : 'files' }} of {{ megabytes(total) }}</template
        >.
      </p>
      <section v-if="missing.length" aria-label="Missing files">
        <h3>Missing files</h3>
        <p v-for="f in missing" :key="f.blob" class="line">
          <span>The file of {{ f.for }} is not on the server.</span>
          <label class="act file"
            >Give it again…
            <input
              type="file"
              :accept="accepts[f.kind]"
              :aria-label="`Give the file of ${f.for} again`"
              :disabled="!!busy"
              @change="give(f, $event)"
          /></label>
        </p>
        <p v-if="busy" class="note" role="status">{{ busy }}</p>
      </section>
      <section v-if="media.length" aria-label="Files">
        <h3>Models, pictures, sounds, footage</h3>
        <ul>
          <MediaRow v-for="m in media" :key="m.kind + m.id" :kind="m.kind" :thing="scene.doc[m.kind][m.id]!">
            <span class="dim size">{{
              bytesOf(scene.doc[m.kind][m.id]!.blob) < 0 ? 'missing' : megabytes(bytesOf(scene.doc[m.kind][m.id]!.blob))
            }}</span>
            <span v-if="library.has.has(scene.doc[m.kind][m.id]!.blob ?? '')" class="dim">in the production</span>
            <button
              v-else
              class="act"
              :disabled="sharing === m.id || !library.kept"
              :aria-label="`Give to the production: ${scene.doc[m.kind][m.id]!.name}`"
              @click="share(m.kind, m.id)"
            >
              Give to the production
            </button>
          </MediaRow>
        </ul>
      </section>
      <section aria-label="Unused">
        <h3>What nothing uses</h3>
        <p v-if="!unused.length" class="note">Everything is in use.</p>
        <template v-else>
          <label v-for="t in unused" :key="key(t)" class="check">
            <input
              type="checkbox"
              :checked="!spared.has(key(t))"
              @change="spared.has(key(t)) ? spared.delete(key(t)) : spared.add(key(t))"
            />
            {{ t.name }}
          </label>
          <button class="act" :disabled="!cleared.length" @click="clear">Clear {{ cleared.length }}</button>
        </template>
      </section>
    </div>
  </el-dialog>
</template>
<style scoped>
.facts {
  display: grid;
  gap: 14px;
  max-height: 66vh;
  overflow: auto;
}
.counts {
  display: grid;
  grid-template-columns: repeat(4, 1fr auto);
  gap: 6px 12px;
  margin: 0;
}
.counts dt {
  color: var(--dim);
  font: 12px var(--font-condensed);
}
.counts dd {
  margin: 0 16px 0 0;
  font: 12px var(--font-mono);
  text-align: right;
}
.facts > .note {
  margin: 0;
}
h3 {
  margin: 0 0 6px;
}
.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
  margin: 0 0 6px;
  color: var(--warning);
}
ul {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.size {
  font: 12px var(--font-mono);
}
.why {
  margin: 0;
  color: var(--warning);
}
</style>
