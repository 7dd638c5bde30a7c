import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, nextTick } from 'vue'
import { useGuides } from '@/stores/guides'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { FakeServer } from '@/testing/server'
import { draw } from '@/testing/stage'
import BoardOver from './BoardOver.vue'
import { aroundInset, useInsetPlace } from './insetPlace'
import LensGuides from './LensGuides.vue'
import LensView from '../LensView.vue'
import { useCameraMoves } from './useCameraMoves'

vi.mock('@/view3d/stage', async () => {
  const { stage } = await import('@/testing/stage')
  return { useStage: () => stage }
})

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
beforeEach(async () => {
  setActivePinia(createPinia())
  new FakeServer().install()
  scene = useScene()
  view = useView()
  await scene.load('scene')
})
afterEach(async () => {
  document.body.innerHTML = ''
  await useScene().flushed()
  vi.unstubAllGlobals()
})

describe('moving a camera from its picture', () => {
  // Camera A: 36 x 20.25 mm at 18 mm covers 90° over a box of 640 x 360 pixels.
  let moves: ReturnType<typeof useCameraMoves>
  let w: ReturnType<typeof mount>
  function start(camera = 'a') {
    w = mount(
      defineComponent({
        setup() {
          moves = useCameraMoves(
            () => camera,
            () => true,
            () => ({ x: 0, y: 0, width: 640, height: 360 }),
          )
          return () => h('div')
        },
      }),
    )
  }
  const at = (kind: string, clientX: number, clientY: number) => new PointerEvent(kind, { button: 0, clientX, clientY })
  const down = (x: number, y: number) => moves.down(at('pointerdown', x, y), held)
  const move = (x: number, y: number) => window.dispatchEvent(at('pointermove', x, y))
  const up = (x: number, y: number) => window.dispatchEvent(at('pointerup', x, y))
  const held = Object.assign(document.createElement('div'), { setPointerCapture: () => {} })
  function drag(dx: number, dy: number) {
    down(320, 180)
    move(320 + dx, 180 + dy)
    const said = moves.told.value
    up(320 + dx, 180 + dy)
    return said
  }
  const node = (id = 'a') => scene.doc.nodes[id]!
  afterEach(() => w.unmount())

  it('turns by what is chosen, and by held keys', () => {
    start()
    expect(drag(64, 0)).toContain('pan 9.0°')
    expect(node().turn[0]).toBeCloseTo(9, 3)
    view.handling = 'tilt'
    drag(64, 36)
    expect(node().turn[0], 'only the tilt').toBeCloseTo(9, 3)
    expect(node().turn[1]).toBeCloseTo(5.873, 2)
    view.handling = 'turn'
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'r', bubbles: true }))
    drag(64, 0)
    expect(node().turn[2]).toBeCloseTo(-6, 6)
    document.body.dispatchEvent(new KeyboardEvent('keyup', { key: 'r', bubbles: true }))
    expect(moves.how.value).toBe('turn')
    expect(scene.undoable).toHaveLength(3)
  })

  it('trucks, rises, dollies, orbits and zooms', () => {
    start()
    view.handling = 'truck'
    // Focus is 3 m away, where the picture is 6 m wide: a tenth of it is 0.6 m.
    drag(64, 40)
    expect(node().position[0]).toBeCloseTo(-0.6, 3)
    expect(node().position[1]).toBe(1.5)
    view.handling = 'pedestal'
    drag(64, 36)
    expect(node().position[1]).toBeCloseTo(1.5 + 0.3375, 3)
    view.handling = 'dolly'
    drag(0, -36)
    expect(node().position[2]).toBeCloseTo(-0.36, 3)
    view.handling = 'zoom'
    drag(0, -36)
    expect(node().camera!.focal).toBeCloseTo(18 * Math.exp(0.15), 1)
    scene.run('place', { id: 'a', frame: 0, position: [0, 1.5, 0], turn: [0, 0, 0] })
    scene.run('focusFollow', { id: 'a', on: 'box' })
    view.handling = 'orbit'
    drag(-480, 0)
    // A quarter turn around the box at z = −10.
    expect(node().position[0]).toBeCloseTo(10, 1)
    expect(node().position[2]).toBeCloseTo(-10, 1)
    expect(node().turn[0]).toBeCloseTo(90, 1)
  })

  it('drags a held subject to its place in the frame', () => {
    scene.run('cameraAim', { id: 'a', aim: 'at', at: 'box', frame: 0 })
    const was = node().camera!.framing[0]
    start()
    expect(drag(64, -36)).toContain('subject at')
    expect(node().camera!.framing[0]).toBeCloseTo(was + 0.2, 3)
  })

  it('moves the camera off its path, or the path with it', () => {
    start('b')
    view.handling = 'pedestal'
    drag(0, 36)
    expect(node('b').position[1]).toBeGreaterThan(0.2)
    view.movePath = true
    drag(0, 36)
    expect(scene.doc.paths.track!.points[1]![1]).toBeGreaterThan(2.2)
  })

  it('is abandoned by Escape, and a press alone does nothing', () => {
    start()
    down(320, 180)
    move(400, 180)
    expect(node().turn[0]).not.toBe(0)
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))
    expect(node().turn[0]).toBe(0)
    drag(1, 0)
    expect(scene.undoable).toHaveLength(0)
  })

  it('dollies by the wheel, in one step for a whole turn of it', async () => {
    vi.useFakeTimers()
    start()
    for (let i = 0; i < 3; i++) {
      moves.wheel({ deltaY: -100, deltaX: 0, preventDefault() {}, clientX: 0, clientY: 0 } as unknown as WheelEvent)
    }
    expect(node().position[2]).toBeLessThan(-0.5)
    expect(scene.undoable).toHaveLength(0)
    vi.advanceTimersByTime(300)
    expect(scene.undoable).toHaveLength(1)
    vi.useRealTimers()
  })
})

