import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useArranging } from '@/stores/arranging'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { FakeServer } from '@/testing/server'
import NodeProperties from '../NodeProperties.vue'
import ActionProperties from './ActionProperties.vue'
import LightProperties from './LightProperties.vue'
import SharedFields from './SharedFields.vue'
import MarkProperties from './MarkProperties.vue'
import PathProperties from './PathProperties.vue'
import ScatterForm from './ScatterForm.vue'
import SceneTree from './SceneTree.vue'
import SeveralProperties from './SeveralProperties.vue'
import StockPanel from './StockPanel.vue'
import TravelProperties from './TravelProperties.vue'

// No picture is drawn here.
vi.mock('@/view3d/stage', () => ({ useStage: () => ({ position: () => null, invalidate: () => {} }) }))
vi.mock('@/view3d/portraits', () => ({
  portrait: () => '',
  drawPortrait: () => {},
  keepPortrait: () => {},
  dataAddress: () => '',
}))

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
beforeEach(async () => {
  setActivePinia(createPinia())
  new FakeServer().install()
  vi.stubGlobal(
    'IntersectionObserver',
    class {
      observe() {}
      disconnect() {}
      unobserve() {}
    },
  )
  scene = useScene()
  view = useView()
  await scene.load('scene')
})
afterEach(async () => {
  await useScene().flushed() // what is still being saved
  vi.unstubAllGlobals()
})

async function type(w: ReturnType<typeof mount>, label: string, text: string) {
  const field = w.find(`input[aria-label="${label}"]`)
  await field.trigger('focus')
  await field.setValue(text)
  await field.trigger('keydown', { key: 'Enter' })
  await nextTick()
}
const press = (w: ReturnType<typeof mount>, words: string) =>
  w
    .findAll('button')
    .find((b) => b.text() === words || b.attributes('aria-label') === words)!
    .trigger('click')

