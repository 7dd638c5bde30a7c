// Keys for what is done all day. Each has a word for the sheet on “?”.
import { useAlternates } from '@/stores/alternates'
import { useEventListener } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { computed } from 'vue'
import { useCopying } from '@/stores/copying'
import { useCutting } from '@/stores/cutting'
import { commands, onDesk, pressed, useKeys, type Command } from '@/stores/keys'
import { useStarting } from '@/stores/starting'
import { useTurnover } from '@/stores/turnover'
import { usePlayhead } from '@/stores/playhead'
import { useArranging } from '@/stores/arranging'
import { useScene } from '@/stores/scene'
import { desks, useView, type Desk } from '@/stores/view'
import { sentence } from '@/ui/sentence'
import { paneAt } from '@/view3d/usePane'
import { useCutActions } from '@/timeline/useCutActions'
import { useLeaving } from '@/view3d/leaving'
import { planMemory, type Face } from '@/view3d/plan/memory'

/** What commands open besides. */
export interface Opens {
  help(): void
  find(): void
  facts(): void
  preferences(): void
  round(): void
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

/** Whether something lies over the desk that keys are for now: a dialog, a menu that is open. */
const covered = () =>
  [
    ...document.querySelectorAll<HTMLElement>(
      '.el-overlay-dialog, .el-overlay-message-box, [role=menu], .el-dropdown__popper',
    ),
  ].some((o) => o.checkVisibility?.() ?? false)

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
  useEventListener(window, 'change', () => release('select, input[type=color], input[type=radio]'))
  // Enter ends what is typed on a desk; what it does there has been done when the key comes up.
  useEventListener(window, 'keyup', (e) => {
    const t = e.target
    if (
      e.key === 'Enter' &&
      t instanceof HTMLInputElement &&
      !t.closest('.el-dialog, .el-popper, .el-select, .find, .wrong')
    )
      t.blur()
  })
}

/** Looks through the camera of a number, or in Splice puts it on air. */
function useCalling() {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  /** False when there is no such camera. */
  return (number: number) => {
    const c = scene.cameras.find((x) => x.camera.number === number)
    if (!c) return false
    if (view.desk === 'splice') {
      if (!head.take) view.select('nodes', c.id)
      head.putOnAir(c.id)
    } else view.lookThrough(c.id)
    return true
  }
}

