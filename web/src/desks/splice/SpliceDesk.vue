<script setup lang="ts">
import { usePlayhead } from '@/stores/playhead'
import LensView from '@/view3d/LensView.vue'
import ShotProperties from '../ShotProperties.vue'
import SplitDesk from '../SplitDesk.vue'
import Wall from '../Wall.vue'

const head = usePlayhead()
</script>
<template>
  <SplitDesk name="splice" :left="186" bare>
    <template #left><Wall cuts /></template>
    <LensView :camera="head.airCamera" program />
    <template #right><ShotProperties /></template>
  </SplitDesk>
</template>
