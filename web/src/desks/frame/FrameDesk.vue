<script setup lang="ts">
import { useView } from '@/stores/view'
import LensView from '@/view3d/LensView.vue'
import PlanView from '@/view3d/plan/PlanView.vue'
import ShapesView from '@/view3d/shapes/ShapesView.vue'
import ScoutView from '@/view3d/ScoutView.vue'
import CameraProperties from '../CameraProperties.vue'
import NodeProperties from '../NodeProperties.vue'
import SplitDesk from '../SplitDesk.vue'
import Wall from '../Wall.vue'

const view = useView()
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
      <el-splitter-panel :min="160"><PlanView /></el-splitter-panel>
    </el-splitter>
    <template #right>
      <NodeProperties v-if="view.node && !view.camera" />
      <CameraProperties v-else :camera="view.camera || view.through" />
    </template>
  </SplitDesk>
</template>
