<script setup lang="ts">
// A model, picture, sound or video of a scene or a library in one line.
import { Box, Film, Music } from '@lucide/vue'
import { useIntersectionObserver } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Card, Footage, Model, Sound } from '@/core/bridge'
import type { Shared } from '@/stores/library'
import { allInWords } from '@/ui/lengths'
import { drawPortrait, portrait } from '@/view3d/portraits'

const props = defineProps<{ kind: Shared; thing: Model | Sound | Card | Footage }>()
const row = ref<HTMLElement | null>(null)
const model = computed(() => (props.kind === 'models' ? `model ${props.thing.blob}` : ''))
useIntersectionObserver(row, ([e]) => e?.isIntersecting && model.value && drawPortrait(model.value))
const picture = computed(() => {
  switch (props.kind) {
    case 'models':
      return portrait(model.value)
    case 'cards':
      return props.thing.blob ? `/api/images/${props.thing.blob}` : ''
    case 'footage':
      return `/api/footage/${props.thing.blob}/picture`
  }
  return ''
})
const says = computed(() => {
  switch (props.kind) {
    case 'models': {
      const m = props.thing as Model
      return `${allInWords(m.size as [number, number, number], ' × ')} · ${m.triangles.toLocaleString('en')} triangles`
    }
    case 'sounds':
      return `${(props.thing as Sound).seconds.toFixed(2)} s`
    case 'cards': {
      const c = props.thing as Card
      return c.blob ? `${c.width} × ${c.height}` : 'a title'
    }
    case 'footage': {
      const f = props.thing as Footage
      return `${f.width} × ${f.height} · ${f.frames} f`
    }
  }
  return ''
})
</script>
<template>
  <li ref="row" class="media">
    <img v-if="picture" :src="picture" alt="" />
    <span v-else class="blank"
      ><Music v-if="kind === 'sounds'" :size="16" /><Film v-else-if="kind === 'footage'" :size="16" /><Box
        v-else
        :size="16"
    /></span>
    <span class="name"
      ><slot name="name"
        ><b>{{ thing.name }}</b></slot
      ><i class="dim">{{ says }}</i></span
    >
    <slot></slot>
  </li>
</template>
<style scoped>
.media {
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 0;
}
img,
.blank {
  display: grid;
  place-items: center;
  flex: none;
  width: 60px;
  height: 40px;
  border-radius: 4px;
  background: #16211f;
  color: var(--dim);
  object-fit: cover;
}
.name {
  display: grid;
  flex: 1;
  min-width: 0;
}
.name b {
  overflow: hidden;
  font-weight: 500;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name i {
  font: 12px var(--font-condensed);
}
</style>
