<script setup lang="ts">
// What would disappoint in what is about to be delivered, each with a way to the place.
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import { useView } from '@/stores/view'
import { sentence } from '@/ui/sentence'

const scene = useScene()
const turnover = useTurnover()
const view = useView()
const head = usePlayhead()
const router = useRouter()
const lost = ref<string[]>([])
onMounted(async () => {
  try {
    const facts = await ask(api.GET('/scenes/{scene}/facts', { params: { path: { scene: scene.id } } }))
    lost.value = facts.files.filter((f) => f.bytes < 0).map((f) => f.blob)
  } catch {
    // The rest is told without it.
  }
})
const found = computed(() => {
  void scene.changes
  return core.doubts(turnover.order, turnover.recipe, lost.value)
})
const list = computed(() => ('error' in found.value ? [] : found.value))
const wrong = computed(() => ('error' in found.value ? sentence(found.value.error!) : ''))
type Doubt = (typeof list.value)[number]
async function go(d: Doubt) {
  if (d.assembly) {
    if (d.assembly !== scene.cut.assembly) scene.choose(d.assembly)
    await router.replace(`/scenes/${scene.id}/splice`)
    head.setScreen(d.screen)
    if (d.shot) view.select('shots', d.shot)
  } else if (d.camera) {
    await router.replace(`/scenes/${scene.id}/frame`)
    view.lookThrough(d.camera)
  }
}
</script>
<template>
  <div class="doubts">
    <header class="head">
      Before it starts <span class="dim">{{ list.length ? `${list.length} to look at` : '' }}</span>
    </header>
    <div class="scrolls">
      <p v-if="wrong" class="why">{{ wrong }}</p>
      <ul v-else-if="list.length">
        <li v-for="(d, i) in list" :key="i">
          <span>{{ d.text }}</span>
          <button class="act" @click="go(d)">Go there</button>
        </li>
      </ul>
      <div v-else class="empty">
        <p>Nothing is doubtful.</p>
        <p class="dim">Every shot of it shows what it should, as far as can be told.</p>
      </div>
    </div>
  </div>
</template>
<style scoped>
.doubts {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.head {
  border-bottom: 1px solid var(--line);
}
.scrolls {
  flex: 1;
  overflow-y: auto;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  padding: 6px 10px;
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
}
.why {
  padding: 0 10px;
  color: var(--warning);
}
</style>
