import { flushPromises, mount } from '@vue/test-utils'
import { ElMessageBox } from 'element-plus'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { useMatching } from '@/stores/matching'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { opened } from '@/testing/opened'
import { draw } from '@/testing/stage'
import CameraProperties from '../CameraProperties.vue'
import Wall from '../Wall.vue'
import ComposePanel from './ComposePanel.vue'
import KitDialog from './KitDialog.vue'
import LensPart from './LensPart.vue'
import MatchPanel from './MatchPanel.vue'
import MovePanel from './MovePanel.vue'
import NumbersPanel from './NumbersPanel.vue'
import SupportPart from './SupportPart.vue'

vi.mock('@/view3d/stage', async () => {
  const { stage } = await import('@/testing/stage')
  return { useStage: () => stage }
})

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
let head: ReturnType<typeof usePlayhead>
beforeEach(async () => {
  ;({ scene, view, head } = await opened())
})
afterEach(async () => {
  document.body.innerHTML = ''
  await useScene().flushed()
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

type Panel = ReturnType<typeof mount>
const show = (of: object, camera = 'a') =>
  mount(of as never, { props: { camera } as never, attachTo: document.body }) as Panel
async function type(w: Panel, label: string, text: string) {
  const field = w.find(`input[aria-label="${label}"]`)
  await field.trigger('focus')
  await field.setValue(text)
  await field.trigger('keydown', { key: 'Enter' })
  await nextTick()
}
const find = (w: Panel, words: string) =>
  w.findAll('button').find((b) => b.text().trim() === words || b.attributes('aria-label') === words)!
async function press(w: Panel, words: string) {
  await find(w, words).trigger('click')
  await nextTick()
}
/** Chooses in a list or a row of segments of Element Plus. */
async function choose(w: Panel, label: string, value: unknown) {
  const all = [...w.findAllComponents({ name: 'ElSegmented' }), ...w.findAllComponents({ name: 'ElSelect' })]
  const one = all.find((c) => (c.props() as { ariaLabel?: string }).ariaLabel === label)!
  one.vm.$emit('change', value)
  one.vm.$emit('update:modelValue', value)
  await nextTick()
}
const cam = (id: string) => scene.doc.nodes[id]!.camera!
const keys = (node: string, channel: string) =>
  Object.values(scene.doc.curves).find((c) => c.node === node && c.channel === channel)?.keys ?? []
function person(id: string, name: string, position: Vec3, pan = 0) {
  scene.run('stockPlace', { kind: 'cast', name, position, id, turn: [pan, 0, 0] })
}

describe('how a camera is carried', () => {
  it('changes support and aim, and shows what belongs to each', async () => {
    const w = show(SupportPart)
    await choose(w, 'Support', 'handheld')
    expect(cam('a').support).toBe('handheld')
    await type(w, 'Unrest', '1.5')
    await type(w, 'Seed', '12')
    expect(cam('a').unrest).toMatchObject({ amount: 1.5, seed: 12 })
    await choose(w, 'Aim', 'at')
    expect([cam('a').aim, cam('a').aimAt]).toEqual(['at', 'box'])
    await type(w, 'Operator lag', '0.4')
    await type(w, 'Right', '0.25')
    expect(cam('a').lag).toBe(0.4)
    expect(cam('a').framing[0]).toBe(0.25)
    await type(w, 'Up', '7')
    expect(cam('a').framing[1], 'held inside the picture').toBe(1)
    await choose(w, 'Support', 'mounted')
    expect([cam('a').support, scene.doc.nodes.a!.parent]).toEqual(['mounted', 'box'])
    await choose(w, 'Support', 'dolly')
    expect(scene.doc.nodes.a!.path).toBeTruthy()
    expect(w.text()).toContain('Offset from the path')
    w.unmount()
  })

  it('moves and turns by figures, also under its path', async () => {
    const w = show(SupportPart)
    await type(w, 'Height', '+0.5')
    await type(w, 'Pan', '30')
    expect(scene.doc.nodes.a!.position[1]).toBe(2)
    expect(scene.doc.nodes.a!.turn[0]).toBeCloseTo(30, 6)
    await type(w, 'Roll', '4')
    const level = w.find('input[type=checkbox]')
    await level.setValue(true)
    expect(cam('a').level).toBe(true)
    w.unmount()
    const b = show(SupportPart, 'b')
    head.set(48)
    await nextTick()
    expect((b.find('input[aria-label=Travel]').element as HTMLInputElement).value).toBe('4.00')
    await type(b, 'Travel', '2')
    expect(keys('b', 'travel').map((k) => k.frame)).toContain(48)
    b.unmount()
  })

  it('makes a path of keyed places', async () => {
    for (const [frame, x] of [
      [0, 0],
      [48, 4],
    ] as const)
      scene.run('value', { node: 'a', channel: 'position.x', frame, value: x, key: true })
    const w = show(SupportPart)
    await press(w, 'Make a path of its keys')
    expect(scene.doc.paths[scene.doc.nodes.a!.path!]!.points).toHaveLength(2)
    w.unmount()
  })
})

describe('the lens', () => {
  it('keeps the place or the size', async () => {
    const w = show(LensPart)
    await press(w, '35 mm')
    expect(cam('a').focal).toBe(35)
    expect(scene.doc.nodes.a!.position).toEqual([0, 1.5, 0])
    await press(w, 'keep size')
    await press(w, '50 mm')
    // Focus is 3 m away: the camera goes back by 3·(50/35 − 1).
    expect(scene.doc.nodes.a!.position[2]).toBeCloseTo(3 * (50 / 35 - 1), 6)
    await press(w, 'Stop 5.6')
    await press(w, 'Squeeze 2')
    await choose(w, 'Sensor', 1)
    expect([cam('a').stop, cam('a').squeeze, cam('a').sensor]).toEqual([5.6, 2, [12.52, 7.41]])
    await type(w, 'Wide', '30')
    expect(cam('a').sensor[0]).toBe(30)
    expect(w.text()).toContain('Gate')
    w.unmount()
  })

  it('takes its focal lengths from a kit until it is freed', async () => {
    scene.run('kitPut', { id: 'k', name: 'Three', primes: [24, 40, 80], squeeze: 2 })
    const w = show(LensPart)
    await choose(w, 'Lens kit', 'k')
    expect([cam('a').kit, cam('a').focal, cam('a').squeeze]).toEqual(['k', 24, 2])
    await type(w, 'Focal length', '50')
    expect(cam('a').focal).toBe(40)
    await choose(w, 'Lens kit', '')
    await type(w, 'Focal length', '50')
    expect([cam('a').kit, cam('a').focal]).toEqual([undefined, 50])
    // What the kit has instead is said, with the other way beside it.
    await choose(w, 'Lens kit', 'k')
    document.querySelectorAll('.el-message').forEach((m) => m.remove())
    await type(w, 'Focal length', '61')
    expect(cam('a').focal).toBe(80)
    const said = document.querySelector('.el-message')!
    expect(said.textContent).toContain('Three has no 61 mm; 80 mm was taken.')
    said.querySelector('button')!.click()
    await nextTick()
    expect([cam('a').kit, cam('a').focal]).toEqual([undefined, 61])
    w.unmount()
  })

  it('follows a subject with the focus, and says when picking is on', async () => {
    const w = show(LensPart)
    await choose(w, 'Focus on', 'box')
    expect(cam('a').focusOn).toBe('box')
    expect(w.find('input[aria-label=Distance]').attributes('disabled')).toBeDefined()
    await press(w, 'pull')
    expect(view.picking).toBe('pull')
    await press(w, 'pull')
    expect(view.picking).toBeNull()
    await choose(w, 'Focus on', '')
    expect(cam('a').focusOn).toBeUndefined()
    w.unmount()
  })

  it('reads a kit that is typed, and says what it does not understand', async () => {
    const used: string[] = []
    const w = mount(KitDialog, { props: { first: '', onUse: (id: string) => used.push(id) }, attachTo: document.body })
    await flushPromises()
    const area = document.querySelector('textarea')!
    const save = () =>
      [...document.querySelectorAll('button')].find((b) => b.textContent!.includes('Make for this scene'))!.click()
    const write = async (text: string) => {
      area.value = text
      area.dispatchEvent(new Event('input'))
      await nextTick()
      save()
      await nextTick()
    }
    await write('18, wide, 50')
    expect(document.querySelector('[role=alert]')!.textContent).toContain('“wide”')
    await write('50, 18mm, 24–70; 35')
    expect(used).toHaveLength(1)
    expect(scene.doc.kits[used[0]!]).toMatchObject({ primes: [18, 35, 50], zooms: [[24, 70]] })
    w.unmount()
  })
})

describe('compose', () => {
  beforeEach(() => {
    person('ann', 'Ann', [20, 0, -6], 180)
    person('ben', 'Ben', [20.2, 0, -4.6])
  })
  async function look(w: Panel) {
    await new Promise((r) => setTimeout(r, 160))
    await nextTick()
    return w.findAll('.found li')
  }

  it('suggests places with pictures, and puts the camera or a new one there', async () => {
    const w = show(ComposePanel)
    let found = await look(w)
    expect(found.length).toBeGreaterThan(2)
    expect(found[0]!.find('img').attributes('src')).toContain('medium')
    await press(w, 'close-up')
    found = await look(w)
    expect(found[0]!.text()).toContain('close-up')
    await found[0]!.find('button').trigger('click')
    expect(scene.undoable.at(-1)!.label).toContain('put camera 1')
    await nextTick()
    await press(w, 'New camera at suggestion 1')
    const made = Object.values(scene.doc.nodes).find((n) => n.camera?.number === 3)!
    expect(made.name).toBe('Close-up of Ann')
    expect(view.through).toBeTruthy()
    w.unmount()
  })

  it('says why there is nothing, and what would do', async () => {
    const w = show(ComposePanel)
    await press(w, 'over the shoulder')
    await choose(w, 'Over the shoulder of', 'ben')
    await press(w, 'extreme wide')
    let found = await look(w)
    expect(found.length).toBeGreaterThan(0)
    scene.run('stockPlace', { kind: 'set', stock: 'house', name: 'House', position: [20, 0, -6], id: 'house' })
    scene.run('set', { collection: 'nodes', id: 'house', merge: { scale: 3 } })
    found = await look(w)
    expect(found).toHaveLength(0)
    expect(w.find('[role=alert]').text()).toMatch(/in the way/)
    w.unmount()
  })

  it('holds the subject in the way that is chosen, and says how long that lasts', async () => {
    const w = show(ComposePanel)
    const promise = async () => (await look(w), w.find('[aria-label=Promise]').text().replaceAll(/\s+/g, ' '))
    expect(await promise()).toMatch(/^Ann: not in the picture for the rest/)
    for (const [hold, aim, parent] of [
      ['turn', 'at', ''],
      ['along', 'at', 'ann'],
      ['', 'free', ''],
    ] as const) {
      await choose(w, 'Hold', hold)
      await (await look(w))[0]!.find('button').trigger('click')
      expect([cam('a').aim, scene.doc.nodes.a!.parent ?? '']).toEqual([aim, parent])
      expect(await promise()).toMatch(/^Ann: medium for the rest, to ◷/)
    }
    await choose(w, 'Hold', 'move')
    for (const frame of [10, 60]) {
      head.set(frame)
      await (await look(w))[0]!.find('button').trigger('click')
    }
    expect(cam('a').left!.map((p) => p.frame)).toEqual([10, 60])
    await choose(w, 'Hold', 'along')
    await look(w)
    await press(w, 'New camera at suggestion 1')
    expect(Object.values(scene.doc.nodes).find((n) => n.camera?.number === 3)!.parent).toBe('ann')
    w.unmount()
  })

  it('takes things from their sides', async () => {
    scene.run('stockPlace', { kind: 'vehicle', stock: 'van', name: 'Van', position: [60, 0, 0], id: 'van' })
    const w = show(ComposePanel)
    await choose(w, 'Subject', 'van')
    await choose(w, 'Side of the subject', 'rear')
    await press(w, 'full')
    const found = await look(w)
    expect(found[0]!.text()).toContain('full, rear')
    expect(find(w, 'over the shoulder'), 'a van has none').toBeUndefined()
    await found[0]!.find('button').trigger('click')
    expect(scene.doc.nodes.a!.position[2], 'behind it').toBeGreaterThan(3)
    w.unmount()
  })

  it('needs something', () => {
    for (const [id, n] of Object.entries(scene.doc.nodes)) if (!n.camera) delete scene.doc.nodes[id]
    const w = show(ComposePanel)
    expect(w.text()).toContain('nothing to compose')
    w.unmount()
  })
})

describe('the move', () => {
  it('is as soft as is asked for, and takes what another camera has', async () => {
    const w = show(MovePanel, 'b')
    await type(w, 'Settles in', '1.5')
    expect(keys('b', 'travel').at(-1)).toMatchObject({ ease: 'shaped', in: { frames: 36, value: 0 } })
    await type(w, 'Sets off in', '0')
    expect(keys('b', 'travel')[0]!.ease).toBe('even')
    w.unmount()
    const other = show(MovePanel, 'a')
    await choose(other, 'Of camera', 'b')
    scene.run('value', { node: 'b', channel: 'lens.focal', frame: 0, value: 50, key: false })
    await choose(other, 'Taken as', 'still')
    await press(other, 'Its lens')
    expect(cam('a').focal).toBe(50)
    head.set(24)
    await choose(other, 'Taken as', 'position')
    await press(other, 'Its picture')
    const [p] = cam('a').left!
    expect(p).toMatchObject({ frame: 24, focal: 50 })
    expect(p!.position.slice(1), 'where the other one travels').toEqual([2, 0])
    other.unmount()
  })

  it('leaves, retakes, spaces and removes positions', async () => {
    const w = show(MovePanel)
    view.lookThrough('a')
    await press(w, 'Add a position')
    scene.run('place', { id: 'a', frame: 0, position: [3, 1.5, 0] })
    await press(w, 'Add a position')
    scene.run('positionLeave', { id: 'a', frame: 0, position: [3, 1.5, 5], turn: [40, 0, 0], focal: 0 })
    await new Promise((r) => setTimeout(r, 180))
    await nextTick()
    const rows = w.findAll('ol li')
    expect(rows).toHaveLength(3)
    expect(rows[1]!.find('img').attributes('src')).toMatch(/^data:image\/png,a@/)
    await press(w, 'Even speed')
    await press(w, 'soft at both ends')
    expect(keys('a', 'travel').map((k) => k.ease)).toEqual(['soft', 'soft', 'soft'])
    await press(w, 'Position 3 earlier')
    expect(cam('a').left!.map((p) => p.position[2])).toEqual([0, 5, 0])
    await press(w, 'Remove position 2')
    expect(cam('a').left).toHaveLength(2)
    await press(w, 'Go to position 2')
    expect(head.story).toBe(cam('a').left![1]!.frame)
    w.unmount()
  })

  it('computes speed and time from each other, and changes the whole move', async () => {
    const w = show(MovePanel, 'b')
    await nextTick()
    const value = (label: string) => (w.find(`input[aria-label="${label}"]`).element as HTMLInputElement).value
    expect([value('Starts'), value('Lasts'), value('Speed')]).toEqual(['0', '4.00', '2.00'])
    await type(w, 'Speed', '1')
    expect(keys('b', 'travel').map((k) => k.frame)).toEqual([0, 192])
    await type(w, 'Starts', '24')
    expect(keys('b', 'travel').map((k) => k.frame)).toEqual([24, 216])
    await press(w, 'Half the move')
    expect(keys('b', 'travel').map((k) => k.value)).toEqual([0.5, 1])
    await press(w, 'Reverse')
    expect(keys('b', 'travel').map((k) => k.value)).toEqual([1, 0.5])
    const slider = w.find('input[type=range]')
    await slider.setValue('40')
    expect(keys('b', 'travel')[0]!.value, 'shown while it is dragged').toBeCloseTo(0.7, 6)
    await slider.trigger('change')
    expect(keys('b', 'travel')[0]!.value).toBeCloseTo(0.7, 6)
    expect((slider.element as HTMLInputElement).value).toBe('100')
    w.unmount()
  })

  it('lists what passes beyond its keys', async () => {
    for (const [frame, value] of [
      [0, 0],
      [30, 10],
    ] as const)
      scene.run('value', { node: 'a', channel: 'turn.pan', frame, value, key: true })
    scene.run('keyHandle', { node: 'a', channel: 'turn.pan', frame: 0, side: 'out', frames: 5, value: 1 })
    scene.run('keyHandle', { node: 'a', channel: 'turn.pan', frame: 0, side: 'out', frames: 20, value: 30, free: true })
    const w = show(MovePanel)
    await nextTick()
    expect(w.find('[aria-label=Overshoots]').text()).toMatch(/turn\.pan by/)
    w.unmount()
  })

  it('moves lens and distance against each other', async () => {
    scene.run('focusFollow', { id: 'a', on: 'box' })
    const w = show(MovePanel)
    await type(w, 'To', '36')
    await press(w, 'Make the move')
    expect(keys('a', 'lens.focal').map((k) => k.value)).toEqual([18, 36])
    expect(scene.doc.nodes.a!.path).toBeTruthy()
    w.unmount()
  })
})

describe('the numbers', () => {
  it('say what a crew asks, and copy as text', async () => {
    const w = show(NumbersPanel, 'b')
    head.set(48)
    draw()
    await nextTick()
    const said = Object.fromEntries(
      w.findAll('dl').flatMap((l) => l.findAll('dt').map((t, i) => [t.text(), l.findAll('dd')[i]!.text()])),
    )
    expect(said).toMatchObject({
      'Lens above floor': 'nothing below',
      'Greatest speed': expect.stringContaining('2.00 m/s'),
      Travel: '8.00 m',
      'From, to': '◷ 0 – 96, 4.0 s',
      'Pan strobes over': '12.9 °/s',
      Shot: 'nobody in the picture',
    })
    let copied = ''
    vi.stubGlobal('navigator', { clipboard: { writeText: async (t: string) => void (copied = t) } })
    await press(w, 'Copy as text')
    expect(copied).toContain('Camera 2 B, frame 48')
    expect(copied).toContain('Travel: 8.00 m')
    w.unmount()
  })
})

describe('the camera itself', () => {
  it('is renamed, renumbered, duplicated and archived when shots use it', async () => {
    const w = show(CameraProperties)
    const number = w.find('input[aria-label="Camera number"]')
    await number.setValue('7')
    await number.trigger('change')
    expect(cam('a').number).toBe(7)
    await number.setValue('-3')
    await number.trigger('change')
    expect((number.element as HTMLInputElement).value, 'what cannot be is put back').toBe('7')
    const name = w.find('input[aria-label="Camera name"]')
    await name.setValue('Window')
    await name.trigger('change')
    expect(scene.doc.nodes.a!.name).toBe('Window')
    await press(w, 'with keys')
    expect(Object.values(scene.doc.nodes).filter((n) => n.camera)).toHaveLength(3)
    await press(w, 'Archive')
    expect(cam('a').archived).toBe(true)
    expect(scene.wall.map((c) => c.id)).not.toContain('a')
    await nextTick()
    await press(w, 'Restore')
    expect(scene.wall.map((c) => c.id)).toContain('a')
    for (const leaf of ['lens', 'compose', 'move', 'numbers', 'support']) {
      await press(w, leaf)
      expect(w.find(`[role=tab][aria-selected=true]`).text()).toBe(leaf)
    }
    w.unmount()
  })
})

describe('the wall', () => {
  it('is ordered by dragging, and filtered to who sees somebody', async () => {
    person('ann', 'Ann', [0, 0, -6], 180)
    const w = mount(Wall, { global: { stubs: { Thumb: true } }, attachTo: document.body })
    const names = () => w.findAll('.cell').map((c) => c.find('.name').text())
    expect(names()).toEqual(['A', 'B'])
    await w.findAll('.cell')[1]!.trigger('dragstart')
    await w.findAll('.cell')[0]!.trigger('dragover')
    await w.findAll('.cell')[0]!.trigger('drop')
    expect(names()).toEqual(['B', 'A'])
    await w.find('select').setValue('ann')
    await nextTick()
    expect(names(), 'B looks at nobody from two metres up').toContain('A')
    scene.run('place', { id: 'a', frame: 0, turn: [180, 0, 0] })
    draw()
    await nextTick()
    expect(names()).not.toContain('A')
    await w.find('select').setValue('')
    await w.findAll('.cell')[1]!.trigger('click')
    expect(view.through).toBe('a')
    scene.run('cameraArchive', { id: 'b', archive: true })
    await nextTick()
    await press(w, '1 archived')
    expect(names()).toEqual(['B'])
    w.unmount()
  })

  it('has folders for several at once, marks what no shot shows, and closes them', async () => {
    const w = mount(Wall, { global: { stubs: { Thumb: true } }, attachTo: document.body })
    const cells = () => w.findAll('.cell')
    const names = () => cells().map((c) => c.find('.name').text())
    scene.run('cameraAdd', { position: [0, 2, 0], turn: [0, 0, 0], focal: 35, name: 'Spare', id: 'c' })
    await nextTick()
    expect(cells().map((c) => c.text().includes('in no shot'))).toEqual([false, false, true])
    await cells()[1]!.trigger('click')
    await cells()[2]!.trigger('click', { shiftKey: true })
    expect(view.nodes).toEqual(['b', 'c'])
    expect(view.through, 'choosing several looks through none of them').toBe('b')
    vi.spyOn(ElMessageBox, 'prompt').mockResolvedValue({ value: ' Night ', action: 'confirm' } as never)
    const list = () => w.find('select[aria-label=Folder]')
    await list().setValue('\n')
    await flushPromises()
    expect([cam('a').folder, cam('b').folder, cam('c').folder]).toEqual([undefined, 'Night', 'Night'])
    expect(scene.undoable.at(-1)!.label).toBe('put 2 cameras into Night')
    await press(w, 'Night 2')
    expect(names()).toEqual(['A'])
    const { id } = scene
    scene.id = 'another'
    await nextTick()
    expect(names(), 'a folder of that name in another scene is open').toEqual(['A', 'B', 'Spare'])
    scene.id = id
    await nextTick()
    await press(w, 'Night 2')
    expect(names()).toEqual(['A', 'B', 'Spare'])
    view.selectNodes(['a', 'b'])
    await nextTick()
    expect((list().element as HTMLSelectElement).selectedOptions[0]!.text).toBe('several folders')
    view.selectNodes(['b', 'c'])
    await nextTick()
    await list().setValue('')
    expect(w.find('.folder').exists(), 'a folder is there as long as a camera is in it').toBe(false)
    w.unmount()
  })
})

describe('matching a picture', () => {
  const blob = 'ab'.repeat(32)
  it('takes points from both sides, says how well they fit, and keeps them with the camera', async () => {
    const matching = useMatching()
    view.desk = 'frame'
    const w = show(MatchPanel)
    expect(w.text()).toContain('matched while it is looked through')
    await press(w, 'Look through it')
    matching.show({ blob, width: 1600, height: 900 })
    await nextTick()
    const status = () => w.find('[aria-label="Match"]').text()
    expect(status()).toBe('0 of 4 points or more')
    expect(matching.camera).toBe('a')
    // The corners of the box as camera A sees them now: it stays where it is.
    const was = [...scene.doc.nodes.a!.position]
    const corners: Vec3[] = [
      [-0.5, 0, -9.5],
      [0.5, 0, -9.5],
      [0.5, 1, -9.5],
      [-0.5, 1, -10.5],
    ]
    const [fx, fy] = [18 / 18, 18 / 10.125] // of 36 × 20.25 mm at 18 mm
    for (const [i, at] of corners.entries()) {
      const seen: [number, number] = [(at[0] / -at[2]) * fx, ((at[1] - 1.5) / -at[2]) * fy]
      if (i % 2) matching.press({ at })
      else matching.press({ in: seen })
      await nextTick()
      expect(w.text()).toContain(i % 2 ? 'the same point in the picture' : 'the same point in the set')
      matching.press(i % 2 ? { in: seen } : { at })
      draw()
      await nextTick()
    }
    expect(scene.doc.nodes.a!.camera!.match!.points).toHaveLength(4)
    expect(status()).toMatch(/^Found: within 0\.\d pixels$/)
    scene.doc.nodes.a!.position.forEach((v, i) => expect(v).toBeCloseTo(was[i]!, 2))

    // A figure typed for the set moves the camera; a point less is one too few.
    await type(w, 'Y', '1.2')
    draw()
    await nextTick()
    expect(scene.doc.nodes.a!.camera!.match!.points![3]!.at[1]).toBe(1.2)
    await press(w, 'Remove point 2')
    draw()
    await nextTick()
    expect(status()).toBe('3 of 4 points or more')
    await press(w, 'Take it away')
    expect(scene.doc.nodes.a!.camera!.match).toBeUndefined()
    w.unmount()
    expect(matching.camera).toBe('')
  })
})
