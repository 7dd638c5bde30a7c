<script setup lang="ts">
// Every shot and what has been delivered of it; the recipe; the queue.
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import type { Output } from '@/api/client'
import { useDeliveries } from '@/stores/deliveries'
import { useScene } from '@/stores/scene'
import { rateName } from '@/ui/rates'
import SplitDesk from '../SplitDesk.vue'
import DeliveryQueue from './DeliveryQueue.vue'
import ShotSheet from './ShotSheet.vue'

const scene = useScene()
const deliveries = useDeliveries()
const quality = ref<'rough' | 'check' | 'fine'>('check')
const chosen = ref<string[]>([])
const watched = ref<Output | null>(null)
const starting = ref(false)

const count = computed(() => scene.cut.shots.length)
/** The formats that are delivered: the one that is worked in comes first. */
const formats = computed(() => {
  const { format } = scene.doc.settings
  return Object.entries(scene.doc.formats)
    .flatMap(([id, f]) => (id === format || f.deliver ? [{ id, ...f }] : []))
    .sort((a, b) => Number(b.id === format) - Number(a.id === format))
})
async function deliver() {
  starting.value = true
  try {
    const shots = chosen.value.length ? chosen.value : undefined
    for (const f of formats.value) await deliveries.deliver(scene.cut.assembly, quality.value, f.id, shots)
  } catch (e) {
    ElMessage({ message: (e as Error).message, type: 'warning', showClose: true, duration: 6000 })
  }
  starting.value = false
}
</script>
<template>
  <SplitDesk name="turnover" :left="420" :right="300">
    <template #left>
      <div class="watch">
        <header class="head">
          Playback<span v-if="watched" class="dim">{{ watched.file.split('/').at(-1) }}</span>
        </header>
        <video
          v-if="watched"
          :key="watched.id"
          controls
          autoplay
          loop
          :aria-label="`Video of shot ${watched.number}`"
          :src="`/api/outputs/${watched.id}/file`"
        ></video>
        <div v-else class="empty">
          <p>No video is open.</p>
          <p class="dim">Deliver, then press play in the table.</p>
        </div>
      </div>
    </template>
    <ShotSheet v-model="chosen" @play="watched = $event" />
    <template #right>
      <section class="props">
        <header class="head">Recipe</header>
        <div class="body top">
          <h3>Quality</h3>
          <el-segmented v-model="quality" size="small" :options="['rough', 'check', 'fine']" aria-label="Quality" />
          <dl class="figures">
            <dt>{{ formats.length > 1 ? 'Formats' : 'Format' }}</dt>
            <dd>
              <div v-for="f in formats" :key="f.id">{{ f.name }}, {{ f.width }} × {{ f.height }}</div>
            </dd>
            <dt>Rate</dt>
            <dd>{{ rateName(scene.doc.settings.rate) }}</dd>
            <dt>Video</dt>
            <dd>H.264 mp4, one per shot</dd>
          </dl>
          <button class="act main wide" :disabled="starting || !count" @click="deliver">
            {{ chosen.length ? `Deliver ${chosen.length} chosen` : `Deliver all ${count} shots` }}
          </button>
        </div>
        <DeliveryQueue />
      </section>
    </template>
  </SplitDesk>
</template>
<style scoped>
.watch {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--panel);
}
video {
  width: calc(100% - 16px);
  margin: 0 8px;
  border-radius: 4px;
  background: #000;
}
.wide {
  width: 100%;
  justify-content: center;
  margin-top: 10px;
}
.props {
  display: flex;
  flex-direction: column;
}
.props .top {
  flex: none;
}
</style>
