<script setup lang="ts">
// All cameras as live pictures. In Frame pressing one looks through it, in
// Splice it puts it on air at the playhead. They are put in order by dragging, and
// several at once into folders.
import { ChevronRight } from '@lucide/vue'
import { useLocalStorage } from '@vueuse/core'
import { ElMessageBox } from 'element-plus'
import { computed, ref } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import DifferMark from '@/ui/DifferMark.vue'
import PersonMarks from '@/ui/PersonMarks.vue'
import { useFrameTick } from '@/view3d/useFrameTick'
import Thumb from '@/view3d/Thumb.vue'
import { useSubjects } from './useSubjects'
import { useStarting } from '@/stores/starting'

const starting = useStarting()

const props = defineProps<{ cuts?: boolean }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const { tick, stage } = useFrameTick()
const { shown } = useSubjects()
const subjects = computed(() => shown.value.filter((g) => g.kind !== 'set'))
const sees = ref('') // only cameras that see this subject
const archived = ref(false)
const cameras = computed(() => {
  if (archived.value) return scene.cameras.filter((c) => c.camera.archived)
  if (!sees.value) return scene.wall
  void tick.value
  return scene.wall.filter((c) => core.framing(c.id, [sees.value]).subjects.some((s) => s.status > 1))
})
/** The cameras that some shot shows, of any assembly. */
const used = computed(
  () =>
    new Set(
      Object.values(scene.doc.shots).flatMap((s) => [s.camera, ...Object.values(s.formats ?? {}).map((f) => f.camera)]),
    ),
)
/** The cameras by their folders, those in none first. */
const folders = computed(() => {
  const out = new Map<string, typeof cameras.value>([['', []]])
  for (const c of cameras.value) {
    const folder = c.camera.folder ?? ''
    out.set(folder, [...(out.get(folder) ?? []), c])
  }
  return [...out].filter(([, of]) => of.length)
})
const closed = useLocalStorage<string[]>('proscen.folders.closed', [])
const here = (folder: string) => `${scene.id} ${folder}` // other scenes may have one of that name
const shut = (folder: string) => closed.value.includes(here(folder))
function fold(folder: string) {
  const rest = closed.value.filter((f) => f !== here(folder))
  closed.value = shut(folder) ? rest : [...rest, here(folder)]
}
const picked = computed(() => view.nodes.filter((id) => scene.doc.nodes[id]?.camera))
const known = computed(() => [...new Set(scene.cameras.flatMap((c) => c.camera.folder || []))].sort())
const folderOf = computed(() => {
  const all = new Set(picked.value.map((id) => scene.doc.nodes[id]!.camera!.folder ?? ''))
  return all.size === 1 ? [...all][0]! : mixed
})
/** Puts what is chosen into a folder, or into a new one that is named first. */
async function put(e: Event) {
  const list = e.target as HTMLSelectElement
  let folder = list.value
  if (folder === anew) {
    const answer = await ElMessageBox.prompt('', 'New folder', {
      inputPlaceholder: 'Name of the folder',
      confirmButtonText: 'OK',
      cancelButtonText: 'Leave it',
    }).catch(() => null)
    folder = ((answer as { value?: string } | null)?.value ?? '').trim()
    list.value = folderOf.value
    if (!folder) return
  }
  scene.run('cameraFolder', { ids: picked.value, folder })
}
const hidden = computed(() => scene.cameras.length - scene.wall.length)
function press(e: MouseEvent, id: string) {
  if (e.shiftKey || e.ctrlKey || e.metaKey) return view.toggle(id)
  if (!props.cuts) return view.lookThrough(id)
  if (!head.take) view.select('nodes', id)
  head.putOnAir(id)
}
const dragged = ref('')
const before = ref('')
function drop() {
  const ids = scene.wall.map((c) => c.id).filter((id) => id !== dragged.value)
  const at = before.value ? ids.indexOf(before.value) : ids.length
  if (dragged.value && before.value !== dragged.value) {
    ids.splice(at < 0 ? ids.length : at, 0, dragged.value)
    scene.run('cameraOrder', { ids })
  }
  dragged.value = before.value = ''
}
// No folder is called so.
const anew = '\n'
const mixed = '\t'
const focal = (c: { camera: { focal: number } }) => `${+c.camera.focal.toFixed(1)}`
/** What it is carried by, when not by sticks. */
const carried = { sticks: '', dolly: 'dolly', handheld: 'hand', mounted: 'mount' }
</script>
<template>
  <div class="wall">
    <header class="head">
      Wall
      <select v-model="sees" class="sees" aria-label="Filter the wall" title="Only cameras that see somebody">
        <option value="">all cameras</option>
        <optgroup v-for="g in subjects" :key="g.heading" :label="g.heading">
          <option v-for="s in g.of" :key="s.id" :value="s.id">sees {{ s.name }}</option>
        </optgroup>
      </select>
    </header>
    <label v-if="picked.length" class="into">
      {{ picked.length === 1 ? 'Camera' : `${picked.length} cameras` }} in
      <select class="sees" aria-label="Folder" :value="folderOf" title="Shift or Ctrl chooses several" @change="put">
        <option v-if="folderOf === mixed" :value="mixed" disabled>several folders</option>
        <option value="">no folder</option>
        <option v-for="f in known" :key="f" :value="f">{{ f }}</option>
        <option :value="anew">new folder…</option>
      </select>
    </label>
    <div class="scrolls list" @scroll.passive="stage.invalidate()">
      <template v-for="[folder, inside] in folders" :key="folder">
        <button v-if="folder" class="folder" :aria-expanded="!shut(folder)" @click="fold(folder)">
          <ChevronRight :size="13" />{{ folder }} <span class="dim">{{ inside.length }}</span>
        </button>
        <template v-if="!shut(folder)">
          <button
            v-for="c in inside"
            :key="c.id"
            class="cell"
            draggable="true"
            :style="{ '--camera': c.camera.color }"
            :class="{
              through: view.through === c.id,
              air: head.airCamera === c.id,
              selected: view.isSelected('nodes', c.id),
              before: before === c.id && dragged,
            }"
            :aria-label="`${cuts ? 'Cut to' : 'Look through'} camera ${c.camera.number} ${c.node.name} ${focal(c)} ${carried[c.camera.support] ?? ''}`"
            :aria-pressed="cuts ? head.airCamera === c.id : view.through === c.id"
            @click="press($event, c.id)"
            @dragstart="dragged = c.id"
            @dragover.prevent="before = c.id"
            @drop.prevent="drop"
            @dragend="dragged = before = ''"
          >
            <Thumb :camera="c.id" />
            <span class="label"
              ><CameraBadge :number="c.camera.number" :color="c.camera.color" :size="18" />{{ ' '
              }}<span class="name">{{ c.node.name }}</span
              >{{ ' ' }}<PersonMarks :of="`nodes/${c.id}`" /><DifferMark :of="`nodes/${c.id}`" /><span class="lens">{{
                focal(c)
              }}</span></span
            >
            {{ ' ' }}<span v-if="carried[c.camera.support]" class="carried">{{ carried[c.camera.support] }}</span>
            <span v-if="Object.keys(scene.doc.shots).length && !used.has(c.id)" class="unused">in no shot</span>
            <span v-if="head.airCamera === c.id" class="tally" aria-hidden="true"></span>
          </button>
        </template>
      </template>
      <p v-if="!scene.cameras.length" class="dim none">
        There is no camera yet. Roam in the scout view, and put one where the picture is good.
        <button class="act" @click="starting.camera()">Put one at scout</button>
      </p>
      <p v-else-if="!cameras.length" class="dim none">No camera sees them at this frame.</p>
      <button v-if="hidden" class="link none" :aria-pressed="archived" @click="archived = !archived">
        {{ archived ? 'back to the wall' : `${hidden} archived` }}
      </button>
    </div>
  </div>