describe('the light', () => {
  it('brightens and colours all pictures', async () => {
    const w = mount(LightProperties)
    await type(w, 'Exposure', '1.5')
    await w.find('[aria-label="Filter of the scene"]').setValue('#ffd0a0')
    await nextTick()
    expect(scene.doc.settings).toMatchObject({ exposure: 1.5, tint: '#ffd0a0' })
    await press(w, 'No filter in the scene')
    await type(w, 'Exposure', '0')
    expect([scene.doc.settings.exposure, scene.doc.settings.tint]).toEqual([undefined, undefined])
  })

  it('follows a clock with one slider, and goes back to being still', async () => {
    const w = mount(LightProperties)
    expect(w.text()).toContain('by hand')
    const slider = w.find('input[type=range]')
    ;(slider.element as HTMLInputElement).value = '20.5'
    await slider.trigger('input')
    expect(scene.doc.settings.sun.clock?.hour).toBe(20.5)
    expect(scene.undoable, 'only while it is dragged').toHaveLength(0)
    await slider.trigger('change')
    expect(scene.undoable.map((e) => e.label)).toEqual(['set the time of day'])
    await nextTick()
    expect(w.text()).toContain('20:30')
    await type(w, 'Latitude', '-34')
    expect(scene.doc.settings.sun.clock?.latitude).toBe(-34)
    await w.find('select[aria-label=Month]').setValue('11')
    expect(scene.doc.settings.sun.clock?.day).toBe(349)
    const stands = w.find('.figures dd').text()
    await w.find('input[type=checkbox]').trigger('change')
    expect(scene.doc.settings.sun.clock).toBeUndefined()
    expect(stands).toContain(`${scene.doc.settings.sun.height.toFixed(1)}°`)
  })

  it('keys the colour of the sun in linear light', async () => {
    const w = mount(LightProperties)
    scene.run('set', { collection: 'settings', id: 'settings', merge: { sun: { color: '#ff8000' } } })
    usePlayhead().set(12)
    await nextTick()
    await press(w, "Key the sun's colour")
    const keyed = (channel: string) => Object.values(scene.doc.curves).find((c) => c.channel === channel)!.keys
    expect(keyed('color.red').map((k) => [k.frame, k.value])).toEqual([[12, 1]])
    expect(keyed('color.green')[0]!.value).toBeCloseTo(0.2159, 3)
    expect(keyed('color.blue')[0]!.value).toBe(0)
    expect(scene.undoable.at(-1)!.label).toBe('key the colour of the light')
  })

  it('keys the colour of the sun at once where the clock colours it', async () => {
    const w = mount(LightProperties)
    const sun = { clock: { latitude: 46, day: 258, hour: 17, light: true } }
    scene.run('set', { collection: 'settings', id: 'settings', merge: { sun } })
    await nextTick()
    const before = scene.doc.settings.sun.color
    await w.find('input[aria-label="Sun colour"]').setValue('#00ff00')
    expect(scene.doc.settings.sun.color).toBe(before)
    expect(scene.undoable.at(-1)!.label).toBe('key the colour of the light')
  })

  it('keys the colour of several pieces, and shows the one of the frame', async () => {
    const ids = ['box', 'other']
    for (const [i, id] of ids.entries())
      scene.run('stockPlace', { kind: 'prop', stock: 'box', name: id, position: [i, 0, 0], id })
    const head = usePlayhead()
    head.set(0)
    const w = mount(SharedFields, { props: { nodes: ids } })
    const colour = () => w.find<HTMLInputElement>('input[aria-label=Colour]')
    await colour().setValue('#ff0000')
    await nextTick()
    expect(ids.map((id) => scene.doc.nodes[id]!.piece!.color)).toEqual(['#ff0000', '#ff0000'])
    await press(w, 'Key its colour')
    expect(scene.undoable.at(-1)!.label).toBe('key the colour of 2 things')
    head.set(20)
    await nextTick()
    await colour().setValue('#0000ff') // has keys now, so this is one
    head.set(10)
    await nextTick()
    expect(colour().element.value).toBe('#bc00bc') // half the light of each
    expect(scene.doc.nodes.other!.piece!.color).toBe('#ff0000')
    const keys = Object.values(scene.doc.curves).filter((c) => c.channel === 'color.blue')
    expect(keys.map((c) => c.keys.map((k) => [k.frame, k.value]))).toEqual([
      [
        [0, 0],
        [20, 1],
      ],
      [
        [0, 0],
        [20, 1],
      ],
    ])
    scene.undo()
    scene.undo()
    expect(Object.values(scene.doc.curves).some((c) => c.channel.startsWith('color.'))).toBe(false)
  })

  it('lets lamps cast shadows, as many as a scene may have', async () => {
    const lamps = ['l1', 'l2']
    const place = (id: string) =>
      scene.run('stockPlace', { kind: 'lamp', stock: 'lamp', id, name: id, position: [0, 2, 0] })
    lamps.forEach(place)
    const w = mount(SharedFields, { props: { nodes: lamps } })
    const box = () => w.find('label.check input').element as HTMLInputElement
    const casting = () => lamps.map((id) => !!scene.doc.nodes[id]!.lamp!.shadow)
    const tick = async (on: boolean) => {
      await w.find('label.check input').setValue(on)
      await nextTick()
    }
    expect([box().checked, box().indeterminate]).toEqual([false, false])
    await tick(true)
    expect(casting()).toEqual([true, true])
    scene.run('setMany', {
      collection: 'nodes',
      ids: ['l2'],
      merge: { lamp: { shadow: null } },
      label: 'shadows',
    })
    await nextTick()
    expect([box().checked, box().indeterminate]).toEqual([false, true])
    await tick(true)
    expect(casting()).toEqual([true, true])
    await tick(false)
    expect(casting()).toEqual([false, false])
    expect(scene.doc.nodes.l1!.lamp).not.toHaveProperty('shadow')
    for (let i = 3; i <= 9; i++) {
      lamps.push(`l${i}`)
      place(`l${i}`)
    }
    await w.setProps({ nodes: [...lamps] })
    await tick(true)
    expect(document.body.textContent).toMatch(/at most 8: let some cast none/)
    expect(casting()).not.toContain(true)
    expect(box().checked).toBe(false)
  })
  it('keys strength and haze', async () => {
    const w = mount(LightProperties)
    usePlayhead().set(24)
    await press(w, 'Key haze distance')
    usePlayhead().set(48)
    await nextTick()
    await type(w, 'Haze distance', '250')
    const curve = Object.values(scene.doc.curves).find((c) => c.channel === 'haze.distance')!
    expect(curve.node).toBe('settings')
    expect(curve.keys.map((k) => [k.frame, k.value])).toEqual([
      [24, 0],
      [48, 250],
    ])
  })
})

