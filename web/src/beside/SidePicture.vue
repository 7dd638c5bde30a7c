<script setup lang="ts">
// One of the pictures side by side: what it shows, and the choice of that above it.
import { PerspectiveCamera } from 'three'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { useAlternates } from '@/stores/alternates'
import { useComparing } from '@/stores/comparing'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import CameraBadge from '@/ui/CameraBadge.vue'
import { sentence } from '@/ui/sentence'
import { cardsOf } from '@/view3d/stillPictures'
import { fit, useStageView } from '@/view3d/useStageView'

const props = defineProps<{
  number: number
  /** From this share of its width on it lies over another picture. */
  from?: number
}>()
const scene = useScene()
const head = usePlayhead()
const alternates = useAlternates()
const comparing = useComparing()
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const lens = new PerspectiveCamera()
const over = computed(() => props.from !== undefined)

const side = computed(() => comparing.sides[props.number]!)
const leads = computed(() => comparing.lead === props.number)
const known = computed(() => comparing.known[side.value.alternate])
const air = computed(() => {
  void [scene.changes, scene.differed]
  return known.value && !known.value.fault ? comparing.airOf(side.value) : { screen: -1, playing: [] }
})
const playing = computed(() => air.value.playing[0])
const shot = computed(() => scene.doc.shots[playing.value?.shot ?? ''])
const camera = computed(() => scene.doc.nodes[playing.value?.camera ?? '']?.camera)
const format = computed(() => scene.doc.formats[side.value.format || known.value?.format || scene.doc.settings.format])
const box = computed(() =>
  fit(width.value, height.value, format.value ? format.value.width / format.value.height : scene.aspect),
)
const key = computed(
  () =>
    `${scene.pictured} ${scene.differed} ${JSON.stringify([air.value, side.value, known.value])} ${cardsOf(scene.doc, air.value)}`,
)
const stage = useStageView(
  element,
  () => {
    if (playing.value) stage.lens(playing.value.camera, lens)
    return lens
  },
  {
    air: () => air.value,
    frame: () => box.value,
    alternate: () => side.value.alternate,
    format: () => (side.value.format ? { id: side.value.format, screen: air.value.screen } : null),
    ...(props.from === undefined ? {} : { from: () => props.from!, over: true }),
  },
)
watch([key, box, () => props.from], () => stage.invalidate(), { flush: 'post' })
onBeforeUnmount(() => stage.invalidate())

const says = computed(() => {
  if (known.value?.fault) return sentence(known.value.fault)
  if (playing.value) return ''
  if (scene.cut.shots.length) return 'Nothing is on air here.'
  return scene.wall.length
    ? 'Nothing is cut yet. Choose a camera above, or put a shot into the cut.'
    : 'There is no camera yet. Leave one on Dress or Frame: N.'
})
const cameras = computed(() => scene.wall.map((c) => ({ id: c.id, title: `${c.camera.number} ${c.node.name}` })))
const value = (e: Event) => (e.target as HTMLSelectElement).value
</script>
<template>
  <figure class="side" :class="{ leads, over }" :aria-label="`Picture ${number + 1}`">
    <figcaption :style="over ? { left: 'auto', right: 0 } : {}">
      <button
        class="act lead"
        :aria-pressed="leads"
        :title="leads ? 'This picture leads: it is what is worked in, and heard' : 'Let this picture lead'"
        :aria-label="`Picture ${number + 1} leads`"
        @click="comparing.leads(number)"
      >
        {{ leads ? 'leads' : 'lead' }}
      </button>
      <select
        :value="side.alternate"
        :aria-label="`Alternate of picture ${number + 1}`"
        @change="comparing.show(number, { alternate: value($event) })"
      >
        <option value="">the scene</option>
        <option v-for="a in alternates.all" :key="a.id" :value="a.id" :disabled="a.shut">{{ a.name }}</option>
      </select>
      <select
        :value="side.camera"
        :aria-label="`Camera of picture ${number + 1}`"
        @change="comparing.show(number, { camera: value($event) })"
      >
        <option value="">as cut</option>
        <option v-for="c in cameras" :key="c.id" :value="c.id">{{ c.title }}</option>
      </select>
      <select
        v-if="Object.keys(scene.doc.assemblies).length > 1 && !side.camera"
        :value="side.assembly"
        :aria-label="`Assembly of picture ${number + 1}`"
        @change="comparing.show(number, { assembly: value($event) })"
      >
        <option v-for="(a, id) in scene.doc.assemblies" :key="id" :value="id">{{ a.name }}</option>
      </select>
      <select
        :value="side.format"
        :aria-label="`Format of picture ${number + 1}`"
        @change="comparing.show(number, { format: value($event) })"
      >
        <option value="">its format</option>
        <option v-for="(f, id) in scene.doc.formats" :key="id" :value="id">{{ f.name }}</option>
      </select>
      <span class="what">
        <CameraBadge v-if="camera" :number="camera.number" :color="camera.color" :size="16" />
        <template v-if="shot">{{ shot.number }}</template>
        <span class="story">◷ {{ Math.round(playing?.story ?? head.story) }}</span>
      </span>
    </figcaption>
    <div ref="element" class="picture">
      <span
        v-if="says"
        class="says"
        :style="{ left: `${box.x}px`, top: `${box.y}px`, width: `${box.width}px`, height: `${box.height}px` }"
        >{{ says }}</span
      >
    </div>
  </figure>
</template>
<style scoped>
.side {
  display: grid;
  grid-template-rows: 28px minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
  margin: 0;
}
.side.over {
  position: absolute;
  inset: 2px 0 8px; /* as the one below lies in its room */
  pointer-events: none;
}
figcaption {
  display: flex;
  gap: 4px;
  align-items: center;
  min-width: 0;
  overflow: hidden;
  font: 12px var(--font-condensed);
  pointer-events: auto;
}
.over figcaption {
  justify-content: flex-end;
  justify-self: end;
}
.lead {
  padding: 1px 8px;
  font: 11.5px var(--font-condensed);
}
select {
  flex: 0 1 118px;
  width: 118px;
  min-width: 40px;
  padding: 2px 4px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font-condensed);
}
.what {
  display: flex;
  flex: none;
  gap: 5px;
  align-items: center;
  margin-left: auto;
  white-space: nowrap;
}
.over .what {
  margin-left: 4px;
}
.picture {
  position: relative;
  min-height: 0;
}
.says {
  position: absolute;
  display: grid;
  place-items: center;
  border: 1px solid var(--line);
  background: var(--ink);
  color: var(--dim);
  font-size: 13px;
}
</style>