/** The commands of the shell. */
function useCommands(strip: () => Strip | null, opens: Opens): Command[] {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const arranging = useArranging()
  const leaving = useLeaving()
  const cutting = useCutting()
  const copying = useCopying()
  const cut = useCutActions()
  const starting = useStarting()
  const turnover = useTurnover()
  const camera = useCalling()
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
  /** Delivers the frame that is looked at as a picture. */
  async function still() {
    const frame = Math.floor(head.frame)
    const camera = view.through
    if (head.clock === 'story' && !camera)
      return void ElMessage({ message: 'Look through a camera first: 1 to 9.', type: 'info', showClose: true })
    try {
      await turnover.still(head.clock === 'screen' ? { frame } : { camera, frame })
      ElMessage({ message: 'The frame is in the queue of Turnover, as a picture.', type: 'success' })
    } catch (e) {
      ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
    }
  }
  useReleasedFocus()
  const pointer = { x: 0, y: 0 }
  useEventListener(window, 'pointermove', (e) => Object.assign(pointer, { x: e.clientX, y: e.clientY }), {
    passive: true,
  })
  const alternates = useAlternates()
  const list: Command[] = [
    { keys: [' '], words: 'play or pause', group: 'Time', run: () => head.toggle() },
    { keys: ['j'], words: 'shuttle back', group: 'Time', run: () => head.shuttle(-1) },
    { keys: ['k'], words: 'stop', group: 'Time', run: () => head.stop() },
    { keys: ['l'], words: 'shuttle on', group: 'Time', run: () => head.shuttle(1) },
    { keys: [',', 'ArrowLeft'], words: 'one frame back', repeats: true, group: 'Time', run: () => head.step(-1) },
    { keys: ['.', 'ArrowRight'], words: 'one frame on', repeats: true, group: 'Time', run: () => head.step(1) },
    { keys: ['Home'], words: 'to the start', group: 'Time', run: () => head.set(head.range.in) },
    { keys: ['End'], words: 'to the end', group: 'Time', run: () => head.set(head.range.out - 1) },
    { keys: ['i'], words: 'range begins here', group: 'Time', run: () => head.mark('in') },
    { keys: ['o'], words: 'range ends here', group: 'Time', run: () => head.mark('out') },
    {
      keys: ['ArrowUp'],
      words: 'to the seam before',
      repeats: true,
      group: 'Cut',
      desks: cutDesks,
      run: () => cut.seam(-1),
    },
    {
      keys: ['ArrowDown'],
      words: 'to the next seam',
      repeats: true,
      group: 'Cut',
      desks: cutDesks,
      run: () => cut.seam(1),
    },
    { keys: ['PageUp'], words: 'to the marker before', repeats: true, group: 'Time', run: () => cut.marker(-1) },
    { keys: ['PageDown'], words: 'to the next marker', repeats: true, group: 'Time', run: () => cut.marker(1) },
    {
      keys: ['+', '='],
      words: 'show less of the time',
      repeats: true,
      group: 'Time',
      run: () => strip()?.zoom(1 / 1.6),
    },
    { keys: ['-'], words: 'show more of the time', repeats: true, group: 'Time', run: () => strip()?.zoom(1.6) },
    { keys: ['0'], words: 'show all of the time, or what is chosen', group: 'Time', run: () => strip()?.fit() },
    { keys: ['m'], words: 'drop a marker', group: 'Time', run: () => strip()?.marker() },
    ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((n): Command => ({
      keys: [String(n)],
      words: `camera ${n}: look through, in Splice put on air`,
      hidden: n > 1,
      group: 'Cameras',
      run: () => void camera(n),
    })),
    {
      keys: ['#'],
      words: 'camera by its number: type it, Enter',
      group: 'Cameras',
      run: () => (view.numbering = ''),
    },
    {
      keys: ['u'],
      words: 'unlock the camera for moving',
      group: 'Cameras',
      desks: not('splice'),
      run: () => (view.unlocked = view.unlocked ? '' : view.through),
    },
    {
      keys: ['a'],
      words: 'auto-key on or off',
      group: 'Cameras',
      desks: actionDesks,
      run: () => (view.autoKey = !view.autoKey),
    },
    {
      keys: ['e'],
      words: 'set keys here',
      group: 'Cameras',
      desks: actionDesks,
      run: () => strip()?.setKeys(),
    },
    {
      keys: ['n'],
      words: 'put a camera here',
      group: 'Cameras',
      desks: actionDesks,
      run: () => starting.camera(),
    },
    {
      keys: ['z'],
      words: 'go to the selection',
      group: 'View',
      desks: actionDesks,
      run: () => view.node && view.gathering++,
    },
    {
      keys: ['<'],
      words: 'to the key before',
      repeats: true,
      group: 'Time',
      desks: actionDesks,
      run: () => strip()?.stepKey(-1),
    },
    {
      keys: ['>'],
      words: 'to the next key',
      repeats: true,
      group: 'Time',
      desks: actionDesks,
      run: () => strip()?.stepKey(1),
    },
    {
      keys: ['r'],
      words: 'curves above the rows',
      group: 'Cameras',
      desks: not('splice'),
      run: () => (view.curves = !view.curves),
    },
    {
      keys: ['r'],
      words: 'record a live take',
      group: 'Cut',
      desks: ['splice'],
      run: () => (head.armed = !head.armed),
    },
    {
      keys: ['x'],
      words: 'another view as an inset',
      group: 'View',
      desks: ['dress', 'frame'],
      run: () => (view.inset = view.inset ? '' : 'scout'),
    },
    {
      keys: ['y'],
      words: 'add a position to the move',
      group: 'Cameras',
      desks: not('splice'),
      run: () => leaving.leave(),
    },
    { keys: ['n'], words: 'what a drag does next', group: 'Cut', desks: cutDesks, run: () => cutting.nextGrip() },
    {
      keys: ['['],
      words: 'nudge the selected shot a frame earlier',
      repeats: true,
      group: 'Cut',
      desks: cutDesks,
      run: () => cut.trim(-1),
    },
    {
      keys: [']'],
      words: 'nudge the selected shot a frame later',
      repeats: true,
      group: 'Cut',
      desks: cutDesks,
      run: () => cut.trim(1),
    },
    {
      keys: ['{'],
      words: 'ten frames earlier',
      repeats: true,
      group: 'Cut',
      desks: cutDesks,
      run: () => cut.trim(-10),
    },
    { keys: ['}'], words: 'ten frames later', repeats: true, group: 'Cut', desks: cutDesks, run: () => cut.trim(10) },
    {
      keys: ['h'],
      words: 'lengthen the shot to the playhead',
      group: 'Cut',
      desks: ['splice'],
      run: () => cut.reach(),
    },
    { keys: ['p'], words: 'close the gap at the playhead', group: 'Cut', desks: ['splice'], run: () => cut.closeGap() },
    { keys: ['q'], words: 'hold the frame at the playhead', group: 'Cut', desks: ['splice'], run: () => cut.freeze() },
    { keys: ['Ctrl+c'], words: 'copy what is selected', group: 'Edit', run: () => copying.copy() },
    {
      keys: ['Ctrl+a'],
      words: 'select all keys',
      group: 'Edit',
      run: () => view.allKeys(view.node || view.through),
    },
    {
      keys: ['Ctrl+v'],
      words: 'paste, also from another scene',
      group: 'Edit',
      run: () => copying.paste(() => strip()?.pasteKeys(false)),
    },
    {
      keys: ['Ctrl+Shift+v'],
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
      words: 'group the selection',
      group: 'Set',
      run: () => view.nodes.length && arranging.group(),
    },
    {
      keys: ['c'],
      words: 'copy the selection beside itself',
      group: 'Set',
      desks: not('splice'),
      run: () => view.nodes.length && arranging.duplicate(),
    },
    { keys: ['c'], words: 'copy the shot after itself', group: 'Cut', desks: ['splice'], run: () => cut.duplicate() },
    {
      keys: ['b'],
      words: 'let the selection down onto what is under it',
      group: 'Set',
      run: () => view.nodes.length && arranging.dropDown(),
    },
    {
      keys: ['t'],
      words: 'measure between two places',
      group: 'Set',
      desks: not('splice'),
      run: () => {
        view.measuring = !view.measuring
        view.tape = null
      },
    },
    { keys: ['t'], words: 'try a spare shot, and back', group: 'Cut', desks: ['splice'], run: () => cut.tryShot() },
    {
      keys: ['v'],
      words: 'plan, or an elevation',
      group: 'Set',
      desks: not('splice'),
      run: () => (planMemory.face = { plan: 'front', front: 'side', side: 'plan' }[planMemory.face] as Face),
    },
    {
      keys: ['v'],
      words: 'story-time layout',
      group: 'Cut',
      desks: ['splice'],
      run: () => (cutting.storyLayout = !cutting.storyLayout),
    },
    {
      keys: ['w'],
      words: 'axes of the world, or of the selection',
      group: 'Set',
      desks: not('splice'),
      run: () => (view.localAxes = !view.localAxes),
    },
    { keys: ['w'], words: 'swap with the next shot', group: 'Cut', desks: ['splice'], run: () => cut.swap() },
    {
      keys: ['q'],
      words: 'turn and scale about the middle, or each about its own origin',
      group: 'Set',
      desks: actionDesks,
      run: () => (view.pivot = view.pivot === 'middle' ? 'own' : 'middle'),
    },
    {
      keys: ['Escape'],
      words: 'back to scout, or leave what is going on',
      group: 'Cameras',
      run: () => view.back(),
    },
    { keys: ['x'], words: 'split the shot at the playhead', group: 'Cut', desks: cutDesks, run: () => cut.split() },
    { keys: ['a'], words: 'add a shot at the end', group: 'Cut', desks: cutDesks, run: () => cut.place('append') },
    {
      keys: ['y'],
      words: 'insert a shot of the selected camera',
      group: 'Cut',
      desks: ['splice'],
      run: () => cut.place('insert'),
    },
    {
      keys: ['u'],
      words: 'overwrite with a shot of the selected camera',
      group: 'Cut',
      desks: ['splice'],
      run: () => cut.place('overwrite'),
    },
    {
      keys: ['Delete', 'Backspace'],
      words: 'remove; shots or a range leave a gap',
      group: 'Edit',
      run: () => remove(false),
    },
    {
      keys: ['Shift+Delete', 'Shift+Backspace'],
      words: 'remove shots or a range and close up',
      group: 'Edit',
      run: () => remove(true),
    },
    { keys: ['Ctrl+z'], words: 'undo', repeats: true, group: 'Edit', run: () => scene.undo() },
    { keys: ['Ctrl+Shift+z', 'Ctrl+y'], words: 'redo', repeats: true, group: 'Edit', run: () => scene.redo() },
    {
      keys: ['/'],
      words: 'the alternate, or the scene itself',
      group: 'View',
      run: () => alternates.flip(),
    },
    {
      keys: [';'],
      words: 'only in this shot, or in all again',
      group: 'View',
      run: () =>
        scene.onlyIn || head.airShot
          ? alternates.inShot(scene.onlyIn || head.airShot)
          : void ElMessage({ message: 'No shot is on air here.', type: 'info', showClose: true }),
    },
    {
      keys: ['|'],
      words: 'pictures side by side, and back',
      group: 'View',
      run: () => (view.beside = !view.beside && !scene.past),
    },
    { keys: ['s'], words: 'deliver this frame as a picture', group: 'View', run: () => void still() },
    { keys: ['g'], words: 'guides', group: 'View', run: () => (view.guides = !view.guides) },
    {
      keys: ['f'],
      words: 'blow the pane under the pointer up, and back',
      group: 'View',
      run: () => view.fill(paneAt(pointer)),
    },
    { keys: [], words: 'preferences: keys, size, units, guides', group: 'View', run: opens.preferences },
    { keys: [], words: 'a guided round through the demonstration', group: 'View', run: opens.round },
    { keys: [], words: 'facts of the scene: counts, files, what nothing uses', group: 'View', run: opens.facts },
    { keys: ['Ctrl+k'], words: 'find anything', group: 'View', run: opens.find },
    { keys: ['?'], words: 'this sheet', group: 'View', run: opens.help },
  ]
  return list
}