describe('the tree', () => {
  it('folds groups, hides and locks, and attaches what is dropped', async () => {
    for (const id of ['p', 'q', 'r'])
      scene.run('stockPlace', { kind: 'prop', stock: 'crate', name: 'Crate', position: [0, 0, 0], id })
    scene.run('group', { ids: ['p', 'q'], id: 'g', name: 'Stack' })
    const w = mount(SceneTree)
    const names = () => w.findAll('.name').map((n) => n.text())
    expect(names()).toContain('Stack')
    expect(names().filter((n) => n.startsWith('Crate'))).toEqual(['Crate 3'])
    await press(w, 'Open Stack')
    expect(names().filter((n) => n.startsWith('Crate'))).toHaveLength(3)
    await press(w, 'Hide Stack')
    expect(scene.doc.nodes.g!.hidden).toBe(true)
    expect(scene.undoable.at(-1)!.label).toBe('hide Stack')
    await press(w, 'Lock Crate 3')
    expect(scene.doc.nodes.r!.locked).toBe(true)
    await press(w, 'Unlock Crate 3')
    const row = (name: string) => w.findAll('li').find((l) => l.find('.name').text() === name)!
    await row('Crate 3').trigger('dragstart')
    await row('Stack').trigger('drop')
    expect(scene.doc.nodes.r!.parent).toBe('g')
    await row('Crate 3').trigger('dragstart')
    await w.find('ul').trigger('drop')
    expect(scene.doc.nodes.r!.parent).toBeUndefined()
    // Ctrl adds, Shift takes all between.
    await row('Crate').find('.row-name').trigger('click')
    await row('Crate 2').find('.row-name').trigger('click', { ctrlKey: true })
    expect(view.nodes).toEqual(['p', 'q'])
    await w.find('input').setValue('nothing like it')
    expect(w.text()).toContain('Nothing here is called')
  })
  it('names things by a double press, and cameras are looked through by it', async () => {
    const w = mount(SceneTree, { attachTo: document.body })
    const row = (name: string) => w.findAll('.row-name').find((l) => l.find('.name').text() === name)!
    const rename = async (from: string, to: string, key: string) => {
      await row(from).trigger('dblclick')
      const field = w.find(`input[aria-label="Name of ${from}"]`)
      await field.setValue(to)
      await field.trigger('keydown', { key })
      await nextTick()
    }
    await rename('Box', '  Engine house ', 'Enter')
    expect(scene.doc.nodes.box!.name).toBe('Engine house')
    expect(scene.undoable.at(-1)!.label).toBe('name Engine house')
    const edits = scene.undoable.length
    await rename('Engine house', 'something', 'Escape')
    await rename('Engine house', ' ', 'Enter')
    expect([scene.doc.nodes.box!.name, scene.undoable.length]).toEqual(['Engine house', edits])
    await row('A').trigger('dblclick')
    expect(view.through).toBe('a')
    w.unmount()
  })
})

