<script setup lang="ts">
// What would disappoint in what is about to be delivered, each with a way to the place.
import { onUnmounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import { core, type DoubtsNow } from '@/core/bridge'
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
const unasked = ref('')
watch(
  () => scene.id,
  async (of) => {
    lost.value = []
    unasked.value = ''
    try {
      const facts = await ask(api.GET('/scenes/{scene}/facts', { params: { path: { scene: of } } }))
      if (scene.id === of) lost.value = facts.files.filter((f) => f.bytes < 0).map((f) => f.blob)
    } catch (e) {
      unasked.value = `Whether files are lost is not known: ${sentence((e as Error).message)}`
    }
  },
  { immediate: true },
)
type Doubt = DoubtsNow['doubts'][number]
const list = shallowRef<Doubt[]>([])
const left = ref(0)
const wrong = ref('')
// Looking through cameras takes long: shot by shot, in between what else there is to do.
let turn = 0
function take(answer: ReturnType<typeof core.doubts>) {
  wrong.value = 'error' in answer ? sentence(answer.error!) : ''
  const found = 'error' in answer ? { doubts: [], left: 0 } : answer
  list.value = found.doubts
  left.value = found.left
  const mine = turn
  if (found.left) window.setTimeout(() => mine === turn && take(core.moreDoubts()), 20)
}
watch(
  [() => scene.changes, () => turnover.order, () => turnover.recipe, lost],
  () => {
    turn++
    take(core.doubts(turnover.order, turnover.recipe, lost.value))
  },
  { immediate: true },
)
onUnmounted(() => turn++)
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
      Before it starts
      <span class="dim">{{ list.length ? `${list.length} to look at` : '' }}</span>
      <span v-if="left" class="dim" role="status">looking through {{ left }} more shots …</span>
    </header>
    <div class="scrolls">
      <p v-if="unasked" class="why">{{ unasked }}</p>
      <p v-if="wrong" class="why">{{ wrong }}</p>
      <ul v-else-if="list.length">
        <li v-for="(d, i) in list" :key="i">
          <span>{{ d.text }}</span>
          <button class="act" @click="go(d)">Go there</button>
        </li>
      </ul>
      <div v-else-if="!left" class="empty">
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
