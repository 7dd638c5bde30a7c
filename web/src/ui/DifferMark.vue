<script setup lang="ts">
// Says of a thing that it differs in the alternate that is worked in.
import { computed } from 'vue'
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'
import { fieldName } from './fields'

const props = defineProps<{ of: string }>()
const alternates = useAlternates()
const scene = useScene()
const fields = computed(() => alternates.differ[props.of])
const says = computed(
  () =>
    `differs ${scene.onlyIn ? '' : 'in '}${alternates.here?.name}${fields.value?.[0] ? `: ${fields.value.slice(0, 6).map(fieldName).join(', ')}` : ''}`,
)
</script>
<template>
  <i
    v-if="fields"
    class="differs"
    role="img"
    :style="{ '--alternate': alternates.here?.color }"
    :title="says"
    :aria-label="says"
    >≠</i
  >
</template>
<style scoped>
.differs {
  flex: none;
  width: 13px;
  height: 13px;
  margin: 0 2px;
  border-radius: 3px;
  background: var(--alternate);
  color: var(--ink);
  font: 700 11px/13px var(--font-mono);
  text-align: center;
}
</style>
