<script setup lang="ts">
// Undo and redo, the history, whether all is saved, and who is here: of a scene or of
// a library.
import { CloudAlert, CloudCheck, CloudUpload, History, Redo2, Undo2 } from '@lucide/vue'
import { computed } from 'vue'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import HistoryLeaf from './HistoryLeaf.vue'
import PeopleHere from './PeopleHere.vue'

const scene = useScene()
const view = useView()
const saying = computed(() => {
  if (scene.saved === 'saved') return `saved · edit ${scene.revision}`
  const waiting = `${scene.waiting} ${scene.waiting === 1 ? 'edit waits' : 'edits wait'}`
  if (scene.saved === 'saving') return scene.waiting > 1 ? `saving · ${waiting}` : 'saving'
  if (scene.written === undefined) return 'not saved · keeping it here'
  return `not saved · ${waiting}${scene.written ? '' : ' in this tab alone'}`
})
</script>
<template>
  <button
    class="icon"
    aria-label="Undo"
    :title="scene.undoable.length ? `Undo: ${scene.undoable.at(-1)!.label}` : 'Nothing to undo'"
    :disabled="!scene.undoable.length || !!scene.past"
    @click="scene.undo()"
  >
    <Undo2 :size="17" />
  </button>
  <button
    class="icon"
    aria-label="Redo"
    :title="scene.redoable.length ? `Redo: ${scene.redoable.at(-1)!.label}` : 'Nothing to redo'"
    :disabled="!scene.redoable.length || !!scene.past"
    @click="scene.redo()"
  >
    <Redo2 :size="17" />
  </button>
  <button
    class="icon"
    :class="{ told: scene.lost.length }"
    aria-label="History"
    :title="
      scene.lost.length ? `History · ${scene.lost.length} could not be kept` : 'History: what was done, and versions'
    "
    :aria-pressed="view.history"
    @click="view.history = !view.history"
  >
    <History :size="17" />
  </button>
  <span
    v-if="scene.loaded"
    class="saved"
    :class="scene.saved"
    role="status"
    aria-label="Saved state"
    :title="
      scene.saved === 'waiting'
        ? 'The server does not answer. What was done is kept in this browser, and sent as soon as it answers.'
        : ''
    "
  >
    <CloudCheck v-if="scene.saved === 'saved'" :size="15" /><CloudUpload
      v-else-if="scene.saved === 'saving'"
      :size="15"
    /><CloudAlert v-else :size="15" />
    {{ saying }}
  </span>
  <PeopleHere v-if="scene.loaded" />
  <HistoryLeaf v-model="view.history" />
</template>
<style scoped>
.saved {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 124px;
  color: var(--dim);
  font: 12px var(--font-condensed);
}
.told {
  border-color: var(--warning);
  color: var(--warning);
}
.saved.saved svg {
  color: var(--good);
}
.saved.waiting {
  color: var(--warning);
}
</style>
