<script setup lang="ts">
// Importing a model: the server converts it, and its size is shown beside a
// person before it goes on the shelf.
import { Upload } from '@lucide/vue'
import { ref } from 'vue'
import { core, type BroughtCamera, type BroughtLamp, type Vec3 } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { dataAddress, keepPortrait } from '@/view3d/portraits'
import { allInWords } from '@/ui/lengths'
import LeftOut from '@/ui/LeftOut.vue'

/** On the shelf of a library, a model is kept and not placed. */
const props = defineProps<{ shelf?: boolean }>()
const scene = useScene()
const view = useView()
const open = ref(false)
const file = ref<File | null>(null)
const unit = ref(1)
const up = ref<'y' | 'z'>('y')
const name = ref('')
const busy = ref(false)
const trouble = ref('')
interface Info {
  blob: string
  size: Vec3
  triangles: number
  clips?: { name: string; seconds: number }[]
  notes?: string[]
  cameras?: BroughtCamera[]
  lamps?: BroughtLamp[]
}
const info = ref<Info | null>(null)
const picture = ref('')
/** Cameras and lamps of the file come too. */
const withAll = ref(false)
const frames = (c: BroughtCamera) => (c.frames.length > 1 ? `moves for ${c.frames.length} frames` : 'stands still')
let small = ''
const units = [
  { value: 1, title: 'metres' },
  { value: 0.01, title: 'centimetres' },
  { value: 0.001, title: 'millimetres' },
  { value: 0.0254, title: 'inches' },
  { value: 0.3048, title: 'feet' },
]

