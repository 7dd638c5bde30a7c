// How the cut is worked on: what a drag of a block's edges and body does, what
// stands beside the program, and which layout the strip has.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

/** What dragging a shot does; the nudging keys do the same frame by frame. */
export const grips = [
  { id: 'trim', title: 'Trim', hint: 'edges trim, the body moves' },
  { id: 'ripple', title: 'Ripple', hint: 'edges trim and later shots follow' },
  { id: 'roll', title: 'Roll', hint: 'a seam moves between its two shots' },
  { id: 'slip', title: 'Slip', hint: 'the shot stays, what it shows moves' },
  { id: 'slide', title: 'Slide', hint: 'the shot moves between its neighbours' },
] as const
export type Grip = (typeof grips)[number]['id']

export type Beside = '' | 'seam' | 'board' | 'compare'

/** The frames that are compared while a drag goes on: a shot at a screen frame. */
export interface Compared {
  shot: string
  frame: number
  words: string
}

export const useCutting = defineStore('cutting', () => {
  const grip = ref<Grip>('trim')
  const beside = ref<Beside>('')
  const other = ref('') // the assembly that is compared
  const storyLayout = ref(false)
  const pair = shallowRef<Compared[] | null>(null)
  /** A ripple takes what follows on along in the story too. */
  const along = useLocalStorage('proscen.along', false)
  const snapping = useLocalStorage('proscen.snapping', true)
  const leaf = useLocalStorage('proscen.splice.leaf', 'shot')
  /** The edge that the nudging keys move. */
  const edge = ref<'in' | 'out'>('in')
  function nextGrip() {
    const i = grips.findIndex((g) => g.id === grip.value)
    grip.value = grips[(i + 1) % grips.length]!.id
  }
  return { grip, nextGrip, beside, other, storyLayout, pair, along, snapping, leaf, edge }
})
