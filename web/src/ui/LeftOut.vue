<script setup lang="ts">
// What of a file is left out, or otherwise than in it.
defineProps<{ notes: string[] }>()
</script>
<template>
  <template v-if="notes.length">
    <h3>Left out, or otherwise than in the file</h3>
    <ul aria-label="Left out">
      <li v-for="n in notes" :key="n">{{ n }}</li>
    </ul>
  </template>
</template>
<style scoped>
ul {
  max-height: 140px;
  margin: 4px 0 8px;
  padding-left: 18px;
  overflow: auto;
  font-size: 12px;
}
</style>
