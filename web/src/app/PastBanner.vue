<script setup lang="ts">
// Says that a state of the history is seen, and leads back.
import { useScene } from '@/stores/scene'

const scene = useScene()
</script>
<template>
  <div v-if="scene.past" class="banner past" role="status">
    You see {{ scene.past.title }}. Nothing can be changed here.
    <button class="act" @click="scene.restore(scene.past.document, `restore ${scene.past.title}`)">
      Restore this state
    </button>
    <button class="act main" @click="scene.lookBack()">Back to the present</button>
  </div>
</template>
