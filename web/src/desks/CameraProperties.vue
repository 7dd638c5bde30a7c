<script setup lang="ts">
// A camera in six leaves, in the order in which a crew says it: how it is carried and
// aimed, its lens and gate, a picture composed for it, one that it is matched to, its
// move, and its numbers.
import { Archive, ArchiveRestore, Copy, Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import { useLocalStorage } from '@vueuse/core'
import CameraBadge from '@/ui/CameraBadge.vue'
import DifferFields from '@/ui/DifferFields.vue'
import ComposePanel from './camera/ComposePanel.vue'
import LensPart from './camera/LensPart.vue'
import MatchPanel from './camera/MatchPanel.vue'
import MovePanel from './camera/MovePanel.vue'
import NumbersPanel from './camera/NumbersPanel.vue'
import SupportPart from './camera/SupportPart.vue'
import { useCamera } from './camera/useCamera'

const props = defineProps<{ camera: string }>()
const { scene, view, head, node, cam, run, merge } = useCamera(() => props.camera)
const leaf = useLocalStorage('proscen.camera.leaf', 'support')
const leaves = ['support', 'lens', 'compose', 'match', 'move', 'numbers']
const used = computed(() => Object.values(scene.doc.shots).filter((s) => s.camera === props.camera).length)

function rename(e: Event) {
  const name = (e.target as HTMLInputElement).value
  scene.run('set', { collection: 'nodes', id: props.camera, merge: { name }, label: 'rename camera' })
}
function renumber(e: Event) {
  const input = e.target as HTMLInputElement
  const number = Math.round(Number(input.value))
  if (!Number.isFinite(number) || !scene.run('cameraNumber', { id: props.camera, number }))
    input.value = String(cam.value!.number)
}
function duplicate(keys: boolean) {
  const [made] = scene.make('nodes', 'cameraCopy', { id: props.camera, keys, frame: head.story })
  if (!made) return
  if (view.through) view.lookThrough(made)
  else view.select('nodes', made)
}
function remove() {
  if (!scene.run('remove', { collection: 'nodes', ids: [props.camera] })) return
  if (view.through === props.camera) view.lookThrough('')
  view.select('nodes', '')
}
const archive = (on: boolean) => run('cameraArchive', { archive: on })
</script>
<template>
  <section v-if="node && cam" class="props" :style="{ '--camera': cam.color }">
    <header class="head">
      <CameraBadge :number="cam.number" :color="cam.color" :size="26" />
      <input
        v-typed
        class="rename"
        :value="node.name"
        aria-label="Camera name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="rename"
      />
      <input
        v-typed
        class="number"
        :value="cam.number"
        aria-label="Camera number"
        inputmode="numeric"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="renumber"
      />
      <input
        type="color"
        aria-label="Camera colour"
        :value="cam.color"
        @change="merge({ color: ($event.target as HTMLInputElement).value }, 'colour')"
      />
    </header>
    <div class="differing"><DifferFields collection="nodes" :id="camera" /></div>
    <div class="leaves" v-arrows role="tablist" aria-label="Camera">
      <button v-for="l in leaves" :key="l" role="tab" :aria-selected="leaf === l" @click="leaf = l">{{ l }}</button>
    </div>
    <div class="body">
      <LensPart v-if="leaf === 'lens'" :camera="camera" />
      <ComposePanel v-else-if="leaf === 'compose'" :camera="camera" />
      <MatchPanel v-else-if="leaf === 'match'" :key="camera" :camera="camera" />
      <MovePanel v-else-if="leaf === 'move'" :camera="camera" />
      <NumbersPanel v-else-if="leaf === 'numbers'" :camera="camera" />
      <template v-else>
        <SupportPart :camera="camera" />
        <div class="row">
          <button class="act" title="A still camera with this picture" @click="duplicate(false)">
            <Copy :size="14" /> Duplicate
          </button>
          <button class="act" title="With its path and all its keys" @click="duplicate(true)">with keys</button>
          <button v-if="cam.archived" class="act" @click="archive(false)"><ArchiveRestore :size="14" /> Restore</button>
          <button v-else-if="used" class="act" title="Takes it off the wall; its shots keep it" @click="archive(true)">
            <Archive :size="14" /> Archive
          </button>
          <button v-else class="act" @click="remove"><Trash2 :size="14" /> Remove camera</button>
        </div>
      </template>
    </div>
  </section>
  <div v-else class="empty">
    <p>No camera is selected.</p>
    <p class="dim">Press one on the wall to look through it, or put one where the scout view is.</p>
  </div>
</template>
<style scoped>
.differing {
  padding: 0 10px;
}
.number {
  width: 34px;
  text-align: center;
  font: 12px var(--font-mono);
}
.props :deep(.chips) {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(29px, 1fr));
  gap: 3px;
  margin-bottom: 4px;
}
.props :deep(.chips button) {
  height: 24px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 11px var(--font-mono);
  cursor: pointer;
}
.props :deep(.chips.words button) {
  padding: 0 7px;
  font: 11.5px var(--font-condensed);
}
.props :deep(.chips.words) {
  display: flex;
  flex-wrap: wrap;
}
.props :deep(.chips button[aria-pressed='true']) {
  border-color: var(--brass);
  background: var(--brass);
  color: var(--ink);
}
.props :deep(.pair) {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 4px;
  align-items: center;
}
.props :deep(.wide) {
  width: 100%;
  justify-content: center;
  margin-top: 6px;
}
.props :deep(.side) {
  float: right;
  display: flex;
  gap: 8px;
}
.props :deep(.side .link) {
  color: var(--dim);
  text-decoration: none;
}
.props :deep(.side .link[aria-pressed='true']) {
  color: var(--brass);
  text-decoration: underline;
}
.props :deep(.el-segmented) {
  --el-segmented-item-selected-bg-color: var(--brass);
  font-size: 12px;
}
.props :deep(.el-segmented__item) {
  padding: 0 1px;
}
.props :deep(.el-segmented__item-label) {
  font-size: 12px;
}
.props :deep(.el-select),
.props :deep(.el-segmented) {
  margin-bottom: 4px;
}
</style>
