<script setup lang="ts">
// Scattering many of what is being placed: how many, how far apart, how
// different, and by which chance.
import { computed } from 'vue'
import { useArranging } from '@/stores/arranging'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'

const scene = useScene()
const view = useView()
const arranging = useArranging()
/** The path that is selected, to scatter along. */
const path = computed(() => (view.selected?.collection === 'paths' ? view.selected.id : ''))
const fields = [
  { key: 'count' as const, title: 'How many', unit: '', digits: 0, step: 0.2, least: 1 },
  { key: 'apart' as const, title: 'Apart', unit: 'm', digits: 1, step: 0.05, least: 0 },
  { key: 'vary' as const, title: 'Sizes differ', unit: '', digits: 2, step: 0.01, least: 0 },
  { key: 'seed' as const, title: 'Seed', unit: '', digits: 0, step: 0.1, least: 0 },
]
function set(key: (typeof fields)[number]['key'], v: number, least: number, digits: number) {
  view.scatter[key] = Math.max(least, digits ? v : Math.round(v))
}
</script>
<template>
  <details class="scatter">
    <summary>Scatter many of {{ view.placing?.name }}</summary>
    <NumberField
      v-for="f in fields"
      :key="f.key"
      :label="f.title"
      :unit="f.unit"
      :digits="f.digits"
      :step="f.step"
      :value="view.scatter[f.key]"
      @drag="set(f.key, $event, f.least, f.digits)"
      @cancel="scene.cancel()"
      @change="set(f.key, $event, f.least, f.digits)"
    />
    <div class="row">
      <button class="act" :aria-pressed="view.scattering" @click="view.scattering = !view.scattering">
        Over an area
      </button>
      <button v-if="path" class="act" @click="arranging.scatter({ path })">
        Along {{ scene.doc.paths[path]?.name }}
      </button>
    </div>
  </details>
</template>
<style scoped>
.scatter {
  margin: 6px 0;
  padding: 6px 8px;
  border: 1px solid var(--brass);
  border-radius: 5px;
}
summary {
  font-size: 12px;
  cursor: pointer;
}
</style>
