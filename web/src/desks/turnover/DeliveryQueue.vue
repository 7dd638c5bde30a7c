<script setup lang="ts">
// What is rendered and what has been: each delivery with its progress.
import { Download } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed } from 'vue'
import type { Delivery, Output } from '@/api/client'
import { useDeliveries } from '@/stores/deliveries'

const deliveries = useDeliveries()
const active = computed(() =>
  deliveries.list.filter((d) => d.outputs.some((o) => o.state === 'waiting' || o.state === 'rendering')),
)
const done = (d: Delivery) => d.outputs.reduce((n, o) => n + o.framesDone, 0)
const all = (d: Delivery) => d.outputs.reduce((n, o) => n + o.frames, 0)
const current = (d: Delivery) =>
  d.outputs.find((o) => o.state === 'rendering') ?? d.outputs.findLast((o) => o.state === 'done')
function left(d: Delivery) {
  const seconds = d.outputs.reduce((n, o) => n + (o.seconds ?? 0), 0)
  const rate = seconds > 0 ? done(d) / seconds : 0
  return rate ? { rate, seconds: (all(d) - done(d)) / rate } : null
}
/** The sheet that a delivery is, if it is one. */
const sheet = (d: Delivery) => (d.outputs[0]?.kind === 'video' ? undefined : d.outputs[0])
const titles = { xlsx: 'spreadsheet', list: 'shot list', storyboard: 'storyboard' }
function what(d: Delivery) {
  const kind = sheet(d)?.kind
  return kind && kind !== 'video' ? titles[kind] : d.quality
}
const stopped = (d: Delivery) => d.outputs.some((o) => o.state === 'cancelled' || o.state === 'failed')
const picture = (o: Output) => `/api/outputs/${o.id}/picture?n=${deliveries.pictures[o.id] ?? 0}-${o.framesDone}`

async function change(d: Delivery, what: 'cancel' | 'resume') {
  try {
    await deliveries.change(d, what)
  } catch (e) {
    ElMessage({ message: (e as Error).message, type: 'warning', showClose: true })
  }
}
</script>
<template>
  <header class="head">
    Queue <span class="dim">{{ active.length ? '' : 'idle' }}</span>
  </header>
  <div class="scrolls body" aria-label="Queue">
    <p v-if="deliveries.failure" class="why">
      {{ deliveries.failure }} <button class="link" @click="deliveries.load()">Try again</button>
    </p>
    <article v-for="d in deliveries.list" :key="d.id" class="job" :aria-label="`Delivery ${d.number}`">
      <div class="line">
        <b>Delivery {{ d.number }}</b
        ><span class="dim">{{ what(d) }} · edit {{ d.revision }}</span>
      </div>
      <img
        v-if="current(d) && current(d)!.framesDone > 0 && active.includes(d)"
        :src="picture(current(d)!)"
        :alt="sheet(d) ? 'Current picture of the sheet' : `Current picture of shot ${current(d)!.number}`"
      />
      <el-progress
        :percentage="Math.floor((100 * done(d)) / Math.max(1, all(d)))"
        :stroke-width="6"
        :show-text="false"
      />
      <div class="line small">
        <span v-if="sheet(d)">{{ done(d) }} of {{ all(d) }} pictures</span>
        <span v-else>{{ d.outputs.filter((o) => o.state === 'done').length }} of {{ d.outputs.length }} finished</span>
        <span v-if="active.includes(d) && left(d)" class="mono"
          >{{ left(d)!.rate.toFixed(1) }} f/s · {{ Math.ceil(left(d)!.seconds) }} s left</span
        >
      </div>
      <p v-if="sheet(d)?.error" class="why">{{ sheet(d)!.error }}</p>
      <div class="row">
        <button v-if="active.includes(d)" class="act" @click="change(d, 'cancel')">Cancel</button>
        <a v-if="sheet(d)?.state === 'done'" class="act" :href="`/api/outputs/${sheet(d)!.id}/file`" download
          ><Download :size="14" /> Save</a
        >
        <button v-if="!active.includes(d) && stopped(d)" class="act" @click="change(d, 'resume')">Resume</button>
      </div>
    </article>
    <button v-if="deliveries.more" class="act" @click="deliveries.earlier()">Earlier deliveries</button>
    <p v-if="!deliveries.list.length && !deliveries.loading" class="dim">Nothing has been delivered yet.</p>
  </div>
</template>
<style scoped>
.mono {
  font-family: var(--font-mono);
  font-size: 11.5px;
}
.why {
  color: var(--warning);
  font-size: 12px;
}
.job {
  margin-bottom: 12px;
  padding-bottom: 10px;
  border-bottom: 1px solid var(--line);
}
.job img {
  display: block;
  width: 100%;
  margin: 6px 0;
  border-radius: 4px;
}
.line {
  display: flex;
  justify-content: space-between;
  margin-bottom: 4px;
}
.small {
  margin-top: 4px;
  font-size: 12px;
}
</style>
