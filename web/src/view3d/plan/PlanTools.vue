<script setup lang="ts">
// What can be done on the plan: draw a path, measure, look from another side.
import { useTip } from '@/stores/keys'
import { Axis3d, CircleDashed, CircleDot, Maximize2, MoveVertical, PanelTop, Ruler, Slash, Spline } from '@lucide/vue'
import { useView, type Drawing } from '@/stores/view'
import { planMemory, type Face } from './memory'

const tip = useTip()

defineEmits<{ draw: [form: Drawing]; show: [] }>()
const view = useView()
const next: Record<Face, Face> = { plan: 'front', front: 'side', side: 'plan' }
function turn() {
  planMemory.face = next[planMemory.face]
}
function measure() {
  view.measuring = !view.measuring
  view.tape = null
}
</script>
<template>
  <div class="tools" @pointerdown.stop @click.stop @dblclick.stop>
    <button
      class="act"
      :aria-pressed="view.drawing === 'curve'"
      :title="tip('Draw a curved path for the selection', 'draw a path for the selection')"
      @click="$emit('draw', 'curve')"
    >
      <Spline :size="15" /> Draw a path
    </button>
    <button
      class="icon"
      aria-label="Draw a straight path"
      title="Straight path"
      :aria-pressed="view.drawing === 'straight'"
      @click="$emit('draw', 'straight')"
    >
      <Slash :size="15" />
    </button>
    <button
      class="icon"
      aria-label="Draw an arc"
      title="Arc through three places"
      :aria-pressed="view.drawing === 'arc'"
      @click="$emit('draw', 'arc')"
    >
      <CircleDashed :size="15" />
    </button>
    <button
      class="icon"
      aria-label="Draw a rise"
      title="Rise: straight up or down, in an elevation"
      :aria-pressed="view.drawing === 'rise'"
      @click="$emit('draw', 'rise')"
    >
      <MoveVertical :size="15" />
    </button>
    <span class="part"></span>
    <button
      class="icon"
      aria-label="Measure"
      :title="tip('Measure between two places', 'measure between two places')"
      :aria-pressed="view.measuring"
      @click="measure"
    >
      <Ruler :size="15" />
    </button>
    <button
      class="icon"
      aria-label="Axes of the selection"
      :title="tip('Move along the selection’s own axes, or the world’s', 'axes of the world, or of the selection')"
      :aria-pressed="view.localAxes"
      @click="view.localAxes = !view.localAxes"
    >
      <Axis3d :size="15" />
    </button>
    <button
      class="icon"
      aria-label="Each about its own origin"
      :title="
        tip(
          'Turn and scale each about its own origin, or all about their middle',
          'turn and scale about the middle, or each about its own origin',
        )
      "
      :aria-pressed="view.pivot === 'own'"
      @click="view.pivot = view.pivot === 'own' ? 'middle' : 'own'"
    >
      <CircleDot :size="15" />
    </button>
    <button
      class="icon"
      aria-label="From another side"
      :title="tip('Plan or elevation', 'plan, or an elevation')"
      @click="turn"
    >
      <PanelTop :size="15" />
    </button>
    <button class="icon" aria-label="Show the whole set" title="Show the whole set" @click="$emit('show')">
      <Maximize2 :size="15" />
    </button>
  </div>
</template>
<style scoped>
.tools {
  position: absolute;
  left: 10px;
  right: 10px;
  bottom: 10px;
  display: flex;
  flex-wrap: wrap-reverse; /* in a narrow pane the last ones stand above */
  pointer-events: none;
  gap: 4px;
}
.tools > * {
  pointer-events: auto;
}
.part {
  width: 4px;
}
</style>
