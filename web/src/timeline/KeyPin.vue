<script setup lang="ts">
// A key on its stem; the head tells the ease: round soft, flat even, square
// hold, split shaped.
defineProps<{ ease: string }>()
</script>
<template>
  <svg width="12" height="20" viewBox="0 0 12 20" aria-hidden="true">
    <path d="M6 8V20" class="stem" />
    <circle v-if="ease === 'soft'" cx="6" cy="5.5" r="4.5" />
    <rect v-else-if="ease === 'even'" x="0.5" y="4" width="11" height="4" rx="1" />
    <rect v-else-if="ease === 'hold'" x="1.5" y="1" width="9" height="9" />
    <path v-else d="M1 1H5V10H1ZM7 1H11V10H7Z" />
  </svg>
</template>
<style scoped>
svg {
  display: block;
  fill: currentColor;
}
.stem {
  stroke: currentColor;
  stroke-width: 1.5;
}
</style>
