import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { useScene } from '@/stores/scene'
import { FakeServer } from '@/testing/server'
import { useEditDrag } from './useEditDrag'

let scene: ReturnType<typeof useScene>
beforeEach(async () => {
  setActivePinia(createPinia())
  new FakeServer().install()
  scene = useScene()
  await scene.load('scene')
})
afterEach(async () => {
  await scene.flushed()
  vi.unstubAllGlobals()
})

/** A view in which the box is dragged: a metre for ten pixels. */
function view() {
  let drag!: ReturnType<typeof useEditDrag>
  const clicked = vi.fn()
  const w = mount(
    defineComponent({
      setup() {
        drag = useEditDrag()
        return () => h('div')
      },
    }),
  )
  const over = Object.assign(w.element as HTMLElement, { setPointerCapture: () => {} })
  const begin = () =>
    drag.begin(
      new PointerEvent('pointerdown', { button: 0, clientX: 100, clientY: 50 }),
      over,
      (e) => ({
        name: 'move',
        args: { ids: ['box'], by: [(e.clientX - 100) / 10, 0, 0] },
        text: `X ${(e.clientX - 100) / 10}`,
        hints: [{ axis: 0, value: 1, node: '' }],
      }),
      { click: clicked },
    )
  return { drag, begin, clicked, w }
}
const pointer = (kind: string, x: number) => window.dispatchEvent(new PointerEvent(kind, { clientX: x, clientY: 50 }))
const x = () => scene.doc.nodes.box!.position[0]

describe('a drag over a view', () => {
  it('previews while it lasts and is one step when it ends', () => {
    const { drag, begin, clicked, w } = view()
    begin()
    expect(drag.dragging.value).toBe(true)
    pointer('pointermove', 120)
    expect(x()).toBe(2)
    expect(drag.told.value?.text).toBe('X 2')
    expect(drag.hints.value).toHaveLength(1)
    pointer('pointermove', 150)
    expect(x(), 'each preview starts from where the thing was').toBe(5)
    expect(scene.undoable).toHaveLength(0)
    pointer('pointerup', 150)
    expect(x()).toBe(5)
    expect(scene.undoable).toHaveLength(1)
    expect([drag.dragging.value, drag.told.value, drag.hints.value]).toEqual([false, null, []])
    expect(clicked).not.toHaveBeenCalled()
    pointer('pointermove', 300)
    expect(x(), 'it has ended').toBe(5)
    w.unmount()
  })

  it('is a click when the pointer does not move', () => {
    const { begin, clicked, w } = view()
    begin()
    pointer('pointermove', 102)
    pointer('pointerup', 102)
    expect(clicked).toHaveBeenCalledOnce()
    expect([x(), scene.undoable.length]).toEqual([0, 0])
    w.unmount()
  })

  it('is taken back by Escape, and by a pointer that is lost', () => {
    const { drag, begin, w } = view()
    for (const leave of [
      () => window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' })),
      () => window.dispatchEvent(new PointerEvent('pointercancel')),
    ]) {
      begin()
      pointer('pointermove', 180)
      expect(x()).toBe(8)
      leave()
      expect([x(), scene.undoable.length, drag.dragging.value]).toEqual([0, 0, false])
      pointer('pointerup', 180)
      expect(x()).toBe(0)
    }
    w.unmount()
  })
})
