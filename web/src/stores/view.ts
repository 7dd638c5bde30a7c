// What the artist looks at: the desk, the camera looked through, what is open. What is
// selected and what the pointer does are parts of it with files of their own.
import { defineStore } from 'pinia'
import { ref, watch } from 'vue'
import { pointing } from './pointing'
import { useScene } from './scene'
import { selecting } from './selecting'

export * from './pointing'
export type * from './selecting'

export type Desk = 'dress' | 'frame' | 'splice' | 'turnover'
export const desks: { id: Desk; title: string; hint: string }[] = [
  { id: 'dress', title: 'Dress', hint: 'Build the set and block the action' },
  { id: 'frame', title: 'Frame', hint: 'Leave cameras, move and focus them' },
  { id: 'splice', title: 'Splice', hint: 'Cut between the cameras' },
  { id: 'turnover', title: 'Turnover', hint: 'Render every shot to video' },
]

/** A pane that can be blown up to the full desk. */
export type Pane = 'scout' | 'plan' | 'lens' | 'program'

export const useView = defineStore('view', () => {
  const scene = useScene()
  const { clear, ...selection } = selecting(scene)
  const { layDown, leaveTool, ...pointer } = pointing(scene)
  const desk = ref<Desk>('dress')
  const through = ref('') // camera looked through, '' in scout
  const lastThrough = ref('') // the camera that was looked through last
  const autoKey = ref(false)
  const unlocked = ref('') // camera that may be moved from its lens view
  const numbering = ref<string | null>(null) // the digits of a camera's number that is being typed
  const guides = ref(true)
  const shapes = ref(false) // all formats side by side take the place of the lens view
  const inset = ref('') // what the inset shows: '', scout, program or a camera
  const curves = ref(false) // curves are open above the rows of keys
  const full = ref<Pane | ''>('')
  const gathering = ref(0) // counts the wishes to go to the selection
  const beside = ref(false) // pictures side by side take the place of the desk
  const history = ref(false) // the leaf of history is open
  const alternates = ref(false) // that of alternates is
  watch(history, (open) => open && (alternates.value = false))
  watch(alternates, (open) => open && (history.value = false))

  function lookThrough(id: string) {
    through.value = id
    pointer.picking.value = null
    if (id) lastThrough.value = id
    if (id) selection.select('nodes', id)
    else unlocked.value = ''
  }
  /** Blows a pane up to the full desk, or back. */
  function fill(pane: Pane | '' = '') {
    full.value = full.value ? '' : pane
  }
  /** The one way back: ends a mode, or returns to scout. */
  function back() {
    if (leaveTool()) return
    if (beside.value) beside.value = false
    else if (full.value) full.value = ''
    else if (unlocked.value) unlocked.value = ''
    else if (through.value) through.value = ''
    else selection.select('nodes', '')
  }

  watch(desk, () => (beside.value = false))
  // A camera is moved in its own picture.
  watch(unlocked, (camera) => camera && (shapes.value = false))
  // A camera is locked again when something else is selected.
  watch(selection.selected, (s) => unlocked.value !== s?.id && (unlocked.value = ''), { flush: 'sync' })
  // Another scene begins as if it were the first; copied keys can be pasted into it.
  watch(
    () => scene.id,
    () => {
      clear()
      layDown()
      beside.value = false
      through.value = lastThrough.value = unlocked.value = inset.value = full.value = ''
      autoKey.value = curves.value = false
      numbering.value = null
    },
    { flush: 'sync' },
  )
  // What others remove is not looked through or moved any more.
  watch(
    () => scene.changes,
    () => {
      for (const r of [through, unlocked]) if (r.value && !scene.doc.nodes[r.value]) r.value = ''
    },
  )

  return {
    ...selection,
    ...pointer,
    ...{
      desk,
      through,
      lastThrough,
      autoKey,
      unlocked,
      numbering,
      guides,
      shapes,
      inset,
      curves,
      full,
      gathering,
      beside,
      history,
      alternates,
    },
    ...{ lookThrough, fill, back },
  }
})
