<script setup lang="ts">
// Every shot of the cut, and what has been delivered of it last.
import { Check, CircleAlert, Clock3, Play, Ban } from '@lucide/vue'
import { useVirtualList } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import type { Delivery, Output } from '@/api/client'
import { useDeliveries } from '@/stores/deliveries'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import CameraBadge from '@/ui/CameraBadge.vue'

const emit = defineEmits<{ play: [output: Output] }>()
const scene = useScene()
const deliveries = useDeliveries()
const turnover = useTurnover()
const shots = computed(() =>
  scene.cut.shots.flatMap((s) => {
    const shot = scene.shotOf(s.id)
    return shot ? [{ ...s, shot, frames: shot.screenOut - shot.screenIn }] : []
  }),
)
const rows = useVirtualList(shots, { itemHeight: 30, overscan: 12 }) // only those in sight are drawn
/** The newest output of each shot in the format that is looked at. */
const format = computed(() => turnover.theFormats[0])
const newest = computed(() => {
  const out = new Map<string, { o: Output; d: Delivery }>()
  for (const d of [...deliveries.list, ...deliveries.newest])
    for (const o of d.outputs)
      if (
        (o.item
          ? o.item.what === 'shot' &&
            !o.item.pass &&
            o.item.assembly === scene.cut.assembly &&
            (o.item.alternate ?? '') === scene.alternate &&
            o.item.format === format.value
          : o.shot) &&
        !out.has(o.shot)
      )
        out.set(o.shot, { o, d })
  return out
})
const old = computed(() => shots.value.filter((s) => turnover.stale.has(newest.value.get(s.id)?.o.id ?? '')))
/** Whether whole cuts are out of date besides. */
const cut = computed(() =>
  deliveries.newest.some((d) =>
    d.outputs.some((o) => o.item?.what === 'cut' && !o.item.pass && turnover.stale.has(o.id)),
  ),
)
const refreshing = ref(false)
async function refresh() {
  refreshing.value = true
  try {
    await turnover.refresh()
  } catch (e) {
    ElMessage({ message: (e as Error).message, type: 'warning', showClose: true })
  }
  refreshing.value = false
}
function toggle(id: string) {
  turnover.chosen = turnover.chosen.includes(id) ? turnover.chosen.filter((x) => x !== id) : [...turnover.chosen, id]
}
const all = computed(() => shots.value.length > 0 && turnover.chosen.length === shots.value.length)
const toggleAll = () => (turnover.chosen = all.value ? [] : shots.value.map((s) => s.id))
const said = ({ o, d }: { o: Output; d: Delivery }) => (o.state === 'cancelled' && d.paused ? 'paused' : words[o.state])
const words: Record<Output['state'], string> = {
  waiting: 'waiting',
  rendering: 'rendering',
  done: 'finished',
  failed: 'failed',
  cancelled: 'cancelled',
}
</script>
<template>
  <div class="sheet">
    <header class="head">
      Shots <span class="dim">{{ shots.length }} on the main lane, {{ scene.cutLength }} frames</span>
      <span class="grow"></span>
      <span v-if="turnover.outdated.waiting" class="dim" role="status"
        >looking at {{ turnover.outdated.waiting }} …</span
      >
      <button v-if="old.length || cut" class="act" :disabled="refreshing" @click="refresh">
        Deliver what is out of date ({{ [old.length || '', cut ? 'the cut' : ''].filter(Boolean).join(' and ') }})
      </button>
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
              <td>
                <input type="checkbox" :checked="all" aria-label="Choose all shots" @change="toggleAll" />
              </td>
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
                  :checked="turnover.chosen.includes(s.id)"
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
                  <Check v-if="newest.get(s.id)!.o.state === 'done'" :size="14" /><span
                    v-else-if="newest.get(s.id)!.o.state === 'rendering'"
                    class="part"
                    :style="{ '--done': newest.get(s.id)!.o.framesDone / newest.get(s.id)!.o.frames }"
                  ></span
                  ><Clock3 v-else-if="newest.get(s.id)!.o.state === 'waiting'" :size="14" /><Ban
                    v-else-if="newest.get(s.id)!.o.state === 'cancelled'"
                    :size="14"
                  /><CircleAlert v-else :size="14" /> v{{ newest.get(s.id)!.o.version }}
                  <span v-if="turnover.stale.has(newest.get(s.id)!.o.id)" class="stale">out of date</span>
                  <template v-else>{{ said(newest.get(s.id)!) }}</template>
                  <span v-if="newest.get(s.id)!.o.state === 'rendering'" class="mono"
                    >{{ newest.get(s.id)!.o.framesDone }}/{{ newest.get(s.id)!.o.frames }}</span
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
                  @click="emit('play', newest.get(s.id)!.o)"
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
</template>
<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.sheet .head {
  border-bottom: 1px solid var(--line);
}
.sheet .scrolls {
  flex: 1;
  overflow-y: auto;
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
  font-size: 12px;
}
input[type='checkbox'] {
  accent-color: var(--brass);
}
.state svg {
  flex: none;
}
.stale {
  color: var(--warning);
}
.grow {
  flex: 1;
}
/* How far it is; what turns for ever would have the whole desk painted anew all the time. */
.part {
  flex: none;
  width: 13px;
  height: 13px;
  border: 1px solid var(--brass);
  border-radius: 50%;
  background: conic-gradient(var(--brass) calc(var(--done) * 1turn), transparent 0);
}
</style>