describe('the stock', () => {
  it('has dozens of things in groups, finds them and arms them', async () => {
    const w = mount(StockPanel)
    expect(w.findAll('.item').length).toBeGreaterThanOrEqual(45)
    expect(w.findAll('h3').map((h) => h.text())).toEqual(
      expect.arrayContaining(['People', 'Architecture', 'Outdoors', 'Furniture', 'Vehicles', 'Lights and aims']),
    )
    await w.find('input[aria-label="Search the stock"]').setValue('vehic')
    expect(w.findAll('.item').length).toBe(7)
    await w.find('input[aria-label="Search the stock"]').setValue(' Aeroplane')
    expect(w.findAll('.item').map((i) => i.text())).toEqual(['Aircraft']) // by another word for it
    await w.find('input[aria-label="Search the stock"]').setValue('boat')
    await w.find('.item').trigger('click')
    expect(view.placing).toMatchObject({ kind: 'vehicle', stock: 'boat' })
    expect(w.find('.item').attributes('aria-pressed')).toBe('true')
    await w.find('.item').trigger('click')
    expect(view.placing).toBeNull()
    await w.find('input[aria-label="Search the stock"]').setValue('zeppelin')
    expect(w.text()).toContain('Nothing in the stock')
    scene.run('modelAdd', { name: 'Crane', blob: 'a'.repeat(64), size: [1, 2, 3], triangles: 9 })
    await w.find('input[aria-label="Search the stock"]').setValue('imported')
    expect(w.find('.item').text()).toBe('Crane')
  })
})

describe('scattering', () => {
  it('takes how many and how far apart, and selects the group that comes of it', async () => {
    view.placing = { kind: 'set', stock: 'bush', name: 'Bush' }
    const w = mount(ScatterForm)
    expect(w.text()).toContain('Scatter many of Bush')
    await type(w, 'How many', '7.4')
    await type(w, 'Apart', '2')
    await press(w, 'Over an area')
    expect(view.scattering).toBe(true)
    useArranging().scatter({
      corner: [
        [-20, 0, -20],
        [20, 0, 20],
      ],
    })
    expect([view.scattering, view.placing]).toEqual([false, null])
    expect(scene.doc.nodes[view.node]).toMatchObject({ kind: 'group', name: 'Bush' })
    const inside = Object.values(scene.doc.nodes).filter((n) => n.parent === view.node)
    expect(inside).toHaveLength(7)
    expect(scene.undoable.at(-1)!.label).toBe('scatter 7 of Bush')
    // Along a path that is selected.
    view.placing = { kind: 'set', stock: 'rock', name: 'Rock' }
    view.select('paths', 'track')
    const along = mount(ScatterForm)
    view.scatter.apart = 0
    await along
      .findAll('button')
      .find((b) => b.text().startsWith('Along'))!
      .trigger('click')
    expect(scene.doc.nodes[view.node]!.name).toBe('Rock')
  })
})

