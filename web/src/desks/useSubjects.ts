// Lists of nodes to choose from, cast and props first.
import { computed } from 'vue'
import { useScene } from '@/stores/scene'

const first = ['cast', 'vehicle', 'prop', 'aim']

const headings = { cast: 'People', vehicle: 'Vehicles', prop: 'Props', group: 'Groups', set: 'Set' }

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
  /** What a picture can be composed of, by kinds. */
  const shown = computed(() =>
    Object.entries(headings)
      .map(([kind, heading]) => ({ kind, heading, of: subjects.value.filter((s) => s.kind === kind) }))
      .filter((g) => g.of.length),
  )
  return { subjects, cast, things, shown }
}