describe('guides', () => {
  it('name the size, box the people, and show the horizon', async () => {
    scene.run('stockPlace', { kind: 'cast', name: 'Ann', position: [0, 0, -3], id: 'ann', turn: [180, 0, 0] })
    scene.run('place', { id: 'a', frame: 0, turn: [0, 0, 8] })
    const g = useGuides()
    g.value.boxes = g.value.horizon = g.value.title = g.value.diagonals = true
    const w = mount(LensGuides, { props: { camera: 'a', width: 640, height: 360 }, attachTo: document.body })
    draw()
    await nextTick()
    expect(w.find('[role=status]').text()).toMatch(/ of Ann$/)
    expect(w.find('.box text').text()).toContain('Ann')
    expect(w.find('.horizon').element.closest('g')!.getAttribute('transform')).toContain('rotate(8')
    expect(w.text()).toContain('90.0°')
    expect(w.findAll('.safe')).toHaveLength(2)
    scene.run('remove', { collection: 'nodes', ids: ['ann'] })
    draw()
    await nextTick()
    expect(w.find('[role=status]').text()).toBe('nobody in the picture')
    w.unmount()
  })

  it('leave the inset free', () => {
    const { place, pane } = useInsetPlace()
    place.value = { x: 30, y: 40 }
    expect(aroundInset({ x: 10, y: 20, width: 640, height: 360 })).toContain('M20 20h242v162')
    pane.value = { width: 260, height: 300 } // a narrow window: it moves inside, and back when there is room
    expect(place.value).toEqual({ x: 18, y: 40 })
    pane.value = { width: 640, height: 360 }
    expect(place.value).toEqual({ x: 30, y: 40 })
  })
})

describe('the board', () => {
  const board = () =>
    mount(BoardOver, {
      props: { camera: 'a', box: { x: 0, y: 0, width: 640, height: 360 }, beside: false },
      attachTo: document.body,
    })

  it('says when a shot has none, and holds one that is there against the picture', async () => {
    const w = board()
    usePlayhead().set(0)
    await w.find('[aria-label=Board]').trigger('click')
    expect(w.text()).toContain('Shot 010 has no board')
    const shot = scene.cut.shots[0]!.id
    scene.run('boardAdd', { shot, name: 'Panel', blob: 'a'.repeat(64), width: 480, height: 270 })
    await nextTick()
    expect(w.find('img').attributes('src')).toBe(`/api/images/${'a'.repeat(64)}`)
    const [opacity, wipe] = w.findAll('input[type=range]')
    await opacity!.setValue('80')
    await wipe!.setValue('25')
    expect(w.find('img').attributes('style')).toContain('opacity: 0.8')
    expect(w.find('img').attributes('style')).toContain('inset(0 75% 0 0)')
    await w.find('[aria-label="Board beside the picture"]').trigger('click')
    expect(w.emitted('update:beside')).toEqual([[true]])
    scene.run('shotRemove', { ids: [shot], close: false })
    expect(Object.keys(scene.doc.boards), 'a board goes with its shot').toHaveLength(0)
    w.unmount()
  })

  it('takes a picture from a file, and tells what the server refuses', async () => {
    const w = board()
    await w.find('[aria-label=Board]').trigger('click')
    const input = w.find('input[type=file]')
    const choose = async () => {
      Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'rough.png')], configurable: true })
      await input.trigger('change')
      await new Promise((r) => setTimeout(r, 30))
    }
    const real = globalThis.fetch
    let answer: [number, object] = [
      422,
      { title: 'The picture cannot be read: it is neither PNG, JPEG, WebP nor TIFF' },
    ]
    vi.stubGlobal('fetch', async (url: string, init: RequestInit) =>
      String(url) === '/api/images' ? new Response(JSON.stringify(answer[1]), { status: answer[0] }) : real(url, init),
    )
    await choose()
    expect(document.body.textContent).toContain('neither PNG, JPEG, WebP nor TIFF')
    answer = [200, { blob: 'c'.repeat(64), width: 64, height: 36 }]
    await choose()
    expect(Object.values(scene.doc.boards)).toMatchObject([{ name: 'rough', blob: 'c'.repeat(64) }])
    w.unmount()
  })
})

describe('a pane that is blown up', () => {
  it('stays so while its camera is unlocked, and gives way when it goes', async () => {
    const view = useView()
    const w = mount(LensView, { props: { camera: 'a' }, attachTo: document.body })
    view.lookThrough('a')
    view.fill('lens')
    await nextTick()
    expect(w.find('[data-pane=lens]').classes()).toContain('full')
    view.unlocked = 'a' // which gives the pane other classes
    await nextTick()
    expect(w.find('[data-pane=lens]').classes()).toEqual(expect.arrayContaining(['full', 'unlocked']))
    w.unmount()
    expect(view.full).toBe('')
  })
})
