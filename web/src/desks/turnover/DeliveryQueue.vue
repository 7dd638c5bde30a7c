<script setup lang="ts">
// What is rendered and what has been: each delivery with its progress.
import { Download, Play } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, watch } from 'vue'
import type { Delivery, Output } from '@/api/client'
import type { Recipe } from '@/core/bridge'
import { useDeliveries } from '@/stores/deliveries'
import { useScene } from '@/stores/scene'
import { learn, passes } from './recipes'

const emit = defineEmits<{ play: [output: Output] }>()
const deliveries = useDeliveries()
const scene = useScene()
const film = (o?: Output) => !o || o.kind === 'video' || o.kind === 'picture' || o.kind === 'pictures'
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
/** What is finished and stands in no table: the whole cut, cameras, stills and passes. */
const others = (d: Delivery) =>
  d.outputs.filter((o) => o.state === 'done' && o.item && (o.item.what !== 'shot' || o.item.pass))
const called = (o: Output) =>
  [subject(o), o.item?.pass && passes[o.item.pass], scene.doc.alternates[o.item?.alternate ?? '']?.name]
    .filter(Boolean)
    .join(', ')
const subject = (o: Output) =>
  o.item?.what === 'cut'
    ? 'whole cut'
    : o.item?.what === 'camera'
      ? `camera ${o.camera}, from ${o.item.in}`
      : o.item?.what === 'shot'
        ? o.number
        : o.number
          ? `${o.number} ${o.item?.moment ?? `frame ${(o.item?.offset ?? 0) + 1}`}`
          : `camera ${o.camera} at ${o.item?.in}`
watch(
  () => deliveries.list.flatMap((d) => d.outputs.filter((o) => o.state === 'done').map((o) => o.id)).join(),
  () => {
    for (const d of deliveries.list.slice(0, 5))
      for (const o of d.outputs)
        if (o.state === 'done' && o.item && o.seconds)
          learn(d.quality, o.frames * o.item.width * o.item.height, o.seconds)
  },
  { immediate: true },
)
/** The sheet that a delivery is, if it is one. */
const sheet = (d: Delivery) => (film(d.outputs[0]) ? undefined : d.outputs[0])
const titles: Record<string, string> = { xlsx: 'spreadsheet', list: 'shot list', storyboard: 'storyboard' }
function what(d: Delivery) {
  const kind = sheet(d)?.kind
  return kind ? titles[kind] : ((d.recipe as Recipe | undefined)?.name ?? d.quality)
}
const stopped = (d: Delivery) => d.outputs.some((o) => o.state === 'cancelled' || o.state === 'failed')
/** How many have the frames of another one. */
const same = (d: Delivery) => d.outputs.filter((o) => o.same).length
const picture = (o: Output) => `/api/outputs/${o.id}/picture?n=${deliveries.pictures[o.id] ?? 0}-${o.framesDone}`

async function change(d: Delivery, what: 'cancel' | 'pause' | 'resume' | 'first') {
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
  <div class="queue" aria-label="Queue">
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
        <span v-else
          >{{ d.outputs.filter((o) => o.state === 'done').length }} of {{ d.outputs.length }} finished{{
            d.paused ? ', paused' : ''
          }}<template v-if="same(d)"
            >, {{ same(d) }} the same as {{ same(d) === 1 ? 'another' : 'others' }} and made once</template
          ></span
        >
        <span v-if="active.includes(d) && left(d)" class="mono"
          >{{ left(d)!.rate.toFixed(1) }} f/s · {{ Math.ceil(left(d)!.seconds) }} s left</span
        >
      </div>
      <p v-if="sheet(d)?.error" class="why">{{ sheet(d)!.error }}</p>
      <ul v-if="others(d).length" class="others">
        <li v-for="o in others(d)" :key="o.id">
          <span>{{ called(o) }} v{{ o.version }}</span>
          <button class="icon" :aria-label="`Play ${called(o)}`" title="Play" @click="emit('play', o)">
            <Play :size="13" />
          </button>
        </li>
      </ul>
      <div class="row">
        <button
          v-if="active.includes(d)"
          class="act"
          title="It stops, keeps what is finished, and waits to go on"
          @click="change(d, 'pause')"
        >
          Pause
        </button>
        <button v-if="active.includes(d) || d.paused" class="act" @click="change(d, 'cancel')">Cancel</button>
        <button
          v-if="active.includes(d) && active.length > 1"
          class="act"
          title="It is made before the others"
          @click="change(d, 'first')"
        >
          First
        </button>
        <a v-if="sheet(d)?.state === 'done'" class="act" :href="`/api/outputs/${sheet(d)!.id}/file`" download
          ><Download :size="14" /> Save</a
        >
        <a
          v-if="!sheet(d) && d.outputs.some((o) => o.state === 'done')"
          class="act"
          :href="`/api/deliveries/${d.id}/files`"
          download
          ><Download :size="14" /> Save as zip</a
        >
        <a
          v-if="d.outputs.some((o) => o.kind === 'picture' && o.state === 'done' && !o.file.endsWith('.exr'))"
          class="act"
          :href="`/api/deliveries/${d.id}/contact`"
          title="The finished stills as pages to print"
          download
          ><Download :size="14" /> Contact sheet</a
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
.queue {
  padding: 4px 10px 0;
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
.others {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  font-size: 12px;
}
.others li {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.small {
  margin-top: 4px;
  font-size: 12px;
}
</style>
