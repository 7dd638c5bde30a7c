<script setup lang="ts">
// What is delivered and how it came out: the shots with what has been delivered of
// them, what is needed of each camera, what would disappoint; playback; recipe; queue.
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import type { Output } from '@/api/client'
import { useDeliveries } from '@/stores/deliveries'
import { useLibrary } from '@/stores/library'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import SplitDesk from '../SplitDesk.vue'
import DeliveryQueue from './DeliveryQueue.vue'
import DoubtList from './DoubtList.vue'
import OutputPlayer from './OutputPlayer.vue'
import PullList from './PullList.vue'
import RecipePanel from './RecipePanel.vue'
import ShotSheet from './ShotSheet.vue'

const scene = useScene()
const deliveries = useDeliveries()
const turnover = useTurnover()
const library = useLibrary()
// The recipes are those of the scene's production.
watch([() => scene.id, () => scene.doc.settings.production], () => scene.id && void library.load(), { immediate: true })
const watched = ref<Output | null>(null)
/** Whether the playback fills the desk. */
const filled = ref(false)
const list = ref<'shots' | 'pull list' | 'doubts'>('shots')
watch(
  () => scene.id,
  () => (watched.value = null),
)
// What has been finished is looked at, and what an edit has made of it.
let soon = 0
function look() {
  window.clearTimeout(soon)
  soon = window.setTimeout(() => void turnover.look(), 400)
}
onMounted(look)
watch(
  () => [
    scene.id,
    scene.revision,
    deliveries.newest
      .flatMap((d) => d.outputs)
      .filter((o) => o.state === 'done')
      .map((o) => o.id)
      .join(),
  ],
  look,
)
/** What is delivered of the cut, in its order, for one after the other. */
const playable = computed(() => {
  const by = new Map<string, Output>()
  for (const d of [...deliveries.list, ...deliveries.newest])
    for (const o of d.outputs)
      if (
        o.state === 'done' &&
        o.item?.what === 'shot' &&
        !o.item.pass &&
        o.item.assembly === scene.cut.assembly &&
        (o.item.alternate ?? '') === scene.alternate &&
        o.item.format === (watched.value?.item?.format ?? turnover.theFormats[0]) &&
        !by.has(o.shot)
      )
        by.set(o.shot, o)
  return scene.cut.shots.flatMap((s) => by.get(s.id) ?? [])
})
useEventListener(window, 'keydown', (e) => {
  if (e.key === 'Escape' && filled.value && !document.querySelector('.el-overlay-dialog')) filled.value = false
})
</script>
<template>
  <SplitDesk name="turnover" :left="400" :right="310">
    <template #left>
      <OutputPlayer
        v-model:filled="filled"
        :watched="watched"
        :playable="playable"
        @watch="watched = $event"
        @close="watched = null"
      />
    </template>
    <div class="middle">
      <el-segmented v-model="list" size="small" :options="['shots', 'pull list', 'doubts']" aria-label="List" />
      <ShotSheet v-if="list === 'shots'" @play="watched = $event" />
      <PullList v-else-if="list === 'pull list'" />
      <DoubtList v-else />
    </div>
    <template #right>
      <section class="props">
        <div class="body both">
          <RecipePanel />
          <DeliveryQueue @play="watched = $event" />
        </div>
      </section>
    </template>
  </SplitDesk>
</template>
<style scoped>
.middle {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--panel);
}
.middle > .el-segmented {
  align-self: flex-start;
  margin: 6px 8px;
}
.props .both {
  padding: 8px 0 12px;
}
</style>
