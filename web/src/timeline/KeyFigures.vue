<script setup lang="ts">
// The frame and the value of the selected keys, as figures. Several are moved together; those of
// one channel can be given one value.
import { computed } from 'vue'
import { core, type Operations } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import { channelNames, inUnit } from './channels'

const scene = useScene()
const view = useView()
const { pieces, opens } = core.stock()
/** The selected keys, first to last. */
const keys = computed(() => {
  const chosen = view.keys
  if (!chosen) return []
  return Object.values(scene.doc.curves)
    .filter((c) => c.node === chosen.node)
    .flatMap((c) =>
      c.keys.flatMap((k) => (chosen.rows[c.channel]?.includes(k.frame) ? [{ ...k, channel: c.channel }] : [])),
    )
    .sort((a, b) => a.frame - b.frame)
})
const first = computed(() => keys.value[0])
/** The channel of all of them, if it is one. */
const channel = computed(() => {
  const all = new Set(keys.value.map((k) => k.channel))
  return all.size === 1 ? [...all][0]! : ''
})
const shown = computed(() => {
  const as = inUnit(channel.value)
  const piece = scene.doc.nodes[view.keys?.node ?? '']?.piece
  if (channel.value !== 'piece.swing' || !piece) return as
  const param = opens[piece.stock]?.param
  return { ...as, unit: pieces.find((p) => p.id === piece.stock)?.params.find((p) => p.name === param)?.unit ?? '' }
})
const valued = (v: number): Operations['keyValue'] => ({
  ...view.keys!,
  value: +(v / shown.value.times).toFixed(6),
})
</script>
<template>
  <template v-if="first">
    <NumberField
      class="figure"
      label="at"
      unit="f"
      :digits="0"
      :step="0.2"
      :value="first.frame"
      :rate="scene.rate"
      :title="keys.length > 1 ? 'The frame of the first key; the others go along' : 'The frame of the key'"
      @change="view.moveKeys(Math.round($event - first.frame))"
    />
    <NumberField
      v-if="channel"
      class="figure"
      :label="channelNames[channel]!"
      :unit="shown.unit"
      :digits="shown.digits"
      :value="first.value * shown.times"
      @drag="scene.preview('keyValue', valued($event))"
      @cancel="scene.cancel()"
      @change="scene.run('keyValue', valued($event))"
    />
  </template>
</template>
<style scoped>
.figure {
  width: 128px;
  height: 24px;
}
.figure:first-child {
  width: 96px;
}
</style>
