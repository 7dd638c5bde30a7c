<script setup lang="ts">
// Asks for the frame as it is delivered, and for the live picture again.
import { ScanEye } from '@lucide/vue'
import { usePlayhead } from '@/stores/playhead'
import type { useDelivered } from './useDelivered'

defineProps<{ delivered: ReturnType<typeof useDelivered> }>()
const head = usePlayhead()
</script>
<template>
  <button
    class="icon"
    aria-label="This frame as delivered"
    :title="head.playing ? 'Stop to see a frame as delivered' : 'This frame as delivered, until something changes'"
    :disabled="head.playing"
    :aria-pressed="!!delivered.picture.value"
    :aria-busy="delivered.waiting.value"
    @click="delivered.toggle()"
  >
    <ScanEye :size="15" />
  </button>
</template>
