<script setup lang="ts">
// The keys of the selected node: one row for each animated channel.
import { computed, ref } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { presses, useDrag } from '@/ui/useDrag'
import { channelNames } from './channels'
import KeyPin from './KeyPin.vue'

const props = defineProps<{ x: (frame: number) => number; perPixel: number; node: string }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const order = Object.keys(channelNames)
const rows = computed(() =>
  Object.values(scene.doc.curves)
    .filter((c) => c.node === props.node)
    .sort((a, b) => order.indexOf(a.channel) - order.indexOf(b.channel)),
)
/** Whether a key is selected; while it is dragged it is at another frame. */
const picked = (channel: string, frame: number) =>
  view.keys?.node === props.node && !!view.keys.rows[channel]?.includes(frame - by.value)

const drag = useDrag()
/** By how much the selected keys are seen to be moved. */
const by = ref(0)
function down(e: PointerEvent, channel: string, frame: number) {
  if (!presses(e)) return
  const old = view.keys?.node === props.node ? view.keys.rows : {}
  const adding = e.shiftKey || picked(channel, frame)
  const rows = adding ? { ...old, [channel]: [...new Set([...(old[channel] ?? []), frame])] } : { [channel]: [frame] }
  view.keys = { node: props.node, rows }
  const amount = (to: PointerEvent) => Math.round((to.clientX - e.clientX) * props.perPixel)
  const end = () => {
    by.value = 0
    scene.cancel()
  }
  drag.begin(e, e.currentTarget as HTMLElement, {
    move(to) {
      if (view.keys && scene.preview('keyMove', { ...view.keys, by: amount(to) })) by.value = amount(to)
    },
    drop(to) {
      end()
      if (amount(to)) view.moveKeys(amount(to))
    },
    abandon: end,
  })
}
/** A key of one channel at the playhead, with the value that is there. */
const setOne = (channel: string) =>
  scene.run('keySet', { node: props.node, channels: [channel], frame: Math.round(head.story) })
/** All keys of a frame, in every row. */
function column(e: PointerEvent, frame: number) {
  const all = rows.value.filter((r) => r.keys.some((k) => k.frame === frame))
  view.keys = { node: props.node, rows: Object.fromEntries(all.map((r) => [r.channel, [frame]])) }
  e.preventDefault()
}
</script>
<template>
  <div
    v-for="r in rows"
    :key="r.channel"
    class="strip-row keys"
    :data-label="channelNames[r.channel]"
    @dblclick.self="setOne(r.channel)"
  >
    <button
      v-for="(k, i) in r.keys"
      :key="i"
      class="pin"
      :class="{ selected: picked(r.channel, k.frame), here: Math.round(head.story) === k.frame }"
      :style="{ left: `${x(k.frame) - 6}px` }"
      :aria-label="`Key of ${channelNames[r.channel]} at frame ${k.frame}, ${k.ease}`"
      :title="`${channelNames[r.channel]} ${k.value.toFixed(2)} at ${k.frame}, ${k.ease}`"
      @pointerdown="down($event, r.channel, k.frame)"
      @dblclick="head.set(k.frame)"
      @contextmenu="column($event as PointerEvent, k.frame)"
    >
      <KeyPin :ease="k.ease" />
    </button>
  </div>
  <div v-if="!rows.length" class="strip-row none dim">
    {{
      node ? 'No keys yet. Draw a path, or switch on auto-key and move the camera.' : 'Select a camera to see its keys.'
    }}
  </div>
</template>
<style scoped>
.pin {
  position: absolute;
  top: 2px;
  width: 12px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--dim);
  cursor: ew-resize;
  touch-action: none;
}
.pin.here {
  color: var(--text);
}
.pin.selected {
  color: var(--brass);
}
.none {
  padding-left: 10px;
  font-size: 12px;
  line-height: 24px;
}
</style>
