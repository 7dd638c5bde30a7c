<script setup lang="ts">
// Who else has a thing selected, looks through it or moves it: a dot in their
// colour for each.
import { computed } from 'vue'
import { usePeople } from '@/stores/people'

const props = defineProps<{ of: string }>()
const people = usePeople()
const marks = computed(() => people.marks.get(props.of) ?? [])
</script>
<template>
  <span v-if="marks.length" class="marks">
    <i
      v-for="m in marks.slice(0, 4)"
      :key="m.tab"
      role="img"
      :style="{ background: m.color }"
      :title="m.name"
      :aria-label="`${m.name} is here`"
      >{{ m.name.charAt(0).toUpperCase() }}</i
    >
  </span>
</template>
<style scoped>
.marks {
  display: inline-flex;
  flex: none;
  pointer-events: none;
}
i {
  width: 14px;
  height: 14px;
  margin-left: -3px;
  border-radius: 50%;
  box-shadow: 0 0 0 1.5px var(--ink);
  color: var(--ink);
  font: 600 9px/14px var(--font-condensed);
  text-align: center;
}
</style>
