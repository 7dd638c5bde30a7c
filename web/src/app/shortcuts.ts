// Keys for what is done all day. Each has a word for the sheet on “?”.
import { useEventListener } from '@vueuse/core'
import { useCopying } from '@/stores/copying'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useArranging } from '@/stores/arranging'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useCutActions } from '@/timeline/useCutActions'
import { useLeaving } from '@/view3d/leaving'
import { planMemory, type Face } from '@/view3d/plan/memory'

export interface Shortcut {
  keys: string[] // as KeyboardEvent.key; Ctrl+ stands for Control or Command
  words: string
  group: 'Time' | 'Set' | 'Cameras' | 'Cut' | 'Edit' | 'View'
  shown?: string
  run: () => void
}

/** What keys do on the time strip. */
interface Strip {
  marker(): void
  zoom(k: number): void
  fit(): void
  setKeys(): void
  stepKey(by: -1 | 1): void
  pasteKeys(reverse: boolean): void
}

/** Whether a key belongs to what has the focus: text, lists that are open, dialogs. */
function types(t: HTMLElement, key: string): boolean {
  if (t.closest('textarea, select, [contenteditable], .el-dialog, .el-popper')) return true
  const choice = t.closest('.el-select') && t instanceof HTMLInputElement && t.readOnly
  if (choice) return t.ariaExpanded === 'true' || [' ', 'Enter', 'ArrowUp', 'ArrowDown'].includes(key)
  return !!t.closest('input:not([type=checkbox], [type=range], [type=color], [type=file]), .el-select')
}

/** What was pressed or chosen with the mouse lets the focus go, so that keys mean the desk again. */
function useReleasedFocus() {
  let mouse = false
  const release = (what: string) => {
    const t = document.activeElement
    if (mouse && t instanceof HTMLElement && t.matches(what) && !t.closest('.el-dialog, .el-popper, [aria-haspopup]'))
      t.blur()
  }
  useEventListener(window, 'pointerdown', () => (mouse = true), { capture: true, passive: true })
  useEventListener(window, 'keydown', () => (mouse = false), { capture: true, passive: true })
  useEventListener(window, 'click', () => release('button'))
  useEventListener(window, 'change', () => release('select, input[type=color]'))
}

