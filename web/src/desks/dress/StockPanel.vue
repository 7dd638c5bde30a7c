<script setup lang="ts">
// The stock of stand-ins over the list of what is in the scene.
import { Library, Search } from '@lucide/vue'
import { computed, ref } from 'vue'
import { core, type Model } from '@/core/bridge'
import { useView, type Placing } from '@/stores/view'
import { useScene } from '@/stores/scene'
import FromProduction from '../FromProduction.vue'
import GroundPlan from './GroundPlan.vue'
import ImportDialog from './ImportDialog.vue'
import ScatterForm from './ScatterForm.vue'
import SceneTree from './SceneTree.vue'
import StockItem from './StockItem.vue'

interface Item {
  item: Placing
  picture: string
  group: string
}
const scene = useScene()
const view = useView()
const stock = core.stock()
const builds: Record<string, string> = {
  average: 'Person',
  slim: 'Slim person',
  broad: 'Broad person',
  elder: 'Elderly person',
  child: 'Child',
}
const shelf: Item[] = [
  ...stock.builds.map(({ name: build }) => ({
    item: { kind: 'cast', build, name: builds[build] ?? build },
    picture: `cast ${build}`,
    group: 'People',
  })),
  ...stock.pieces.map((s) => ({
    item: { kind: s.kind, stock: s.id, name: s.title },
    picture: s.id,
    group: s.group,
  })),
  { item: { kind: 'lamp', stock: 'lamp', name: 'Lamp', lift: 2.4 }, picture: '', group: 'Lights and aims' },
  { item: { kind: 'lamp', stock: 'spot', name: 'Spot', lift: 3 }, picture: '', group: 'Lights and aims' },
  { item: { kind: 'aim', name: 'Aim point', lift: 1.5 }, picture: '', group: 'Lights and aims' },
]
const search = ref('')
const imported = computed<Item[]>(() =>
  Object.entries(scene.doc.models).map(([id, m]) => ({
    item: { kind: m.clips?.length ? 'cast' : 'prop', model: id, name: m.name },
    picture: `model ${m.blob}`,
    group: 'Imported models',
  })),
)
const taking = ref(false)
/** Puts a model of the production on the shelf, ready to be placed. */
function take(m: Model) {
  const there = Object.keys(scene.doc.models).find((id) => scene.doc.models[id]!.blob === m.blob)
  const id = there ?? scene.make('models', 'modelAdd', m)[0]
  taking.value = false
  if (id) view.placing = { kind: m.clips?.length ? 'cast' : 'prop', model: id, name: m.name }
}
const wanted = computed(() =>
  [...imported.value, ...shelf].filter((s) =>
    `${s.item.name} ${s.group} ${stock.also[s.item.stock ?? ''] ?? ''}`
      .toLowerCase()
      .includes(search.value.trim().toLowerCase()),
  ),
)
const groups = computed(() => {
  const out = new Map<string, Item[]>()
  for (const s of wanted.value) out.set(s.group, [...(out.get(s.group) ?? []), s])
  return [...out]
})
</script>
<template>
  <div class="stock">
    <header class="head">
      Stock<label class="search"
        ><Search :size="13" /><input
          v-model="search"
          aria-label="Search the stock"
          placeholder="search"
          @keydown.stop
          @keydown.esc="search = ''"
      /></label>
    </header>
    <div class="scrolls shelf">
      <ScatterForm v-if="view.placing?.stock && view.placing.kind !== 'lamp'" />
      <template v-for="[group, items] in groups" :key="group">
        <h3>{{ group }}</h3>
        <div class="grid">
          <StockItem v-for="s in items" :key="s.item.name" :item="s.item" :picture="s.picture" />
        </div>
      </template>
      <p v-if="!wanted.length" class="dim none">
        Nothing in the stock is called “{{ search }}”.
        <button class="link" @click="search = ''">Show all</button>
      </p>
      <ImportDialog />
      <GroundPlan />
      <button class="act wide" @click="taking = true"><Library :size="13" /> Models of the production…</button>
      <FromProduction v-if="taking" kind="models" @close="taking = false" @take="take" />
      <p v-if="view.placing" class="sr-only" role="status">Placing {{ view.placing.name }}</p>
    </div>
    <SceneTree />
  </div>
</template>
<style scoped>
.stock {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) minmax(0, 0.85fr);
  height: 100%;
}
.shelf {
  overflow-y: auto;
  padding: 0 10px 10px;
}
.shelf h3 {
  margin: 8px 0 4px;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(64px, 1fr));
  gap: 4px;
}
.wide {
  width: 100%;
  justify-content: center;
  margin-top: 6px;
}
.none {
  padding: 8px 0;
  font-size: 12px;
}
</style>
