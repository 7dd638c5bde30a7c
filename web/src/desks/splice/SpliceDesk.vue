<script setup lang="ts">
import SplitDesk from '../SplitDesk.vue'
import Wall from '../Wall.vue'
import ProgramView from './ProgramView.vue'
import SplicePanel from './SplicePanel.vue'
</script>
<template>
  <SplitDesk name="splice" :left="186" bare>
    <template #left><Wall cuts /></template>
    <ProgramView />
    <template #right><SplicePanel /></template>
  </SplitDesk>
</template>
