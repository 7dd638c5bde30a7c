<script setup lang="ts">
// The camera's mark everywhere: a rounded hexagon in its colour with its number.
defineProps<{ number: number; color: string; size?: number }>()
</script>
<template>
  <svg :width="size ?? 22" :height="size ?? 22" viewBox="0 0 24 24" aria-hidden="true" class="badge">
    <path
      d="M8.2 2.8h7.6a2.6 2.6 0 0 1 2.3 1.3l3.6 6.6a2.6 2.6 0 0 1 0 2.6l-3.6 6.6a2.6 2.6 0 0 1-2.3 1.3H8.2a2.6 2.6 0 0 1-2.3-1.3l-3.6-6.6a2.6 2.6 0 0 1 0-2.6l3.6-6.6a2.6 2.6 0 0 1 2.3-1.3z"
      :fill="color"
    />
    <text x="12" y="16.2" text-anchor="middle" font-size="11.5" font-weight="600" fill="#11181b">{{ number }}</text>
  </svg>
</template>
<style scoped>
.badge {
  display: block;
  flex: none;
  font-family: var(--font-condensed);
}
</style>
