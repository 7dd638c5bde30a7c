<script setup lang="ts">
// What can become of a drop onto other shots. Pointing at a choice shows it.
import { computed, onMounted, ref } from 'vue'
import type { Drop } from './useShotDrag'

const props = defineProps<{ drop: Drop }>()
const emit = defineEmits<{ consider: [how: string | null]; choose: [how: string | null] }>()
const first = ref<HTMLElement | null>(null)
const ways = [
  { how: 'insert', title: 'Insert', words: 'later shots make room, what is here is split' },
  { how: 'reorder', title: 'Change the order', words: 'to the nearest seam' },
  { how: 'overwrite', title: 'Overwrite', words: 'what is here gives way' },
  { how: 'spare', title: 'Keep on a spare lane', words: 'nothing else changes' },
]
/** Those of several lanes have no seam in common. */
const choices = computed(() => ways.filter((w) => props.drop.lane || w.how === 'overwrite'))
const style = computed(() => ({
  left: `${Math.min(props.drop.x, window.innerWidth - 300)}px`,
  bottom: `${Math.max(8, window.innerHeight - props.drop.y + 46)}px`, // above the lane, so that it can be seen
}))
onMounted(() => first.value?.querySelector('button')?.focus())
</script>
<template>
  <Teleport to="body">
    <div ref="first" v-arrows class="drop" role="menu" aria-label="There are shots here" :style="style">
      <button
        v-for="c in choices"
        :key="c.how"
        role="menuitem"
        @mouseenter="emit('consider', c.how)"
        @mouseleave="emit('consider', null)"
        @focus="emit('consider', c.how)"
        @click="emit('choose', c.how)"
      >
        <b>{{ c.title }}</b> <span class="dim">{{ c.words }}</span>
      </button>
      <button role="menuitem" @focus="emit('consider', null)" @click="emit('choose', null)">
        <b>Leave it</b> <span class="dim">Esc</span>
      </button>
    </div>
  </Teleport>
</template>
<style scoped>
.drop {
  position: fixed;
  z-index: 60;
  width: 290px;
  padding: 4px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--raised);
  box-shadow: 0 6px 24px rgb(0 0 0 / 0.5);
}
button {
  display: block;
  width: 100%;
  padding: 5px 8px;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--text);
  font: 12px var(--font);
  text-align: left;
  cursor: pointer;
}
button:hover,
button:focus-visible {
  background: var(--line);
}
b {
  font-weight: 500;
}
</style>
