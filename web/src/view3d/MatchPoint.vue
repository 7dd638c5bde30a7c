<script setup lang="ts">
// A numbered point of a match at a place of a view: in the picture, or in the set. A new
// one that has its place only there cannot be grabbed yet.
defineProps<{ number: number; place: { x: number; y: number }; where: string; chosen?: boolean; fresh?: boolean }>()
const emit = defineEmits<{ grab: [e: PointerEvent] }>()
</script>
<template>
  <component
    :is="fresh ? 'span' : 'button'"
    class="point"
    :class="{ chosen, fresh }"
    :style="{ transform: `translate(${place.x}px, ${place.y}px)` }"
    :role="fresh ? 'img' : undefined"
    :aria-label="fresh ? `New point in ${where}` : `Point ${number} in ${where}`"
    @pointerdown.stop="emit('grab', $event)"
    @click.stop
    >{{ number }}</component
  >
</template>
<style scoped>
.point {
  position: absolute;
  left: -10px;
  top: -10px;
  box-sizing: border-box;
  width: 20px;
  height: 20px;
  padding: 0;
  border: 1.5px solid var(--brass);
  border-radius: 10px;
  background: rgb(17 24 27 / 0.35);
  color: var(--text);
  font: 11px/17px var(--font-condensed);
  text-align: center;
  cursor: move;
  pointer-events: auto;
  touch-action: none;
}
.point.chosen {
  background: var(--brass);
  color: var(--ink);
}
.point.fresh {
  border-style: dashed;
  pointer-events: none;
}
</style>
