<script setup lang="ts" generic="K extends Shared">
// What the library of the production has of a kind, to be taken into the open scene.
import { onMounted, ref } from 'vue'
import type { Document } from '@/core/bridge'
import { useLibrary, type Shared } from '@/stores/library'
import MediaRow from './MediaRow.vue'

const props = defineProps<{ kind: K }>()
const emit = defineEmits<{ close: []; take: [thing: Document[K][string], rate: string] }>()
const library = useLibrary()
const read = ref(false)
onMounted(async () => {
  await library.load()
  read.value = true
})
const titles: Record<Shared, string> = { models: 'Models', sounds: 'Sounds', cards: 'Pictures', footage: 'Footage' }
</script>
<template>
  <el-dialog
    :model-value="true"
    :title="`${titles[props.kind]} of the production`"
    width="480"
    append-to-body
    @close="emit('close')"
  >
    <p v-if="library.failure" class="why" role="alert">{{ library.failure }}</p>
    <ul v-else-if="library.kept" class="rows" :aria-label="titles[props.kind]">
      <MediaRow v-for="(thing, id) in library.kept[props.kind]" :key="id" :kind="props.kind" :thing="thing">
        <button
          class="act"
          :aria-label="`Take ${thing.name}`"
          @click="emit('take', thing as Document[K][string], library.kept.settings.rate)"
        >
          Take
        </button>
      </MediaRow>
    </ul>
    <p v-if="read && library.kept && !Object.keys(library.kept[props.kind]).length" class="note">
      There is nothing yet.
      <router-link :to="`/productions/${library.id}`">The library of the production</router-link> takes files in, and
      the facts of a scene (Ctrl K) give what it has to the production.
    </p>
  </el-dialog>
</template>
<style scoped>
.rows {
  display: grid;
  gap: 6px;
  max-height: 60vh;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
.why {
  color: var(--warning);
}
</style>
