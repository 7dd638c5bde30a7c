<script setup lang="ts">
// Several things at once: what they have in common, arrange them, group them, mark them.
import { computed, ref } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import ArrangeProperties from './ArrangeProperties.vue'
import MarkProperties from './MarkProperties.vue'
import SharedFields from './SharedFields.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const ids = computed(() => view.nodes)
const kinds = computed(() => {
  const count = new Map<string, number>()
  for (const id of ids.value) {
    const k = scene.doc.nodes[id]!.kind
    count.set(k, (count.get(k) ?? 0) + 1)
  }
  return [...count].map(([k, n]) => `${n} ${k}`).join(', ')
})
const axis = ref(0)
const args = (more: object = {}) => ({ ids: ids.value, frame: head.story, key: view.autoKey, ...more })
function remove() {
  if (scene.run('remove', { collection: 'nodes', ids: ids.value })) view.select('nodes', '')
}
</script>
<template>
  <section class="props" aria-label="Selection">
    <header class="head">
      <span class="several">{{ ids.length }} things</span> <span class="kind" :title="kinds">{{ kinds }}</span>
    </header>
    <div class="body">
      <h3>Move all by</h3>
      <NumberField
        v-for="(a, i) in ['X', 'Y', 'Z']"
        :key="a"
        :label="`By ${a}`"
        unit="m"
        :value="0"
        @change="scene.run('move', args({ by: [0, 1, 2].map((k) => (k === i ? $event : 0)) }))"
      />
      <h3>Line up along</h3>
      <div class="row">
        <button v-for="(a, i) in ['X', 'Y', 'Z']" :key="a" class="act" :aria-pressed="axis === i" @click="axis = i">
          {{ a }}
        </button>
      </div>
      <div class="row">
        <button class="act" @click="scene.run('align', args({ axis, to: 'least' }))">Low edges</button>
        <button class="act" @click="scene.run('align', args({ axis, to: 'middle' }))">Middles</button>
        <button class="act" @click="scene.run('align', args({ axis, to: 'most' }))">High edges</button>
        <button class="act" :disabled="ids.length < 3" @click="scene.run('distribute', args({ axis }))">
          Space evenly
        </button>
      </div>
      <SharedFields :nodes="ids" />
      <ArrangeProperties :nodes="ids" />
      <MarkProperties :nodes="ids" />
      <div class="row"><button class="act" @click="remove">Remove all</button></div>
    </div>
  </section>
</template>
<style scoped>
.several {
  flex: none;
}
</style>