const cutDesks: Desk[] = ['splice', 'turnover']
const actionDesks: Desk[] = ['dress', 'frame']
const not = (...some: Desk[]) => desks.map((d) => d.id).filter((d) => !some.includes(d))

/** Listens to the keys of the desk that is open, and returns all commands. */
export function useShortcuts(strip: () => Strip | null, opens: Opens): Command[] {
  const view = useView()
  const scene = useScene()
  const camera = useCalling()
  const list = useCommands(strip, opens)
  commands.value = list
  const { keysOf } = useKeys()
  const byKey = computed(() => {
    const here = list.filter((c) => onDesk(c, view.desk))
    return new Map(here.flatMap((c) => keysOf(c, view.desk).map((k) => [k.toLowerCase(), c] as const)))
  })
  /** Takes a key as a part of a camera's number; false ends the number, and the key is one like any other. */
  function numbered(e: KeyboardEvent): boolean {
    if (e.key === 'Shift') return true
    const digits = String(Math.max(0, ...scene.cameras.map((c) => c.camera.number))).length
    const typed = view.numbering!
    const number = /^[0-9]$/.test(e.key) ? typed + e.key : typed
    view.numbering = null
    if (number === typed && e.key !== 'Enter' && e.key !== 'Escape') return false
    e.preventDefault()
    if (number !== typed && number.length < digits) view.numbering = number
    else if (e.key !== 'Escape' && number && !camera(Number(number)))
      ElMessage({ message: `There is no camera ${number}.`, type: 'info', showClose: true })
    return true
  }
  useEventListener(window, 'keydown', (e: KeyboardEvent) => {
    const t = e.target as HTMLElement
    if ((e.altKey && !e.getModifierState('AltGraph')) || types(t, e.key) || covered()) return
    if (view.numbering !== null && numbered(e)) return
    if (t.closest('button, video') && (e.key === ' ' || e.key === 'Enter')) return
    const command = byKey.value.get(pressed(e))
    if (!command) return
    e.preventDefault()
    if (!e.repeat || command.repeats) command.run()
  })
  return list
}
