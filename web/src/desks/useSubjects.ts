// Lists of nodes to choose from, cast and props first.
import { computed } from 'vue'
import { useScene } from '@/stores/scene'

const first = ['cast', 'vehicle', 'prop', 'aim']

export function useSubjects() {
  const scene = useScene()
  const subjects = computed(() =>
    Object.entries(scene.doc.nodes)
      .filter(([, n]) => n.kind !== 'camera' && n.kind !== 'lamp')
      .map(([id, n]) => ({ id, name: n.name, kind: n.kind, order: (first.indexOf(n.kind) + 9) % 9 }))
      .sort((a, b) => a.order - b.order || a.name.localeCompare(b.name, 'en', { numeric: true })),
  )
  const cast = computed(() => subjects.value.filter((s) => s.kind === 'cast'))
  const things = computed(() => subjects.value.filter((s) => s.kind === 'prop' || s.kind === 'vehicle'))
  return { subjects, cast, things }
}
