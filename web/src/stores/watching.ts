// Whose ribbons are shown over the cut, in each scene.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import { useScene } from './scene'

export const useWatching = defineStore('watching', () => {
  const scene = useScene()
  const kept = useLocalStorage<Record<string, string[]>>('proscen.watched', {})
  const subjects = computed({
    get: () => (kept.value[scene.id] ?? []).filter((id) => scene.doc.nodes[id]),
    set: (ids) => (kept.value = { ...kept.value, [scene.id]: ids }),
  })
  return { subjects }
})