describe('paths, travel and deeds', () => {
  beforeEach(() => {
    scene.run('stockPlace', { kind: 'cast', name: 'Ida', position: [0, 0, 0], id: 'ida' })
    scene.run('pathDraw', {
      form: 'straight',
      points: [
        [0, 0, 0],
        [12, 0, 0],
      ],
      id: 'way',
    })
    scene.run('actionAdd', { cast: 'ida', do: 'walk', path: 'way', in: 24, speed: 1.5, id: 'walk' })
  })

  it('computes speed, length and time from each other', async () => {
    expect(scene.doc.actions.walk!.out).toBe(24 + 192)
    const w = mount(ActionProperties, { props: { action: 'walk' } })
    expect(w.text()).toContain('12.00 m')
    await type(w, 'Duration', '4')
    expect(scene.doc.actions.walk!.out).toBe(24 + 96)
    await type(w, 'Speed', '1')
    expect(scene.doc.actions.walk!.out).toBe(24 + 288)
    await type(w, 'Begins at', '6')
    expect(scene.doc.actions.walk!.start).toBe(6)
    expect(w.text()).toContain('6.00 m')
    await press(w, 'Other way round')
    expect(scene.doc.actions.walk!.reverse).toBe(true)
    await press(w, 'Run instead')
    expect(scene.doc.actions.walk!.do).toBe('run')
    await press(w, 'Remove')
    expect(scene.doc.actions.walk).toBeUndefined()
  })

  it('changes a path whole', async () => {
    const w = mount(PathProperties, { props: { path: 'way' } })
    expect(w.text()).toContain('Ida walks')
    await press(w, 'Arc')
    expect(scene.doc.paths.way!.points).toHaveLength(3)
    await press(w, 'Curve')
    await press(w, 'Closed')
    expect(scene.doc.paths.way).toMatchObject({ form: 'curve', closed: true })
    await press(w, 'Reverse')
    expect(scene.doc.paths.way!.points[0]).toEqual([12, 0, 0])
    await type(w, 'Point 2', '1.5')
    expect(scene.doc.paths.way!.points[1]![1]).toBe(1.5)
    await type(w, 'All', '2')
    expect(scene.doc.paths.way!.points.map((p) => p[1])).toEqual([2, 2, 2])
  })

  it('puts a camera on it, and asks anew for another path', async () => {
    const w = mount(PathProperties, { props: { path: 'way' } })
    const height = () => (w.find('input[aria-label="Height"]').element as HTMLInputElement).value
    expect(height(), 'the height of eyes').toBe('1.60')
    await type(w, 'Height', '0.4')
    await press(w, 'at driving pace')
    const low = Object.entries(scene.doc.nodes).find(([, n]) => n.path === 'way' && n.camera)!
    expect(low[1]).toMatchObject({ position: [0, 0.4, 0], camera: { support: 'dolly', aim: 'along' } })
    expect(view.through).toBe(low[0])
    scene.run('pathDraw', {
      form: 'straight',
      points: [
        [0, 3, 0],
        [9, 3, 0],
      ],
      id: 'wire',
    })
    await w.setProps({ path: 'wire' })
    expect(height(), 'that of the path, which is in the air').toBe('3.00')
  })

  it('opens a door from frame to frame', async () => {
    scene.run('stockPlace', { kind: 'set', stock: 'doorWall', name: 'Door', position: [0, 0, 0], id: 'door' })
    view.select('nodes', 'door')
    const w = mount(NodeProperties)
    const keys = () => Object.values(scene.doc.curves).find((c) => c.node === 'door')?.keys
    await type(w, 'Door open', '30')
    expect([scene.doc.nodes.door!.piece!.params!.swing, keys()]).toEqual([30, undefined])
    await press(w, 'Closed here')
    usePlayhead().set(24)
    await press(w, 'Open here')
    expect(keys()!.map((k) => [k.frame, k.value])).toEqual([
      [0, 0],
      [24, 70],
    ])
    usePlayhead().set(12)
    await nextTick()
    expect((w.find('input[aria-label="Door open"]').element as HTMLInputElement).value).toBe('35.00')
    w.unmount()
  })

  it('lets a thing travel', async () => {
    scene.run('stockPlace', { kind: 'vehicle', stock: 'cart', name: 'Cart', position: [0, 0, 0], id: 'cart' })
    const w = mount(TravelProperties, { props: { node: 'cart' } })
    await w.find('select').setValue('way')
    expect(scene.doc.nodes.cart).toMatchObject({ path: 'way', alongPath: true })
    await type(w, 'Speed', '2')
    const keys = () => Object.values(scene.doc.curves).find((c) => c.node === 'cart')!.keys
    expect(keys()[1]!.frame - keys()[0]!.frame).toBeCloseTo(144, 6)
    await press(w, 'Backward')
    expect(keys().map((k) => k.value)).toEqual([1, 0])
    await press(w, 'Soft start')
    expect(keys()[0]!.ease).toBe('even')
  })

  it('changes what several have in common, each by its own or all to one', async () => {
    for (const [i, stock] of (['crate', 'crate', 'case'] as const).entries())
      scene.run('stockPlace', { kind: 'prop', stock, name: stock, position: [i, 0, i], id: `t${i}` })
    view.selectNodes(['t0', 't1', 't2'])
    const w = mount(SeveralProperties)
    const field = (label: string) => w.find<HTMLInputElement>(`input[aria-label="${label}"]`)
    const positions = (axis: number) => ['t0', 't1', 't2'].map((id) => scene.doc.nodes[id]!.position[axis])
    const param = (name: string) => ['t0', 't1', 't2'].map((id) => scene.doc.nodes[id]!.piece!.params?.[name])
    expect([field('X').element.value, field('X').element.placeholder, field('Y').element.value]).toEqual([
      '',
      'differ',
      '0.00',
    ])
    await type(w, 'X', '+2')
    expect(positions(0)).toEqual([2, 3, 4])
    await type(w, 'Z', '1.5')
    expect(positions(2)).toEqual([1.5, 1.5, 1.5])
    await type(w, 'Width', '×2')
    expect(param('width'), 'each of its own').toEqual([1.6, 1.6, 0.92])
    await type(w, 'Lid open', '40')
    expect(param('lid')).toEqual([40, 40, 40])
    scene.undo()
    expect(param('lid'), 'one step for all').toEqual([undefined, undefined, undefined])
    await type(w, 'X', 'far away')
    expect(positions(0)).toEqual([2, 3, 4])
    await press(w, 'Closed here')
    usePlayhead().set(30)
    await press(w, 'Open here')
    const opened = Object.values(scene.doc.curves).filter((c) => c.channel === 'piece.swing')
    expect(opened.map((c) => c.keys.map((k) => [k.frame, k.value]))).toEqual(
      Array(3).fill([
        [0, 0],
        [30, 100],
      ]),
    )
    await w.find('input[aria-label="Colour"]').setValue('#336699')
    expect(scene.doc.nodes.t2!.piece!.color).toBe('#336699')
    // A table has its width in common with them, and no lid.
    scene.run('stockPlace', { kind: 'prop', stock: 'table', name: 'Table', position: [0, 0, 0], id: 't3' })
    view.selectNodes(['t0', 't3'])
    await nextTick()
    expect([field('Width').exists(), field('Lid open').exists()]).toEqual([true, false])
    // With a person only place and turn are left.
    scene.run('stockPlace', { kind: 'cast', name: 'Somebody', position: [5, 0, 0], id: 'who' })
    view.selectNodes(['t0', 'who'])
    await nextTick()
    expect([field('Pan').exists(), field('Width').exists(), field('Scale').exists(), field('Height').exists()]).toEqual(
      [true, false, false, false],
    )
  })

  it('arranges several, and marks them', async () => {
    for (const [i, id] of ['p', 'q', 'r'].entries())
      scene.run('stockPlace', { kind: 'prop', stock: 'crate', name: 'Crate', position: [i * i, 0, i], id })
    view.selectNodes(['p', 'q', 'r'])
    const w = mount(SeveralProperties)
    expect(w.text()).toContain('3 things')
    await press(w, 'Space evenly')
    expect(scene.doc.nodes.q!.position[0]).toBeCloseTo(2, 6)
    await press(w, 'Z')
    await press(w, 'Middles')
    expect(scene.doc.nodes.p!.position[2]).toBeCloseTo(1, 6)
    await type(w, 'By Y', '2')
    expect(scene.doc.nodes.r!.position[1]).toBe(2)
    const marks = mount(MarkProperties, { props: { nodes: ['p', 'q'] } })
    await marks.find('.check input').trigger('change')
    expect(scene.doc.nodes.q!.shooting).toEqual({ hidden: true })
    await marks.find('.check input').trigger('change')
    expect(scene.doc.nodes.q!.shooting).toBeUndefined()
    const shots = marks.findAll('details input')
    await shots[1]!.trigger('change')
    expect(scene.doc.nodes.p!.shooting).toEqual({ only: ['s2'] })
  })
})

describe('a person', () => {
  it('has a build, colours and a way to wear the hair', async () => {
    const id = 'somebody'
    scene.run('stockPlace', { id, kind: 'cast', name: 'Somebody', position: [0, 0, 0], turn: [0, 0, 0] })
    view.select('nodes', id)
    await nextTick()
    const w = mount(NodeProperties)
    await w.find('select[aria-label="Build"]').setValue('elder')
    await w.find('select[aria-label="Hair style"]').setValue('bald')
    const colour = w.findAll('.swatches label').find((l) => l.text() === 'Skin')!
    await colour.find('input').setValue('#806040')
    await nextTick()
    expect(scene.doc.nodes[id]!.cast).toMatchObject({ build: 'elder', hairStyle: 'bald', skin: '#806040' })
    expect(scene.undoable.at(-1)?.label).toContain('skin of')
  })
})
