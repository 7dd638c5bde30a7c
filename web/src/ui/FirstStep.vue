<script setup lang="ts">
// What to do first in a place that is empty, with the button that does it. It goes
// away for good when it has been done once, or when it is sent away.
import { X } from '@lucide/vue'
import { useStarting, type Step } from '@/stores/starting'

defineProps<{ step: Step }>()
const starting = useStarting()
</script>
<template>
  <div
    v-if="starting.shows(step)"
    class="step"
    role="note"
    @pointerdown.stop
    @pointerup.stop
    @dblclick.stop
    @wheel.stop
  >
    <p><slot /></p>
    <slot name="do" />
    <button class="away" aria-label="Do not say this again" @click="starting.forget(step)"><X :size="13" /></button>
  </div>
</template>
<style scoped>
.step {
  position: absolute;
  left: 50%;
  top: 42%;
  display: grid;
  justify-items: center;
  gap: 10px;
  width: min(300px, 84%);
  padding: 16px 22px;
  transform: translate(-50%, -50%);
  border: 1px solid var(--line);
  border-radius: 6px;
  background: rgb(24 34 38 / 0.9);
  text-align: center;
  pointer-events: none; /* what is dropped on it is dropped on the view */
}
.step :deep(button) {
  pointer-events: auto;
}
p {
  margin: 0;
}
.step :deep(.act.main) {
  background: var(--brass);
  color: var(--ink);
}
.away {
  position: absolute;
  right: 6px;
  top: 6px;
  padding: 2px;
  border: 0;
  background: none;
  color: var(--dim);
  cursor: pointer;
}
</style>
