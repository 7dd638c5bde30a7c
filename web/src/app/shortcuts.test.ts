import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h } from 'vue'
import { useView } from '@/stores/view'
import { useShortcuts, type Shortcut } from './shortcuts'

let list: Shortcut[]
function listen() {
  return mount(
    defineComponent({
      setup() {
        list = useShortcuts(
          () => null,
          () => {},
          () => {},
        )
        return () => h('div')
      },
    }),
  )
}

describe('shortcuts', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('means one thing by each key', () => {
    listen()
    const keys = list.flatMap((s) => s.keys)
    expect(keys.filter((k, i) => keys.indexOf(k) !== i)).toEqual([])
    expect(list.length).toBeGreaterThan(20)
  })

  it('come back after something was pressed or chosen with the mouse, and not with keys', () => {
    const w = listen()
    document.body.innerHTML = '<button></button><select></select><input /><input type="color" />'
    const [button, select, text, color] = [...document.body.children] as HTMLElement[]
    const focused = () => document.activeElement
    const by = (how: Event, t: HTMLElement, what: string) => {
      t.focus()
      t.dispatchEvent(how)
      t.dispatchEvent(new Event(what, { bubbles: true }))
    }
    const mouse = () => new MouseEvent('pointerdown', { bubbles: true })
    const key = () => new KeyboardEvent('keydown', { key: 'Tab', bubbles: true })
    by(mouse(), button!, 'click')
    expect(focused()).toBe(document.body)
    by(key(), button!, 'click')
    expect(focused()).toBe(button)
    by(mouse(), select!, 'change')
    expect(focused()).toBe(document.body)
    by(mouse(), color!, 'change')
    expect(focused()).toBe(document.body)
    by(mouse(), text!, 'change')
    expect(focused(), 'text goes on being written').toBe(text)
    document.body.innerHTML = ''
    w.unmount()
  })

  it('leaves what is going on, one step at a time', () => {
    const w = listen()
    const view = useView()
    view.placing = { kind: 'set', stock: 'wall', name: 'Wall' }
    view.measuring = true
    const escape = () => document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))
    escape()
    expect(view.placing).toBeNull()
    expect(view.measuring).toBe(true)
    escape()
    expect(view.measuring).toBe(false)
    w.unmount()
  })
})
