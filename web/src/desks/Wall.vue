<script setup lang="ts">
// All cameras as live pictures. In Frame pressing one looks through it, in
// Splice it puts it on air at the playhead. They are put in order by dragging.
import { computed, ref } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
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
const hidden = computed(() => scene.cameras.length - scene.wall.length)
function press(id: string) {
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
        <optgroup v-for="g in shown.filter((g) => g.heading !== 'Set')" :key="g.heading" :label="g.heading">
          <option v-for="s in g.of" :key="s.id" :value="s.id">sees {{ s.name }}</option>
        </optgroup>
      </select>
    </header>
    <div class="scrolls list" @scroll.passive="stage.invalidate()">
      <button
        v-for="c in cameras"
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
        @click="press(c.id)"
        @dragstart="dragged = c.id"
        @dragover.prevent="before = c.id"
        @drop.prevent="drop"
        @dragend="dragged = before = ''"
      >
        <Thumb :camera="c.id" />
        <span class="label"
          ><CameraBadge :number="c.camera.number" :color="c.camera.color" :size="18" />{{ ' '
          }}<span class="name">{{ c.node.name }}</span
          >{{ ' ' }}<PersonMarks :of="`nodes/${c.id}`" /><span class="lens">{{ focal(c) }}</span></span
        >
        {{ ' ' }}<span v-if="carried[c.camera.support]" class="carried">{{ carried[c.camera.support] }}</span>
        <span v-if="Object.keys(scene.doc.shots).length && !used.has(c.id)" class="unused">in no shot</span>
        <span v-if="head.airCamera === c.id" class="tally" aria-hidden="true"></span>
      </button>
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
