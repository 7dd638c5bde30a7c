<script setup lang="ts">
// Open formats: the cut written out and brought in. What a format does not carry
// is said.
import { Download, Upload } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { upload } from '@/api/uploads'
import { core, type Brought, type CutFormat, type Delivered, type OperationName, type Operations } from '@/core/bridge'
import { useDeliveries, type Sheet } from '@/stores/deliveries'
import { useScene } from '@/stores/scene'
import { save, saveFrom } from '@/ui/save'
import { sentence } from '@/ui/sentence'
import ImportPreview from './ImportPreview.vue'

const scene = useScene()
const deliveries = useDeliveries()
const formats = core.formats()
const sheets: { id: Sheet; title: string }[] = [
  { id: 'xlsx', title: 'Shot list as a spreadsheet' },
  { id: 'list', title: 'Shot list to print (PDF)' },
  { id: 'storyboard', title: 'Storyboard to print (PDF)' },
]
const format = ref('otio')
const clock = ref<'story' | 'screen'>('screen')
const said = ref<{ title: string; notes: string[] } | null>(null)
const chosen = computed(() => formats.find((f) => f.id === format.value))
const slug = (s: string) => s.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '')
const name = computed(
  () => `${slug(scene.doc.settings.title)}_${slug(scene.doc.assemblies[scene.cut.assembly]?.name ?? '')}`,
)

/** The newest finished files of the shots. */
async function files(): Promise<Record<string, Delivered>> {
  await deliveries.load()
  const out: Record<string, Delivered> = {}
  for (const d of [...deliveries.list, ...deliveries.newest])
    for (const o of d.outputs) {
      const i = o.item
      if (o.state !== 'done' || out[o.shot] || i?.what !== 'shot' || i.assembly !== scene.cut.assembly) continue
      if ((i.alternate ?? '') !== scene.alternate) continue
      const head = o.frames - (i.out - i.in) - (i.tail ?? 0)
      out[o.shot] = { file: o.file, head, frames: o.frames }
    }
  return out
}
/** How far a sheet is that is being made. */
const making = ref<{ done: number; all: number } | null>(null)
async function sheet(kind: Sheet) {
  making.value = { done: 0, all: 0 }
  try {
    const o = await deliveries.sheet(scene.cut.assembly, kind, (done, all) => (making.value = { done, all }))
    saveFrom(`/api/outputs/${o.id}/file`, '')
    // All shot lists lack the same.
    const { notes = [] } = core.writeCut(scene.cut.assembly, 'csv', clock.value, {})
    if (kind !== 'storyboard') said.value = { title: 'A shot list does not carry everything:', notes }
  } catch (e) {
    ElMessage({ message: (e as Error).message, type: 'warning', showClose: true })
  }
  making.value = null
}
const working = ref(false)
/** Writes the set and the cameras: the server works them out. */
async function stage(f: CutFormat) {
  working.value = true
  try {
    await scene.flushed()
    const query = new URLSearchParams({ assembly: scene.cut.assembly, format: f.id, alternate: scene.alternate })
    const answer = await fetch(`/api/scenes/${scene.id}/stage?${query}`)
    if (!answer.ok) throw new Error(((await answer.json()) as { title: string }).title)
    save(name.value + f.ending, f.media, await answer.text())
    const notes = JSON.parse(decodeURIComponent(answer.headers.get('Proscen-Notes') ?? '[]')) as string[]
    said.value = { title: `${f.title} does not carry everything:`, notes }
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
  }
  working.value = false
}
async function write() {
  said.value = null
  const f = chosen.value
  if (!f) return sheet(format.value as Sheet)
  if (f.stage) return stage(f)
  const w = core.writeCut(scene.cut.assembly, f.id, clock.value, f.id === 'otio' || f.id === 'edl' ? await files() : {})
  if (w.error !== undefined || w.text === undefined)
    return void ElMessage({ message: sentence(w.error ?? 'it could not be written'), type: 'warning', showClose: true })
  save(name.value + f.ending, f.media, w.text)
  if (w.notes?.length) said.value = { title: `${f.title} does not carry everything:`, notes: w.notes }
}
/** What a chosen file would bring, before it is brought. */
const offer = ref<{ file: string; brought: Brought } | null>(null)
/** A workbook's cells as text; of other files their bytes. */
async function contents(file: File): Promise<Uint8Array> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const zip = bytes[0] === 0x50 && bytes[1] === 0x4b
  if (!zip && bytes[0] !== 0xd0) return bytes
  return new TextEncoder().encode((await upload<{ text: string }>('tables', file)).text)
}
async function read(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  said.value = null
  try {
    const b = core.readCut(await contents(file))
    if (b.error !== undefined || !b.operation) throw new Error(b.error ?? 'it could not be read')
    offer.value = { file: file.name, brought: b as Brought }
  } catch (e) {
    ElMessage({
      message: `${file.name}: ${sentence((e as Error).message)}`,
      type: 'warning',
      duration: 6000,
      showClose: true,
    })
  }
}
function bring() {
  const { file, brought } = offer.value!
  offer.value = null
  const before = new Set(Object.keys(scene.doc.assemblies))
  if (!scene.run(brought.operation as OperationName, brought.args as Operations[OperationName])) return
  const made = Object.keys(scene.doc.assemblies).find((id) => !before.has(id))
  if (made) scene.choose(made)
  said.value = {
    title: made ? `${file} is now the assembly “${scene.doc.assemblies[made]!.name}”.` : `${file} is brought in.`,
    notes: brought.notes,
  }
}
</script>
<template>
  <h3>Export and import</h3>
  <label class="pick"
    >format
    <select v-model="format" aria-label="Format to write">
      <option v-for="f in formats" :key="f.id" :value="f.id">{{ f.title }}</option>
      <option v-for="s in sheets" :key="s.id" :value="s.id">{{ s.title }}</option>
    </select></label
  >
  <label v-if="chosen?.lines" class="pick"
    >times of
    <select v-model="clock" aria-label="Clock of the lines">
      <option value="screen">▷ the sequence</option>
      <option value="story">◷ the story</option>
    </select></label
  >
  <div class="row">
    <button class="act" :disabled="!!making || working" @click="write"><Download :size="14" /> Export</button>
    <label class="act file"
      ><Upload :size="14" /> Import…
      <input
        type="file"
        accept=".otio,.edl,.srt,.vtt,.json,.txt,.csv,.tsv,.xlsx,.glb,.gltf"
        aria-label="Import a cut, lines, cameras or a shot list"
        @change="read"
    /></label>
  </div>
  <ImportPreview v-if="offer" :file="offer.file" :brought="offer.brought" @bring="bring" @cancel="offer = null" />
  <p v-if="making" class="dim" role="status" aria-label="Sheet">
    {{ making.all ? `Picture ${making.done} of ${making.all}` : 'Saving' }}
  </p>
  <div v-if="said" class="said" role="status" aria-label="Notes">
    {{ said.title }}
    <ul v-if="said.notes.length">
      <li v-for="n in said.notes" :key="n">{{ n }}</li>
    </ul>
  </div>
</template>
<style scoped>
.said {
  margin-top: 8px;
  padding: 6px 8px;
  border-left: 3px solid var(--sky);
  border-radius: 4px;
  background: var(--raised);
  font-size: 12px;
}
ul {
  margin: 4px 0 0;
  padding-left: 16px;
}
</style>