export function useShortcuts(strip: () => Strip | null, help: () => void, finds: () => void): Shortcut[] {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const arranging = useArranging()
  const leaving = useLeaving()
  const cutting = useCutting()
  const copying = useCopying()
  const cut = useCutActions()
  const splicing = () => view.desk === 'splice'
  const camera = (number: number) => {
    const c = scene.cameras.find((x) => x.camera.number === number)
    if (!c) return
    if (view.desk === 'splice') {
      if (!head.take) view.select('nodes', c.id)
      head.putOnAir(c.id)
    } else view.lookThrough(c.id)
  }
  const remove = (close: boolean) => {
    if (view.keys) {
      if (scene.run('keyRemove', { ...view.keys })) view.keys = null
      return
    }
    const s = view.selected
    if (s?.collection === 'shots' || (!s && view.desk === 'splice')) return cut.remove(close)
    if (!s) return
    const done = scene.run('remove', { collection: s.collection, ids: s.collection === 'nodes' ? view.nodes : [s.id] })
    if (!done) return
    if (view.through === s.id) view.lookThrough('')
    view.select('nodes', '')
  }
  useReleasedFocus()
  const pointer = { x: 0, y: 0 }
  useEventListener(window, 'pointermove', (e) => Object.assign(pointer, { x: e.clientX, y: e.clientY }), {
    passive: true,
  })
  const list: Shortcut[] = [
    { keys: [' '], shown: 'Space', words: 'play or pause', group: 'Time', run: () => head.toggle() },
    { keys: ['j'], words: 'shuttle back', group: 'Time', run: () => head.shuttle(-1) },
    { keys: ['k'], words: 'stop', group: 'Time', run: () => head.stop() },
    { keys: ['l'], words: 'shuttle on', group: 'Time', run: () => head.shuttle(1) },
    { keys: [',', 'ArrowLeft'], shown: ',', words: 'one frame back', group: 'Time', run: () => head.step(-1) },
    { keys: ['.', 'ArrowRight'], shown: '.', words: 'one frame on', group: 'Time', run: () => head.step(1) },
    { keys: ['Home'], words: 'to the start', group: 'Time', run: () => head.set(head.range.in) },
    { keys: ['End'], words: 'to the end', group: 'Time', run: () => head.set(head.range.out - 1) },
    {
      keys: ['o'],
      words: 'range ends here (Splice: I begins it)',
      group: 'Time',
      run: () => head.mark('out'),
    },
    { keys: ['ArrowUp'], shown: '↑', words: 'to the seam before', group: 'Cut', run: () => cut.seam(-1) },
    { keys: ['ArrowDown'], shown: '↓', words: 'to the next seam', group: 'Cut', run: () => cut.seam(1) },
    { keys: ['PageUp'], words: 'to the marker before', group: 'Time', run: () => cut.marker(-1) },
    { keys: ['PageDown'], words: 'to the next marker', group: 'Time', run: () => cut.marker(1) },
    { keys: ['+', '='], shown: '+', words: 'show less of the time', group: 'Time', run: () => strip()?.zoom(1 / 1.6) },
    { keys: ['-'], words: 'show more of the time', group: 'Time', run: () => strip()?.zoom(1.6) },
    { keys: ['0'], words: 'show all of the time, or what is chosen', group: 'Time', run: () => strip()?.fit() },
    { keys: ['m'], words: 'drop a marker', group: 'Time', run: () => strip()?.marker() },
    ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((n): Shortcut => ({
      keys: [String(n)],
      words: n === 1 ? 'camera 1–9: look through, in Splice put on air' : '',
      group: 'Cameras',
      run: () => camera(n),
    })),
    {
      keys: ['u'],
      words: 'unlock the camera for moving',
      group: 'Cameras',
      run: () => {
        if (splicing()) cut.place('overwrite')
        else view.unlocked = view.unlocked ? '' : view.through
      },
    },
    { keys: ['a'], words: 'auto-key on or off', group: 'Cameras', run: () => (view.autoKey = !view.autoKey) },
    { keys: ['s'], words: 'set keys here', group: 'Cameras', run: () => strip()?.setKeys() },
    { keys: ['<'], words: 'to the key before', group: 'Time', run: () => strip()?.stepKey(-1) },
    { keys: ['>'], words: 'to the next key', group: 'Time', run: () => strip()?.stepKey(1) },
    {
      keys: ['r'],
      words: 'curves above the rows; in Splice a live take',
      group: 'Cameras',
      run: () => {
        if (splicing()) head.armed = !head.armed
        else view.curves = !view.curves
      },
    },
    {
      keys: ['i'],
      words: 'another view as an inset; in Splice the range begins here',
      group: 'View',
      run: () => {
        if (head.clock === 'screen') head.mark('in')
        else view.inset = view.inset ? '' : 'scout'
      },
    },
    {
      keys: ['y'],
      words: 'leave a position for the move',
      group: 'Cameras',
      run: () => {
        if (splicing()) cut.place('insert')
        else leaving.leave()
      },
    },
    { keys: ['n'], words: 'the next grip', group: 'Cut', run: () => cutting.nextGrip() },
    { keys: ['['], words: 'grip the selected shot one frame earlier', group: 'Cut', run: () => cut.trim(-1) },
    { keys: [']'], words: 'grip the selected shot one frame later', group: 'Cut', run: () => cut.trim(1) },
    { keys: ['{'], words: 'ten frames earlier', group: 'Cut', run: () => cut.trim(-10) },
    { keys: ['}'], words: 'ten frames later', group: 'Cut', run: () => cut.trim(10) },
    { keys: ['h'], words: 'lengthen the shot to the playhead', group: 'Cut', run: () => splicing() && cut.reach() },
    { keys: ['p'], words: 'close the gap at the playhead', group: 'Cut', run: () => splicing() && cut.closeGap() },
    { keys: ['z'], words: 'hold the frame at the playhead', group: 'Cut', run: () => splicing() && cut.freeze() },
    { keys: ['Ctrl+c'], shown: 'Ctrl C', words: 'copy what is selected', group: 'Edit', run: () => copying.copy() },
    {
      keys: ['Ctrl+a'],
      shown: 'Ctrl A',
      words: 'select all keys',
      group: 'Edit',
      run: () => view.allKeys(view.node || view.through),
    },
    {
      keys: ['Ctrl+v'],
      shown: 'Ctrl V',
      words: 'paste, also from another scene',
      group: 'Edit',
      run: () => copying.paste(() => strip()?.pasteKeys(false)),
    },
    {
      keys: ['Ctrl+Shift+v'],
      shown: 'Ctrl Shift V',
      words: 'paste keys reversed',
      group: 'Edit',
      run: () => strip()?.pasteKeys(true),
    },
    {
      keys: ['d'],
      words: 'draw a path for the selection',
      group: 'Cameras',
      run: () => (view.drawing = view.drawing ? null : 'curve'),
    },
    {
      keys: ['Ctrl+g'],
      shown: 'Ctrl G',
      words: 'group the selection',
      group: 'Set',
      run: () => view.nodes.length && arranging.group(),
    },
    {
      keys: ['c'],
      words: 'copy the selection beside itself; a shot after itself',
      group: 'Set',
      run: () => (splicing() ? cut.duplicate() : view.nodes.length && arranging.duplicate()),
    },
    {
      keys: ['b'],
      words: 'let the selection down onto what is under it',
      group: 'Set',
      run: () => view.nodes.length && arranging.dropDown(),
    },
    {
      keys: ['t'],
      words: 'measure between two places; in Splice try a spare shot, and back',
      group: 'Set',
      run: () => {
        if (splicing()) return cut.tryShot()
        view.measuring = !view.measuring
        view.tape = null
      },
    },
    {
      keys: ['v'],
      words: 'plan, or an elevation; in Splice story-time layout',
      group: 'Set',
      run: () => {
        if (splicing()) cutting.storyLayout = !cutting.storyLayout
        else planMemory.face = { plan: 'front', front: 'side', side: 'plan' }[planMemory.face] as Face
      },
    },
    {
      keys: ['w'],
      words: 'axes of the world, or of the selection; in Splice swap with the next shot',
      group: 'Set',
      run: () => {
        if (splicing()) cut.swap()
        else view.localAxes = !view.localAxes
      },
    },
    {
      keys: ['q'],
      words: 'turn and scale about the middle, or each about its own origin',
      group: 'Set',
      run: () => (view.pivot = view.pivot === 'middle' ? 'own' : 'middle'),
    },
    {
      keys: ['Escape'],
      shown: 'Esc',
      words: 'back to scout, or leave what is going on',
      group: 'Cameras',
      run: () => view.back(),
    },
    {
      keys: ['x'],
      words: 'split the shot at the playhead',
      group: 'Cut',
      run: () => head.clock === 'screen' && cut.split(),
    },
    {
      keys: ['e'],
      words: 'add a shot at the end',
      group: 'Cut',
      run: () => head.clock === 'screen' && cut.place('append'),
    },
    {
      keys: [],
      shown: 'Y  U',
      words: 'insert, overwrite a shot of the selected camera',
      group: 'Cut',
      run: () => {},
    },
    {
      keys: ['Delete', 'Backspace'],
      shown: 'Del',
      words: 'remove; shots or a range leave a gap',
      group: 'Edit',
      run: () => remove(false),
    },
    {
      keys: ['Shift+Delete', 'Shift+Backspace'],
      shown: 'Shift Del',
      words: 'remove shots or a range and close up',
      group: 'Edit',
      run: () => remove(true),
    },
    { keys: ['Ctrl+z'], shown: 'Ctrl Z', words: 'undo', group: 'Edit', run: () => scene.undo() },
    { keys: ['Ctrl+Shift+z', 'Ctrl+y'], shown: 'Ctrl Shift Z', words: 'redo', group: 'Edit', run: () => scene.redo() },
    { keys: ['g'], words: 'guides', group: 'View', run: () => (view.guides = !view.guides) },
    {
      keys: ['f'],
      words: 'blow the pane under the pointer up, and back',
      group: 'View',
      run: () => view.fill(pointer),
    },
    { keys: ['Ctrl+k'], shown: 'Ctrl K', words: 'find anything', group: 'View', run: finds },
    { keys: ['?'], words: 'this sheet', group: 'View', run: help },
  ]
  const byKey = new Map(list.flatMap((s) => s.keys.map((k) => [k.toLowerCase(), s] as const)))
  useEventListener(window, 'keydown', (e: KeyboardEvent) => {
    const t = e.target as HTMLElement
    if (e.altKey || types(t, e.key)) return
    if (t.closest('button, video') && (e.key === ' ' || e.key === 'Enter')) return
    let key = e.key.toLowerCase()
    if (e.shiftKey && key.length > 1) key = `shift+${key}`
    if (e.ctrlKey || e.metaKey) key = `ctrl+${e.shiftKey ? 'shift+' : ''}${e.key.toLowerCase()}`
    const s = byKey.get(key)
    if (!s) return
    e.preventDefault()
    s.run()
  })
  return list
}
