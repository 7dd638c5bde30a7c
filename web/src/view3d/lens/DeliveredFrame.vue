<script setup lang="ts">
// The picture that a delivery would make, in place of the live one.
defineProps<{ picture: string; box: { x: number; y: number; width: number; height: number } }>()
</script>
<template>
  <figure
    v-if="picture"
    class="delivered"
    :style="{ left: `${box.x}px`, top: `${box.y}px`, width: `${box.width}px`, height: `${box.height}px` }"
  >
    <img :src="picture" alt="The frame as it is delivered" />
    <figcaption>as delivered</figcaption>
  </figure>
</template>
<style scoped>
.delivered {
  position: absolute;
  margin: 0;
}
.delivered img {
  display: block;
  width: 100%;
  height: 100%;
}
figcaption {
  position: absolute;
  left: 8px;
  bottom: 8px;
  padding: 2px 8px;
  border-radius: 4px;
  background: rgb(10 16 18 / 75%);
  color: var(--brass);
  font-size: 12px;
}
</style>
