<script setup lang="ts">
// Which fields of a thing differ where is worked, each with what can be done about it.
import { computed } from 'vue'
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'
import { channelNames } from '@/timeline/channels'
import DifferMenu from './DifferMenu.vue'
import { fieldName } from './fields'

const props = defineProps<{ collection: string; id: string }>()
const alternates = useAlternates()
const scene = useScene()
/** A field with the difference that it is of; '' for the field stands for the whole thing. */
interface Mark {
  difference: string
  field: string
  title: string
}
const marks = computed<Mark[]>(() => {
  void scene.differed
  if (!scene.layer) return []
  const of = (collection: string, thing: string) =>
    Object.entries(scene.doc.differences).find(
      ([, d]) => d.alternate === scene.layer && d.collection === collection && d.thing === thing,
    )?.[0]
  const out: Mark[] = []
  const add = (collection: string, thing: string, name?: string) => {
    const fields = alternates.differ[`${collection}/${thing}`]
    const difference = fields && of(collection, thing)
    if (!difference) return
    for (const field of fields) out.push({ difference, field, title: name ?? (field ? fieldName(field) : 'only here') })
  }
  add(props.collection, props.id)
  if (props.collection === 'nodes')
    for (const [id, c] of Object.entries(scene.doc.curves))
      if (c.node === props.id) add('curves', id, `keys of ${(channelNames[c.channel] ?? c.channel).toLowerCase()}`)
  return out
})
const others = computed(() => alternates.all.filter((a) => a.id !== scene.layer))
</script>
<template>
  <p v-if="marks.length" class="differs" :style="{ '--alternate': alternates.here?.color }">
    <span class="dim">≠ {{ alternates.here?.name }}</span>
    <DifferMenu
      v-for="m in marks"
      :key="m.difference + m.field"
      :ids="[m.difference]"
      :fields="m.field ? [m.field] : undefined"
      :others="others"
    >
      <button class="mark" :aria-label="`${m.title} differs`">{{ m.title }}</button>
    </DifferMenu>
  </p>
</template>
<style scoped>
.differs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  margin: 6px 0;
  font: 11.5px var(--font-condensed);
}
.mark {
  padding: 1px 7px;
  border: 1px solid var(--alternate);
  border-radius: 4px;
  background: none;
  color: var(--text);
  font: 11.5px var(--font-condensed);
  cursor: pointer;
}
</style>
