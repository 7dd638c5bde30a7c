<script setup lang="ts">
// One thing of the stock with its picture: drag it into a view, or press it and
// then click where it goes.
import { Lightbulb, Locate, Cone } from '@lucide/vue'
import { useIntersectionObserver } from '@vueuse/core'
import { ref } from 'vue'
import { useView, type Placing } from '@/stores/view'
import { carryFromStock, dragType } from '@/view3d/usePlacing'
import { drawPortrait, portrait } from '@/view3d/portraits'

const props = defineProps<{ item: Placing; picture: string }>()
const view = useView()
const element = ref<HTMLElement | null>(null)
useIntersectionObserver(element, ([e]) => e?.isIntersecting && props.picture && drawPortrait(props.picture))

function drag(e: DragEvent) {
  e.dataTransfer!.setData(dragType, props.item.name)
  e.dataTransfer!.setDragImage(element.value!, 24, 24)
  carryFromStock(props.item)
}
function arm() {
  const same = view.placing?.name === props.item.name
  view.placing = same ? null : props.item
}
</script>
<template>
  <button
    ref="element"
    class="item"
    draggable="true"
    :aria-pressed="view.placing?.name === item.name"
    :title="`${item.name}: drag it into a view, or press it and click where it goes`"
    @dragstart="drag"
    @dragend="carryFromStock(null)"
    @click="arm"
  >
    <img v-if="picture && portrait(picture)" :src="portrait(picture)" alt="" draggable="false" />
    <span v-else class="blank">
      <Lightbulb v-if="item.kind === 'lamp' && item.stock !== 'spot'" :size="20" />
      <Cone v-else-if="item.kind === 'lamp'" :size="20" />
      <Locate v-else-if="item.kind === 'aim'" :size="20" />
    </span>
    <span class="name">{{ item.name }}</span>
  </button>
</template>
<style scoped>
.item {
  display: block;
  min-width: 0;
  padding: 0 0 3px;
  overflow: hidden;
  border: 1px solid var(--line);
  border-radius: 5px;
  background: var(--raised);
  color: var(--text);
  font: 11.5px/1.2 var(--font-condensed);
  text-align: center;
  cursor: grab;
}
.item:hover {
  border-color: var(--dim);
}
.item[aria-pressed='true'] {
  border-color: var(--brass);
  box-shadow: inset 0 0 0 1px var(--brass);
}
img,
.blank {
  display: grid;
  place-items: center;
  width: 100%;
  aspect-ratio: 3 / 2;
  background: #16211f;
  color: var(--brass);
}
.name {
  display: block;
  margin-top: 3px;
  padding: 0 3px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
