<script setup lang="ts">
// What is on air, as it is delivered; beside it on demand the neighbours of the
// seam, the board, or another assembly in step. While a cut is dragged, the two
// frames that it is about take its place.
import { Columns2, GalleryHorizontal, Image as Panel } from '@lucide/vue'
import { PerspectiveCamera } from 'three'
import { computed, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core } from '@/core/bridge'
import { useCutting, type Beside } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import CameraBadge from '@/ui/CameraBadge.vue'
import BoardOver from '@/view3d/lens/BoardOver.vue'
import DeliveredButton from '@/view3d/lens/DeliveredButton.vue'
import DeliveredFrame from '@/view3d/lens/DeliveredFrame.vue'
import { useDelivered } from '@/view3d/lens/useDelivered'
import { cardsOf } from '@/view3d/stillPictures'
import { fit, useStageView } from '@/view3d/useStageView'
import { usePane } from '@/view3d/usePane'
import AirView from './AirView.vue'
import FrameView from './FrameView.vue'

const scene = useScene()
const pane = usePane('program')
const head = usePlayhead()
const cutting = useCutting()
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const margin = 10
const box = computed(() => {
  const b = fit(Math.max(1, width.value - 2 * margin), Math.max(1, height.value - 2 * margin), scene.aspect)
  return { ...b, x: b.x + margin, y: b.y + margin }
})
const lens = new PerspectiveCamera()
const stage = useStageView(
  element,
  () => {
    if (cutting.pair?.length) return null
    if (head.airCamera) stage.lens(head.airCamera, lens)
    return head.onAir.length ? lens : null
  },
  {
    frame: () => box.value,
    shot: () => head.airShot,
    air: () => head.air,
    focus: () => ({
      camera: head.airCamera,
      sensor: [36, 24],
      blur: !!scene.doc.settings.blur,
      tint: false,
    }),
  },
)

