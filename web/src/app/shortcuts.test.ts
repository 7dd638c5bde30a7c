import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, nextTick } from 'vue'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { desks } from '@/stores/view'
import { onDesk, refused, shown, useKeys } from '@/stores/keys'
import type { Command } from '@/stores/keys'
import PreferencesDialog from './PreferencesDialog.vue'
import { useShortcuts } from './shortcuts'

let list: Command[]
function listen() {
  return mount(
    defineComponent({
      setup() {
        const nothing = () => {}
        list = useShortcuts(() => null, {
          help: nothing,
          find: nothing,
          facts: nothing,
          preferences: nothing,
          round: nothing,
        })
        return () => h('div')
      },
    }),
  )
}

describe('shortcuts', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('means one thing by each key of a desk, and calls every command by words of its own', () => {
    listen()
    for (const { id } of desks) {
      const keys = list.filter((c) => onDesk(c, id)).flatMap((c) => c.keys)
      expect(keys.filter((k, i) => keys.indexOf(k) !== i)).toEqual([])
      expect(keys.length).toBeGreaterThan(20)
    }
    expect(new Set(list.map((c) => c.words)).size).toBe(list.length)
  })

  it('goes to a camera by more than one digit, at the last one or at Enter', () => {
    const w = listen()
    const [view, scene] = [useView(), useScene()]
    const node = (number: number) => ({
      kind: 'camera',
      name: `Camera ${number}`,
      camera: { number, color: '#ffffff' },
    })
    scene.doc.nodes = { a: node(3), b: node(12), c: node(40) } as unknown as typeof scene.doc.nodes
    view.desk = 'frame'
    const press = (...keys: string[]) => {
      for (const key of keys)
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
    }
    press('#', '1')
    expect([view.through, view.numbering]).toEqual(['', '1'])
    press('2')
    expect([view.through, view.numbering]).toEqual(['b', null])
    press('#', '3', 'Enter')
    expect(view.through).toBe('a')
    press('#', '4', 'Escape')
    expect([view.through, view.numbering]).toEqual(['a', null])
    press('#', '9', '9')
    expect(view.through, 'there is none').toBe('a')
    expect(document.body.textContent).toContain('There is no camera 99.')
    press('#', 'g') // ends the number, and means what it always does
    expect([view.numbering, view.guides]).toEqual([null, false])
    press('#')
    scene.id = 'another'
    expect(view.numbering, 'another scene').toBeNull()
    w.unmount()
  })

  it('calls by each key of each desk just its command, held ones only where that makes sense', () => {
    const w = listen()
    const view = useView()
    const called: string[] = []
    for (const c of list) c.run = () => called.push(c.words)
    const press = (key: string, repeat = false) => {
      const [, ctrl, shift, last] = key.match(/^(Ctrl\+)?(Shift\+)?(.+)$/s)!
      const event = { key: last, ctrlKey: !!ctrl, shiftKey: !!shift, repeat, bubbles: true, cancelable: true }
      document.body.dispatchEvent(new KeyboardEvent('keydown', event))
    }
    for (const { id } of desks) {
      view.desk = id
      for (const c of list.filter((x) => onDesk(x, id)))
        for (const key of c.keys) {
          called.length = 0
          press(key)
          expect(called, `${key} on ${id}`).toEqual([c.words])
          press(key, true)
          expect(called.length, `${key} held on ${id}`).toBe(c.repeats ? 2 : 1)
        }
    }
    // Nothing happens behind a menu.
    document.body.innerHTML = '<div role="menu">open</div>'
    document.querySelector<HTMLElement>('[role=menu]')!.checkVisibility = () => true
    called.length = 0
    press('Delete')
    expect(called).toEqual([])
    document.body.innerHTML = ''
    w.unmount()
  })

  it('has every command that a tip names', () => {
    const w = listen()
    const sources = import.meta.glob<string>('../**/*.vue', { query: '?raw', import: 'default', eager: true })
    const named = Object.values(sources).flatMap((text) =>
      [...text.matchAll(/\btip\((?:[^()]|\([^()]*\))*?'([a-z][^']*)',?\s*\)/g)].map((m) => m[1]!),
    )
    expect(named.length).toBeGreaterThan(25)
    const known = new Set(list.map((c) => c.words))
    expect(named.filter((words) => !known.has(words))).toEqual([])
    w.unmount()
  })

  it('takes another key on one desk, and says who has a key', () => {
    const w = listen()
    const view = useView()
    const { give, holder, keysOf, shownOf } = useKeys()
    const measure = list.find((c) => c.words.startsWith('measure'))!
    const press = (key: string, more: KeyboardEventInit = {}) =>
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }))
    expect(holder(list, measure, 'dress', 'g')?.words).toBe('guides')
    expect(holder(list, measure, 'dress', 'ctrl+m')).toBeUndefined()
    give(measure, 'dress', 'ctrl+m')
    expect([shownOf(measure, 'dress'), shownOf(measure, 'frame')]).toEqual(['Ctrl M', 'T'])
    view.desk = 'dress'
    press('t')
    expect(view.measuring).toBe(false)
    press('m', { ctrlKey: true })
    expect(view.measuring).toBe(true)
    view.desk = 'frame'
    press('t')
    expect(view.measuring).toBe(false)
    give(measure, 'dress', '')
    expect(keysOf(measure, 'dress')).toEqual([])
    give(measure, 'dress', 't') // what it came with is nothing to be kept
    expect(keysOf(measure, 'dress')).toEqual(['t'])
    expect(shown('ctrl+shift+z')).toBe('Ctrl Shift Z')
    expect([refused('escape'), refused('control'), refused('f2')]).toEqual([expect.stringContaining('Esc'), null, ''])
    w.unmount()
  })

  it('are given back only when nobody else has them, which is said', async () => {
    const w = listen()
    const { give, keysOf } = useKeys()
    const [measure, guides] = ['measure', 'guides'].map((x) => list.find((c) => c.words.startsWith(x))!) as [
      Command,
      Command,
    ]
    for (const { id } of desks) {
      give(measure, id, 'f8')
      give(guides, id, 't')
    }
    const dialog = mount(PreferencesDialog, { props: { commands: list }, attachTo: document.body })
    await nextTick()
    const button = (name: string) =>
      [...document.querySelectorAll('button')].find(
        (b) => (b.getAttribute('aria-label') ?? b.textContent!).trim() === name,
      )!
    button('The usual key for measure between two places').click()
    await nextTick()
    expect(document.querySelector('[role=alert]')!.textContent).toContain('T is the key of')
    expect(document.querySelector('[role=alert]')!.textContent).toContain('“guides”')
    button('Take it from there').click()
    expect(keysOf(measure, 'dress')).toEqual(['t'])
    expect(keysOf(guides, 'dress')).toEqual([])
    for (const { id } of desks) for (const c of [measure, guides]) give(c, id, c.keys[0]!)
    dialog.unmount()
    w.unmount()
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
