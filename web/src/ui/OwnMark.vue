<script setup lang="ts">
// Says of a shot that it has something for itself, and shows what.
import { computed } from 'vue'
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'

const props = defineProps<{ shot: string }>()
const alternates = useAlternates()
const scene = useScene()
const view = useView()
const count = computed(() => alternates.ofShot(props.shot))
function show() {
  if (scene.onlyIn !== props.shot) alternates.inShot(props.shot)
  view.alternates = true
}
</script>
<template>
  <button
    v-if="count"
    class="own"
    :aria-label="`${count} only in shot ${scene.doc.shots[shot]?.number}`"
    :title="`${count === 1 ? 'One thing is' : `${count} things are`} otherwise in this shot only; press to see`"
    @pointerdown.stop
    @click.stop="show"
  >
    <i></i><i></i>
  </button>
</template>
<style scoped>
/* Two sheets, the upper one shifted: something is laid over the scene here. */
.own {
  position: relative;
  flex: none;
  width: 15px;
  height: 13px;
  margin: 0 2px;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
  pointer-events: auto; /* what is written on a block lets presses through */
}
.own i {
  position: absolute;
  inset: 0 4px 4px 0;
  border: 1px solid var(--one-shot);
  border-radius: 2px;
}
.own i + i {
  inset: 4px 0 0 4px;
  background: var(--one-shot);
}
</style>
