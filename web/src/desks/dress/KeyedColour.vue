<script setup lang="ts">
// The colour of lamps, pieces or the sun: as it is, or at this frame once it has keys. What is
// chosen is then a key.
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'

const props = defineProps<{
  label: string
  /** Said before it, in a line of its own. */
  title?: string
  /** Whose colour it is; the first one's is shown. */
  nodes: string[]
  /** What it is without keys. */
  still: string
  /** What the button says; without it there are no keys. */
  keys?: string
  /** What is chosen is a key in any case: without keys its colour comes from elsewhere. */
  keysOnly?: boolean
}>()
const emit = defineEmits<{ set: [color: string] }>()
const scene = useScene()
const head = usePlayhead()
const curves = computed(
  () =>
    new Map(
      Object.values(scene.doc.curves)
        .filter((c) => c.node === props.nodes[0] && c.channel.startsWith('color.'))
        .map((c) => [c.channel, c.keys]),
    ),
)
const keyed = computed(() => curves.value.size > 0)
/** #rrggbb of light from 0 to 1, after IEC 61966-2-1. */
const byte = (v: number) => {
  const s = v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055
  return Math.round(255 * Math.max(0, Math.min(1, s)))
    .toString(16)
    .padStart(2, '0')
}
const now = computed(() => {
  const still = [1, 3, 5].map((i) => props.still.slice(i, i + 2))
  const parts = ['red', 'green', 'blue'].map((name, i) => {
    const keys = curves.value.get(`color.${name}`)
    return keys ? byte(core.curve(keys, head.story, head.story + 1, 1)[0]!) : still[i]!
  })
  return `#${parts.join('')}`
})
const key = (color: string) => scene.run('colorKey', { nodes: props.nodes, frame: Math.round(head.story), color })
function chosen(e: Event) {
  const color = (e.target as HTMLInputElement).value
  if (keyed.value || props.keysOnly) key(color)
  else emit('set', color)
}
</script>
<template>
  <label v-if="title" class="pick"
    >{{ title }} <input type="color" :aria-label="label" :value="now" @change="chosen"
  /></label>
  <div class="row">
    <input v-if="!title" type="color" :aria-label="label" :value="now" @change="chosen" />
    <slot />
    <button v-if="keys" class="act" title="A key at this frame: it has this colour here" @click="key(now)">
      {{ keys }}
    </button>
  </div>
</template>
