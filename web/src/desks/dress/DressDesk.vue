<script setup lang="ts">
import { computed } from 'vue'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import PlanView from '@/view3d/plan/PlanView.vue'
import ScoutView from '@/view3d/ScoutView.vue'
import CameraProperties from '../CameraProperties.vue'
import NodeProperties from '../NodeProperties.vue'
import SplitDesk from '../SplitDesk.vue'
import ActionProperties from './ActionProperties.vue'
import LightProperties from './LightProperties.vue'
import LineProperties from './LineProperties.vue'
import PathProperties from './PathProperties.vue'
import SeveralProperties from './SeveralProperties.vue'
import StockPanel from './StockPanel.vue'

const scene = useScene()
const view = useView()
/** The selection outside the nodes, when it is still there. */
const chosen = computed(() => {
  const s = view.selected
  return s &&
    (s.collection === 'actions' || s.collection === 'lines' || s.collection === 'paths') &&
    scene.doc[s.collection][s.id]
    ? s
    : null
})
</script>
<template>
  <SplitDesk name="dress" :left="236">
    <template #left><StockPanel /></template>
    <el-splitter class="split">
      <el-splitter-panel :min="200"><PlanView /></el-splitter-panel>
      <el-splitter-panel :min="200"><ScoutView /></el-splitter-panel>
    </el-splitter>
    <template #right>
      <ActionProperties v-if="chosen?.collection === 'actions'" :action="chosen.id" />
      <LineProperties v-else-if="chosen?.collection === 'lines'" :line="chosen.id" />
      <PathProperties v-else-if="chosen?.collection === 'paths'" :path="chosen.id" />
      <SeveralProperties v-else-if="view.nodes.length > 1" />
      <CameraProperties v-else-if="view.camera" :camera="view.camera" />
      <NodeProperties v-else-if="view.node" />
      <LightProperties v-else />
    </template>
  </SplitDesk>
</template>
