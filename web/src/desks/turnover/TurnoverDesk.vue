<script setup lang="ts">
// Every shot and what has been delivered of it; the recipe; the queue.
import { ElMessage } from 'element-plus'
import { Check, CircleAlert, Clock3, LoaderCircle, Play, Ban } from '@lucide/vue'
import { useVirtualList } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Delivery, Output } from '@/api/client'
import { useDeliveries } from '@/stores/deliveries'
import { useScene } from '@/stores/scene'
import CameraBadge from '@/ui/CameraBadge.vue'
import { rateName } from '@/ui/rates'
import SplitDesk from '../SplitDesk.vue'

const scene = useScene()
const deliveries = useDeliveries()
const quality = ref<'rough' | 'check' | 'fine'>('check')
const chosen = ref<string[]>([])
const watched = ref<Output | null>(null)
const starting = ref(false)

const shots = computed(() =>
  scene.cut.shots.flatMap((s) => {
    const shot = scene.shotOf(s.id)
    return shot ? [{ ...s, shot, frames: shot.screenOut - shot.screenIn }] : []
  }),
)
const rows = useVirtualList(shots, { itemHeight: 30, overscan: 12 }) // only those in sight are drawn
const newest = computed(() => {
  const out = new Map<string, { o: Output; d: Delivery }>()
  for (const d of deliveries.list) for (const o of d.outputs) if (!out.has(o.shot)) out.set(o.shot, { o, d })
  return out
})
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
const stopped = (d: Delivery) => d.outputs.some((o) => o.state === 'cancelled' || o.state === 'failed')
const picture = (o: Output) => `/api/outputs/${o.id}/picture?n=${deliveries.pictures[o.id] ?? 0}-${o.framesDone}`

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
async function change(d: Delivery, what: 'cancel' | 'resume') {
  try {
    await deliveries.change(d, what)
  } catch (e) {
    ElMessage({ message: (e as Error).message, type: 'warning', showClose: true })
  }
}
function toggle(id: string) {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter((x) => x !== id) : [...chosen.value, id]
}
const words: Record<Output['state'], string> = {
  waiting: 'waiting',
  rendering: 'rendering',
  done: 'finished',
  failed: 'failed',
  cancelled: 'cancelled',
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
          :src="`/api/outputs/${watched.id}/video`"
        ></video>
        <div v-else class="empty">
          <p>No video is open.</p>
          <p class="dim">Deliver, then press play in the table.</p>
        </div>
      </div>
    </template>
    <div class="sheet">
      <header class="head">
        Shots <span class="dim">{{ shots.length }} on the main lane, {{ scene.cutLength }} frames</span>
      </header>
      <div class="scrolls" v-bind="rows.containerProps">
        <div v-if="shots.length" v-bind="rows.wrapperProps.value">
          <table>
            <colgroup>
              <col style="width: 30px" />
              <col />
              <col style="width: 24%" />
              <col style="width: 56px" />
              <col style="width: 26%" />
              <col style="width: 46px" />
            </colgroup>
            <thead>
              <tr>
                <td></td>
                <th>Shot</th>
                <th>Camera</th>
                <th class="r">Frames</th>
                <th>Newest delivery</th>
                <td></td>
              </tr>
            </thead>
            <tbody>
              <tr v-for="{ data: s } in rows.list.value" :key="s.id">
                <td>
                  <input
                    type="checkbox"
                    :checked="chosen.includes(s.id)"
                    :aria-label="`Choose shot ${s.shot.number}`"
                    @change="toggle(s.id)"
                  />
                </td>
                <td>
                  <b>{{ s.shot.number }}</b> {{ s.shot.name }}
                </td>
                <td>
                  <span class="cam"
                    ><CameraBadge
                      :number="scene.doc.nodes[s.shot.camera]?.camera?.number ?? 0"
                      :color="scene.doc.nodes[s.shot.camera]?.camera?.color ?? '#888'"
                      :size="18"
                    />{{ scene.doc.nodes[s.shot.camera]?.name }}</span
                  >
                </td>
                <td class="r mono">{{ s.frames }}</td>
                <td>
                  <span v-if="newest.get(s.id)" class="state" :class="newest.get(s.id)!.o.state">
                    <Check v-if="newest.get(s.id)!.o.state === 'done'" :size="14" /><LoaderCircle
                      v-else-if="newest.get(s.id)!.o.state === 'rendering'"
                      :size="14"
                      class="spin"
                    /><Clock3 v-else-if="newest.get(s.id)!.o.state === 'waiting'" :size="14" /><Ban
                      v-else-if="newest.get(s.id)!.o.state === 'cancelled'"
                      :size="14"
                    /><CircleAlert v-else :size="14" /> v{{ newest.get(s.id)!.o.version }}
                    {{ words[newest.get(s.id)!.o.state] }}
                    <span v-if="newest.get(s.id)!.o.state === 'rendering'" class="mono"
                      >{{ newest.get(s.id)!.o.framesDone }}/{{ newest.get(s.id)!.o.frames }}</span
                    >
                    <span v-else-if="newest.get(s.id)!.d.revision < scene.revision" class="dim"
                      >edit {{ newest.get(s.id)!.d.revision }}</span
                    >
                  </span>
                  <span v-else class="dim">nothing yet</span>
                  <div v-if="newest.get(s.id)?.o.error" class="why" :title="newest.get(s.id)!.o.error">
                    {{ newest.get(s.id)!.o.error }}
                  </div>
                </td>
                <td>
                  <button
                    v-if="newest.get(s.id)?.o.state === 'done'"
                    class="icon"
                    :aria-label="`Play shot ${s.shot.number}`"
                    title="Play"
                    @click="watched = newest.get(s.id)!.o"
                  >
                    <Play :size="14" />
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <div v-else class="empty">
          <p>There is nothing to deliver yet.</p>
          <p class="dim">Put a camera on air in Splice: that makes the first shot.</p>
        </div>
      </div>
    </div>
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
          <button class="act main wide" :disabled="starting || !shots.length" @click="deliver">
            {{ chosen.length ? `Deliver ${chosen.length} chosen` : `Deliver all ${shots.length} shots` }}
          </button>
        </div>
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
              ><span class="dim">{{ d.quality }} · edit {{ d.revision }}</span>
            </div>
            <img
              v-if="current(d) && current(d)!.framesDone > 0 && active.includes(d)"
              :src="picture(current(d)!)"
              :alt="`Current picture of shot ${current(d)!.number}`"
            />
            <el-progress
              :percentage="Math.floor((100 * done(d)) / Math.max(1, all(d)))"
              :stroke-width="6"
              :show-text="false"
            />
            <div class="line small">
              <span>{{ d.outputs.filter((o) => o.state === 'done').length }} of {{ d.outputs.length }} finished</span>
              <span v-if="active.includes(d) && left(d)" class="mono"
                >{{ left(d)!.rate.toFixed(1) }} f/s · {{ Math.ceil(left(d)!.seconds) }} s left</span
              >
            </div>
            <div class="row">
              <button v-if="active.includes(d)" class="act" @click="change(d, 'cancel')">Cancel</button>
              <button v-if="!active.includes(d) && stopped(d)" class="act" @click="change(d, 'resume')">Resume</button>
            </div>
          </article>
          <p v-if="!deliveries.list.length && !deliveries.loading" class="dim">Nothing has been delivered yet.</p>
        </div>
      </section>
    </template>
  </SplitDesk>
</template>
<style scoped>
.watch,
.sheet {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--panel);
}
.sheet .scrolls {
  flex: 1;
  overflow-y: auto;
}
video {
  width: calc(100% - 16px);
  margin: 0 8px;
  border-radius: 4px;
  background: #000;
}
table {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
  font-size: 12.5px;
}
th,
thead td {
  position: sticky;
  top: 0;
  z-index: 1;
  padding: 4px 8px;
  background: var(--panel);
  color: var(--dim);
  font: 11px var(--font-condensed);
  text-align: left;
}
td {
  height: 30px;
  padding: 0 8px;
  border-top: 1px solid var(--line);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
thead td {
  border-top: 0;
}
td:first-child,
td:last-child {
  padding-right: 0;
  text-overflow: clip;
}
td .why {
  overflow: hidden;
  text-overflow: ellipsis;
}
.r {
  text-align: right;
}
.mono {
  font-family: var(--font-mono);
  font-size: 11.5px;
}
.cam,
.state {
  display: flex;
  align-items: center;
  gap: 6px;
}
.state.done {
  color: var(--good);
}
.state.failed,
.state.cancelled,
.why {
  color: var(--warning);
}
.why {
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
.spin {
  animation: spin 1.2s linear infinite;
}
@keyframes spin {
  to {
    transform: rotate(1turn);
  }
}
</style>
