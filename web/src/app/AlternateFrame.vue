<script setup lang="ts">
// Says loudly, around the desk, that an alternate is worked in: each has its own colour
// and slant.
import { computed } from 'vue'
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'

const alternates = useAlternates()
const scene = useScene()
const slant = computed(
  () =>
    `${scene.onlyIn ? 90 : [45, 135, 20, 160, 70, 110][alternates.all.findIndex((a) => a.id === scene.alternate) % 6]}deg`,
)
</script>
<template>
  <div
    v-if="alternates.here && !scene.past"
    class="around"
    :style="{ '--alternate': alternates.here.color, '--slant': slant }"
  >
    <span class="which" role="status" aria-label="Worked in"
      >{{ alternates.here.name }}
      <span class="count">{{
        alternates.here.count
          ? `differs in ${alternates.here.count}`
          : scene.onlyIn
            ? 'as in all shots'
            : 'as what it hangs on'
      }}</span>
      <button v-if="scene.onlyIn" class="back" @click="alternates.inShot('')">all shots again</button></span
    >
  </div>
</template>
<style scoped>
.around {
  --hatch: repeating-linear-gradient(var(--slant), var(--alternate) 0 5px, transparent 5px 9px);
  position: fixed;
  inset: 44px 0 24px;
  z-index: 30;
  background:
    var(--hatch) top / 100% 5px no-repeat,
    var(--hatch) bottom / 100% 5px no-repeat,
    var(--hatch) left / 5px 100% no-repeat,
    var(--hatch) right / 5px 100% no-repeat;
  pointer-events: none;
}
.which {
  position: absolute;
  top: 0;
  left: 50%;
  padding: 1px 12px 2px;
  border-radius: 0 0 6px 6px;
  background: var(--alternate);
  color: var(--ink);
  font: 600 12px var(--font);
  transform: translateX(-50%);
}
.back {
  margin-left: 8px;
  padding: 0 6px;
  border: 1px solid currentcolor;
  border-radius: 4px;
  background: none;
  color: inherit;
  font: 600 11px var(--font-condensed);
  cursor: pointer;
  pointer-events: auto;
}
.count {
  font-weight: 400;
}
</style>