</template>
<style scoped>
.wall {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.list {
  flex: 1;
  overflow-y: auto;
  padding: 0 8px 8px;
  scrollbar-gutter: stable;
}
.cell {
  position: relative;
  display: block;
  width: 100%;
  margin: 0 0 8px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--text);
  text-align: left;
  cursor: pointer;
  box-shadow: 0 0 0 1px var(--line);
}
.cell.through {
  box-shadow: 0 0 0 3px var(--camera);
}
.cell.selected:not(.through) {
  box-shadow: 0 0 0 2px var(--text);
}
.cell.before {
  box-shadow: 0 -4px 0 0 var(--brass);
}
.sees {
  margin-left: auto;
  max-width: 110px;
  border: 0;
  background: none;
  color: var(--dim);
  font: 12px var(--font);
}
.sees option {
  background: var(--raised);
  color: var(--text);
}
.label {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 24px;
  padding: 0 6px;
  background: var(--raised);
  border-radius: 0 0 4px 4px;
  font: 12px var(--font-condensed);
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lens {
  color: var(--dim);
  font: 11px var(--font-mono);
}
.carried {
  position: absolute;
  left: 5px;
  top: 5px;
  padding: 0 5px;
  border-radius: 4px;
  background: rgb(17 24 27 / 0.66);
  font: 11px var(--font-condensed);
}
.into {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 10px 6px;
  color: var(--dim);
  font-size: 12px;
}
.folder {
  display: flex;
  align-items: center;
  gap: 4px;
  width: 100%;
  margin: 0 0 6px;
  padding: 2px 0;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  color: var(--text);
  font: 600 12px var(--font-condensed);
  text-align: left;
  cursor: pointer;
}
.folder[aria-expanded='true'] svg {
  transform: rotate(90deg);
}
.unused {
  position: absolute;
  right: 5px;
  bottom: 28px;
  padding: 0 5px;
  border-radius: 4px;
  background: rgb(17 24 27 / 0.66);
  color: var(--dim);
  font: 11px var(--font-condensed);
}
.lens::after {
  content: ' mm';
}
.tally {
  position: absolute;
  right: 0;
  top: 0;
  border: 9px solid;
  border-color: var(--vermilion) var(--vermilion) transparent transparent;
}
.none {
  padding: 0 8px;
}
</style>