function show() {
  open.value = true
  file.value = info.value = null
  trouble.value = picture.value = name.value = ''
  withAll.value = false
  unit.value = 1
  up.value = 'y'
}
function choose(e: Event) {
  const f = (e.target as HTMLInputElement).files?.[0]
  if (f) take(f)
}
function take(f: File) {
  file.value = f
  name.value = f.name.replace(/\.[^.]*$/, '')
  void convert()
}
/** Converts the file as its unit and axis now say. Nothing in the scene changes. */
async function convert() {
  if (!file.value) return
  busy.value = true
  trouble.value = ''
  info.value = null
  try {
    const q = new URLSearchParams({ unit: String(unit.value), up: up.value })
    if (!props.shelf) {
      const { rate, story } = scene.doc.settings
      q.set('rate', rate)
      q.set('in', String(story.in))
      q.set('aspect', String(scene.aspect))
    }
    const headers = { 'Content-Type': 'application/octet-stream' }
    const r = await fetch(`/api/models?${q}`, { method: 'POST', headers, body: file.value })
    const answer = await r.json()
    if (!r.ok) throw new Error(answer.title)
    const bytes = new Uint8Array(await (await fetch(`/api/models/${answer.blob}`)).arrayBuffer())
    picture.value = dataAddress(core.modelPicture(bytes, 420, 260, true), 420, 260)
    small = dataAddress(core.modelPicture(bytes, 132, 88, false), 132, 88)
    info.value = answer as Info
  } catch (e) {
    trouble.value =
      e instanceof SyntaxError || e instanceof TypeError
        ? 'The server does not answer; try again in a moment.'
        : (e as Error).message
  }
  busy.value = false
}
function keep() {
  const i = info.value
  if (!i) return
  const { blob, size, triangles, clips, cameras, lamps } = i
  const kind = clips?.length ? 'cast' : 'prop'
  const along = withAll.value && (cameras || lamps)
  const args = { name: name.value || 'Model', blob, size, triangles, clips }
  if (!scene.run('modelAdd', along ? { ...args, with: { kind: 'prop', cameras, lamps } } : args)) return
  keepPortrait(`model ${blob}`, small)
  open.value = false
  const id = Object.keys(scene.doc.models).find((k) => scene.doc.models[k]!.blob === blob)
  if (id && !props.shelf && !along) view.placing = { kind, model: id, name: name.value || 'Model' }
}
</script>
<template>
  <button class="act" :class="{ wide: !shelf }" @click="show"><Upload :size="13" /> Import a model</button>
  <el-dialog v-model="open" title="Import a model" width="520" top="5vh" append-to-body>
    <label
      class="drop"
      @dragover.prevent
      @drop.prevent="$event.dataTransfer?.files[0] && take($event.dataTransfer.files[0])"
    >
      <input type="file" accept=".glb,.gltf,.obj,.stl,.ply,.zip" aria-label="Model file" @change="choose" />
      <span>{{
        file
          ? file.name
          : 'Choose a file or drop it here: .glb, .obj, .stl, .ply, or a .zip with a .gltf or .obj and its files'
      }}</span>
    </label>
    <div class="say">
      <label class="pick"
        >Unit
        <select v-model.number="unit" aria-label="Unit" @change="convert">
          <option v-for="u in units" :key="u.value" :value="u.value">{{ u.title }}</option>
        </select></label
      >
      <label class="pick"
        >Up is
        <select v-model="up" aria-label="Up" @change="convert">
          <option value="y">Y</option>
          <option value="z">Z</option>
        </select></label
      >
    </div>
    <p v-if="busy" class="note" role="status">Reading {{ file?.name }}…</p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <template v-if="info">
      <img
        v-if="picture"
        :src="picture"
        alt="The model beside a person of 1.74 m"
        class="look"
        :class="{ less: info.notes?.length }"
      />
      <dl class="figures">
        <dt>Size</dt>
        <dd>{{ allInWords(info.size, ' × ') }}</dd>
        <dt>Triangles</dt>
        <dd>{{ info.triangles.toLocaleString('en') }}</dd>
        <dt>Clips</dt>
        <dd>{{ info.clips?.map((c) => c.name).join(', ') || 'none' }}</dd>
      </dl>
      <template v-if="info.cameras?.length || info.lamps?.length">
        <label class="along"
          ><input v-model="withAll" type="checkbox" /> Put it in the middle of the set, with what is in its file:</label
        >
        <ul aria-label="Cameras and lamps of the file">
          <li v-for="(c, i) in info.cameras" :key="`c${i}`">
            Camera {{ c.name }} · {{ c.frames[0]!.focal.toFixed(0) }} mm · {{ frames(c) }}
          </li>
          <li v-for="(l, i) in info.lamps" :key="`l${i}`">Lamp {{ l.name }}</li>
        </ul>
      </template>
      <LeftOut :notes="info.notes ?? []" />
      <label class="pick">Name <input v-model="name" type="text" aria-label="Model name" @keydown.stop /></label>
    </template>
    <template #footer>
      <button class="act" @click="open = false">Cancel</button>
      <button class="act main" :disabled="!info" @click="keep">
        {{ withAll ? 'Bring in' : 'Put on the shelf' }}
      </button>
    </template>
  </el-dialog>
</template>
<style scoped>
ul {
  max-height: 120px;
  margin: 4px 0 8px;
  padding-left: 18px;
  overflow: auto;
  font-size: 12px;
}
.along {
  display: block;
  margin-top: 8px;
  font-size: 13px;
}
.wide {
  width: 100%;
  justify-content: center;
  margin-top: 6px;
}
.drop {
  display: block;
  padding: 14px;
  border: 1px dashed var(--dim);
  border-radius: 6px;
  color: var(--dim);
  text-align: center;
  cursor: pointer;
}
.drop input {
  position: absolute;
  opacity: 0;
}
.drop:focus-within {
  outline: 2px solid var(--brass);
}
.say {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.look {
  display: block;
  width: 100%;
  margin-top: 10px;
  border-radius: 6px;
}
.less {
  max-height: 190px;
  object-fit: contain;
}
.trouble {
  margin: 10px 0 0;
  color: var(--warning, #e8c15a);
}
</style>
