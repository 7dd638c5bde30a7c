<script setup lang="ts">
// Another view in small on top of the large one: scout, or another camera. It is
// moved by its head and keeps its place.
import { X } from '@lucide/vue'
import { PerspectiveCamera, Vector3 } from 'three'
import { computed, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { scoutMemory } from '../memory'
import { fit, useStageView } from '../useStageView'
import { useDrag } from '@/ui/useDrag'
import { useInsetPlace } from './insetPlace'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const { place } = useInsetPlace()
const lens = new PerspectiveCamera()
const showing = computed(() => (view.inset === 'program' ? head.airCamera : view.inset))
const stage = useStageView(
  element,
  () => {
    if (!view.inset) return null
    if (view.inset !== 'scout') return stage.lens(showing.value, lens) ? lens : null
    const m = scoutMemory()
    lens.matrixAutoUpdate = true
    lens.fov = 46
    lens.aspect = Math.max(0.1, width.value / Math.max(1, height.value))
    lens.near = 0.08
    lens.far = 3000
    lens.position.fromArray(m.eye)
    lens.lookAt(new Vector3(...m.target))
    lens.updateMatrixWorld()
    lens.updateProjectionMatrix()
    return lens
  },
  {
    over: true,
    get free() {
      return view.inset === 'scout'
    },
    frame: () =>
      view.inset === 'scout'
        ? { x: 0, y: 0, width: width.value, height: height.value }
        : fit(width.value, height.value, scene.aspect),
  },
)
watch([() => view.inset, place], () => stage.invalidate(), { deep: true })
const drag = useDrag()
function grab(e: PointerEvent) {
  const { x, y } = place.value
  drag.begin(e, e.currentTarget as HTMLElement, {
    move: (to) => (place.value = { x: x + to.clientX - e.clientX, y: y + to.clientY - e.clientY }),
    abandon: () => (place.value = { x, y }),
  })
}
</script>
<template>
  <section
    v-show="view.inset"
    class="inset"
    aria-label="Inset view"
    :style="{ left: `${place.x}px`, top: `${place.y}px` }"
    @pointerdown.stop
    @wheel.stop
  >
    <header @pointerdown="grab">
      <select v-model="view.inset" aria-label="Inset shows" @pointerdown.stop>
        <option value="scout">scout</option>
        <option value="program">program</option>
        <option v-for="c in scene.wall" :key="c.id" :value="c.id">{{ c.camera.number }} {{ c.node.name }}</option>
      </select>
      <button class="icon" aria-label="Close the inset" @pointerdown.stop @click="view.inset = ''">
        <X :size="13" />
      </button>
    </header>
    <div ref="element" class="picture"></div>
  </section>
</template>
<style scoped>
.inset {
  position: absolute;
  width: 240px;
  border: 1px solid var(--dim);
  border-radius: 6px;
  overflow: hidden;
}
header {
  display: flex;
  justify-content: space-between;
  height: 24px;
  background: var(--raised);
  cursor: move;
  touch-action: none;
}
select {
  max-width: 190px;
  border: 0;
  background: none;
  color: var(--text);
  font: 12px var(--font-condensed);
}
option {
  background: var(--raised);
}
.icon {
  height: 22px;
  border: 0;
}
.picture {
  height: 136px;
}
</style>
