<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useScene } from '@/stores/scene'
import { useMatching } from '@/stores/matching'
import { useView } from '@/stores/view'
import LensView from '@/view3d/LensView.vue'
import PlanView from '@/view3d/plan/PlanView.vue'
import ShapesView from '@/view3d/shapes/ShapesView.vue'
import ScoutView from '@/view3d/ScoutView.vue'
import CameraProperties from '../CameraProperties.vue'
import PathProperties from '../dress/PathProperties.vue'
import NodeProperties from '../NodeProperties.vue'
import SplitDesk from '../SplitDesk.vue'
import Wall from '../Wall.vue'

const scene = useScene()
const view = useView()
const matching = useMatching()
const path = computed(() =>
  view.selected?.collection === 'paths' && scene.doc.paths[view.selected.id] ? view.selected.id : '',
)
// A path that is selected while a camera is looked through does not take its panel away.
const beside = ref('camera')
watch(
  () => [path.value, view.through],
  () => (beside.value = view.through ? 'camera' : 'path'),
)
</script>
<template>
  <SplitDesk name="frame" :left="186" bare>
    <template #left><Wall /></template>
    <el-splitter class="split">
      <el-splitter-panel :min="240" size="66%">
        <ShapesView v-if="view.through && view.shapes" :camera="view.through" />
        <LensView v-else-if="view.through" :camera="view.through" />
        <ScoutView v-else />
      </el-splitter-panel>
      <el-splitter-panel :min="160">
        <!-- For a match the set is pressed in scout, as long as it is not asked to be the plan. -->
        <ScoutView v-if="matching.pressing && matching.surface === 'scout'" />
        <PlanView v-else />
      </el-splitter-panel>
    </el-splitter>
    <template #right>
      <div v-if="path && view.through" v-arrows class="leaves" role="tablist" aria-label="Properties of">
        <button role="tab" :aria-selected="beside === 'camera'" @click="beside = 'camera'">
          {{ scene.doc.nodes[view.through]?.name }}
        </button>
        <button role="tab" :aria-selected="beside === 'path'" @click="beside = 'path'">
          {{ scene.doc.paths[path]?.name }}
        </button>
      </div>
      <PathProperties v-if="path && (beside === 'path' || !view.through)" :path="path" />
      <NodeProperties v-else-if="view.node && !view.camera" />
      <CameraProperties v-else :camera="view.camera || view.through" />
    </template>
  </SplitDesk>
</template>