const camera = computed(() => scene.doc.nodes[head.airCamera])
const shot = computed(() => scene.shotOf(head.airShot))
watch([() => head.air, shot, () => cutting.pair, () => cutting.beside, () => cardsOf(scene.doc, head.air)], () =>
  stage.invalidate(),
)
const style = computed(() => ({
  left: `${box.value.x}px`,
  top: `${box.value.y}px`,
  width: `${box.value.width}px`,
  height: `${box.value.height}px`,
}))
const joining = computed(() => {
  const [p, second] = head.onAir
  if (second) return `dissolve ${Math.round(Math.max(p!.weight, second.weight) * 100)} %`
  if (head.air.dip) return `dip ${Math.round(p!.weight * 100)} %`
  if (p?.between) return `travel ${Math.round(p.between.share * 100)} %`
  return ''
})
/** The frames on both sides of the seam at or after the playhead. */
const seam = computed(() => {
  const list = scene.cut.shots
  const i = Math.max(
    0,
    list.findIndex((s) => s.id === head.airShot),
  )
  const now = scene.shotOf(list[i]?.id ?? '')
  if (!now) return []
  const late = i === 0 || head.screen > (now.screenIn + now.screenOut) / 2
  const [a, b] = late ? [list[i], list[i + 1]] : [list[i - 1], list[i]]
  return [a, b].flatMap((c, k) => {
    const s = c && scene.doc.shots[c.id]
    return s ? [{ shot: c.id, frame: k ? s.screenIn : s.screenOut - 1, words: k ? 'first' : 'last' }] : []
  })
})
const boards = computed(() =>
  Object.values(scene.doc.boards)
    .filter((b) => b.shot === head.airShot)
    .sort((a, b) => (a.at ?? 0) - (b.at ?? 0)),
)
const others = computed(() =>
  Object.entries(scene.doc.assemblies)
    .filter(([id]) => id !== scene.cut.assembly)
    .map(([id, a]) => ({ id, name: a.name })),
)
function stand(b: Beside) {
  cutting.beside = cutting.beside === b ? '' : b
  if (cutting.beside === 'compare' && !others.value.some((o) => o.id === cutting.other))
    cutting.other = others.value[0]?.id ?? ''
}
const beside = ref(false)
const delivered = useDelivered(() => ({ frame: head.screen }))
</script>
<template>
  <div class="program" :class="{ columns: cutting.beside === 'board' || cutting.beside === 'compare' }">
    <div ref="element" v-bind="pane" class="lens" tabindex="-1" role="application" aria-label="Program">
      <div v-if="cutting.pair?.length" class="pair">
        <FrameView v-for="f in cutting.pair" :key="`${f.shot} ${f.words}`" v-bind="f" />
      </div>
      <template v-else-if="head.onAir.length">
        <DeliveredFrame :picture="delivered.picture.value" :box="box" />
        <div class="gate" :style="style">
          <div class="tally" role="img" aria-label="on air"></div>
          <div class="legend">
            <CameraBadge v-if="camera?.camera" :number="camera.camera.number" :color="camera.camera.color" />
            <span>{{ head.taking ? 'live' : '' }} {{ camera?.name ?? shot?.name ?? shot?.plays }}</span>
            <span v-if="joining" class="join">{{ joining }}</span>
            <span v-if="shot && shot.speed !== 1" class="join">{{
              shot.speed === 0 ? 'held' : `${+shot.speed.toFixed(2)}×`
            }}</span>
          </div>
          <div class="stamp">
            <span class="story">◷ {{ core.timecode('story', head.story) }}</span>
            <span class="screen">▷ {{ core.timecode('screen', head.screen) }}</span>
          </div>
        </div>
        <BoardOver v-model:beside="beside" :camera="head.airCamera" :shot="head.airShot" :box="box" over-only />
      </template>
      <div v-else class="empty">
        <p>{{ head.taking ? 'The take runs: put a camera on air.' : 'Nothing is on air here.' }}</p>
        <p class="dim">Press a camera of the wall to cut to it at the playhead.</p>
      </div>
      <div class="tools" @pointerdown.stop>
        <button
          class="icon"
          aria-label="Neighbours"
          title="Both sides of the seam"
          :aria-pressed="cutting.beside === 'seam'"
          @click="stand('seam')"
        >
          <GalleryHorizontal :size="15" />
        </button>
        <button
          class="icon"
          aria-label="Board beside the program"
          title="The board beside the picture"
          :aria-pressed="cutting.beside === 'board'"
          @click="stand('board')"
        >
          <Panel :size="15" />
        </button>
        <button
          class="icon"
          aria-label="Compare with another assembly"
          :title="others.length ? 'Another assembly beside it, in step' : 'There is no other assembly to compare with'"
          :disabled="!others.length"
          :aria-pressed="cutting.beside === 'compare'"
          @click="stand('compare')"
        >
          <Columns2 :size="15" />
        </button>
        <DeliveredButton :delivered="delivered" />
      </div>
    </div>
    <div v-if="cutting.beside === 'seam'" class="seam">
      <FrameView v-for="f in seam" :key="`${f.shot} ${f.words}`" v-bind="f" />
    </div>
    <div v-else-if="cutting.beside === 'board'" class="side">
      <figure v-for="(b, i) in boards" :key="i">
        <img :src="`/api/images/${b.blob}`" :alt="b.name || 'board'" />
        <figcaption class="dim">{{ b.name }} · from frame {{ b.at ?? 0 }}</figcaption>
      </figure>
      <p v-if="!boards.length" class="dim">This shot has no board. Give it one under “boards”.</p>
    </div>
    <div v-else-if="cutting.beside === 'compare'" class="side">
      <label class="pick"
        >assembly
        <select v-model="cutting.other" aria-label="Compared assembly">
          <option v-for="o in others" :key="o.id" :value="o.id">{{ o.name }}</option>
        </select></label
      >
      <AirView v-if="cutting.other" :assembly="cutting.other" />
    </div>
  </div>
</template>
<style scoped>
.program {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.program.columns {
  flex-direction: row;
}
.lens {
  position: relative;
  flex: 1;
  min-width: 0;
  min-height: 0;
  overflow: hidden;
  outline: none;
}
.gate {
  position: absolute;
  pointer-events: none;
  outline: 1px solid var(--line);
}
.join {
  padding-left: 6px;
  border-left: 1px solid var(--line);
  color: var(--brass);
}
.tools {
  position: absolute;
  left: 14px;
  bottom: 14px;
  display: flex;
  gap: 4px;
}
.pair {
  position: absolute;
  inset: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(0, 1fr));
  grid-auto-flow: column;
  align-items: center;
  gap: 4px;
  padding: 10px;
}
.seam {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  flex: none;
  width: min(100%, 640px);
  margin: 0 auto;
  padding: 0 10px 8px;
}
.side {
  flex: none;
  width: 42%;
  padding: 10px 10px 10px 0;
  overflow-y: auto;
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 8px;
}
.side figure {
  margin: 0;
}
.side img {
  width: 100%;
  display: block;
  background: #e8e4da;
}
figcaption {
  font-size: 12px;
}
</style>
