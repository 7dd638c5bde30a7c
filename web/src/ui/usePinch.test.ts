import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, nextTick, ref } from 'vue'
import { useDrag } from './useDrag'
import { usePinch } from './usePinch'

const finger = (kind: string, id: number, x: number) =>
  new PointerEvent(kind, {
    pointerType: 'touch',
    pointerId: id,
    isPrimary: id === 1,
    button: 0,
    clientX: x,
    clientY: 50,
    bubbles: true,
  })
const log: string[] = []
const drags = (name: string) => ({
  move: () => log.push(`${name} moves`),
  drop: () => log.push(`${name} drops`),
  abandon: () => log.push(`${name} is taken back`),
})
/** A view with two things that can be dragged, and two fingers for the whole. */
async function view() {
  const pinched = vi.fn()
  let [one, two] = [] as ReturnType<typeof useDrag>[]
  const w = mount(
    defineComponent({
      setup() {
        const el = ref<HTMLElement | null>(null)
        one = useDrag()
        two = useDrag()
        usePinch(el, pinched)
        return () => h('div', { ref: el, onPointerdown: (e: PointerEvent) => press(two!, 'two', e) })
      },
    }),
    { attachTo: document.body },
  )
  await nextTick() // listeners are there
  const el = Object.assign(w.element as HTMLElement, { setPointerCapture: () => {} })
  const press = (d: ReturnType<typeof useDrag>, name: string, e: PointerEvent) => d.begin(e, el, drags(name))
  return { w, el, pinched, begin: (e: PointerEvent) => press(one!, 'one', e) }
}
afterEach(() => (log.length = 0))

describe('several pointers', () => {
  it('zoom with two fingers; what the first was dragging is taken back, and the second drags nothing', async () => {
    const { w, el, pinched } = await view()
    el.dispatchEvent(finger('pointerdown', 1, 100))
    window.dispatchEvent(finger('pointermove', 1, 120))
    expect(log).toEqual(['two moves'])
    el.dispatchEvent(finger('pointerdown', 2, 220))
    expect(log.splice(0)).toEqual(['two moves', 'two is taken back'])
    window.dispatchEvent(finger('pointermove', 2, 320))
    expect(pinched).toHaveBeenLastCalledWith(2, { clientX: 220, clientY: 50 })
    window.dispatchEvent(finger('pointerup', 2, 320))
    window.dispatchEvent(finger('pointermove', 1, 90))
    expect(pinched).toHaveBeenCalledOnce()
    expect(log).toEqual([])
    w.unmount()
  })

  it('drag one thing at a time: a new press takes back a drag whose end was not heard of', async () => {
    const { w, el, begin } = await view()
    begin(finger('pointerdown', 1, 0))
    window.dispatchEvent(finger('pointermove', 1, 40))
    el.dispatchEvent(new PointerEvent('pointerdown', { pointerId: 7, button: 0, clientX: 0, bubbles: true }))
    window.dispatchEvent(new PointerEvent('pointermove', { pointerId: 7, clientX: 30 }))
    window.dispatchEvent(new PointerEvent('pointerup', { pointerId: 7, clientX: 30 }))
    expect(log).toEqual(['one moves', 'one is taken back', 'two moves', 'two drops'])
    w.unmount()
  })
})
