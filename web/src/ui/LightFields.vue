<script setup lang="ts">
// Brightness and filter of pictures: of a scene, or of one shot on top of it.
import NumberField from './NumberField.vue'

defineProps<{ exposure?: number; tint?: string; whose: string }>()
const emit = defineEmits<{
  exposure: [value: number, live: boolean]
  tint: [color: string]
  cancel: []
}>()
/** In stops, as far as the scene takes it. */
const bounded = (v: number) => Math.max(-6, Math.min(6, +v.toFixed(3)))
</script>
<template>
  <NumberField
    label="Exposure"
    unit="stops"
    :digits="2"
    :step="0.02"
    :value="exposure ?? 0"
    @drag="emit('exposure', bounded($event), true)"
    @cancel="emit('cancel')"
    @change="emit('exposure', bounded($event), false)"
  />
  <div class="filter">
    <label class="pick"
      >Filter
      <input
        type="color"
        :aria-label="`Filter of ${whose}`"
        :value="tint || '#ffffff'"
        @change="emit('tint', ($event.target as HTMLInputElement).value)"
    /></label>
    <button v-if="tint" class="act" :aria-label="`No filter in ${whose}`" @click="emit('tint', '')">None</button>
  </div>
</template>
<style scoped>
.filter {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 4px 0;
}
.filter .pick {
  flex: 1;
}
</style>
