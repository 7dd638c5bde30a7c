import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, nextTick, ref } from 'vue'
import { arrows } from './arrows'

const group = () => {
  const at = ref('b')
  const w = mount(
    defineComponent({
      directives: { arrows },
      setup: () => ({ at }),
      template: `<div v-arrows role="tablist"><button v-for="x in ['a', 'b', 'c']" :key="x" role="tab"
        :aria-selected="at === x" @click="at = x">{{ x }}</button></div>`,
    }),
    { attachTo: document.body },
  )
  const press = async (key: string, more = {}) => {
    document.activeElement!.dispatchEvent(
      new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }),
    )
    await nextTick()
  }
  return { at, w, press, stops: () => w.findAll('button').map((b) => (b.element as HTMLElement).tabIndex) }
}

describe('tabs by arrow keys', () => {
  it('are one stop for Tab, and go round by arrows', async () => {
    const { at, w, press, stops } = group()
    expect(stops()).toEqual([-1, 0, -1])
    ;(w.findAll('button')[1]!.element as HTMLElement).focus()
    const desk = vi.fn()
    window.addEventListener('keydown', desk)
    for (const [key, to] of [
      ['ArrowRight', 'c'],
      ['ArrowRight', 'a'],
      ['ArrowLeft', 'c'],
      ['Home', 'a'],
      ['End', 'c'],
      ['ArrowUp', 'b'],
    ] as const) {
      await press(key)
      expect([at.value, document.activeElement!.textContent]).toEqual([to, to])
    }
    expect(stops()).toEqual([-1, 0, -1])
    expect(desk, 'the desk does not hear of them').not.toHaveBeenCalled()
    await press('ArrowRight', { ctrlKey: true })
    await press('x')
    expect(at.value).toBe('b')
    expect(desk).toHaveBeenCalledTimes(2)
    window.removeEventListener('keydown', desk)
    w.unmount()
  })
})
