import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import NumberField from './NumberField.vue'

function field(props: Partial<InstanceType<typeof NumberField>['$props']> = {}) {
  const w = mount(NumberField, { props: { label: 'Height', value: 1.5, unit: 'm', ...props }, attachTo: document.body })
  const input = w.find('input')
  const type = async (text: string, key = 'Enter') => {
    await input.setValue(text)
    await input.trigger('keydown', { key })
  }
  return { w, input, type, el: input.element as HTMLInputElement }
}

describe('a figure', () => {
  it('shows its value with its digits and its name', () => {
    const { el } = field()
    expect(el.value).toBe('1.50')
    expect(el.getAttribute('aria-label')).toBe('Height')
    expect(field({ value: -0.0001, digits: 1 }).el.value).toBe('0.0')
  })

  it('takes what is typed on Enter, with arithmetic and units', async () => {
    const { w, type } = field()
    await type('2+0.25')
    await type('+1')
    await type('185cm')
    expect(w.emitted('change')).toEqual([[2.25], [2.5], [1.85]])
  })

  it('says nothing when nothing has changed', async () => {
    const { w, type } = field()
    await type('1.5')
    expect(w.emitted('change')).toBeUndefined()
  })

  it('marks nonsense, keeps it to be mended, and leaves the value', async () => {
    const { w, type, input } = field()
    await type('tall')
    expect(w.emitted('change')).toBeUndefined()
    expect(w.find('label').classes()).toContain('wrong')
    expect(w.find('label').attributes('title')).toContain('‘tall’ is not a number')
    await type('2')
    expect(w.emitted('change')).toEqual([[2]])
    await input.setValue('nonsense')
    await input.trigger('blur')
    expect((input.element as HTMLInputElement).value).toBe('1.50')
    expect(w.find('label').classes()).not.toContain('wrong')
  })

  it('drops what is typed on Escape', async () => {
    const { w, type, el } = field()
    await type('9', 'Escape')
    expect(el.value).toBe('1.50')
    expect(w.emitted('change')).toBeUndefined()
  })

  it('changes live while its name is dragged, and once for good at the end', async () => {
    const { w } = field({ step: 0.1 })
    const label = w.find('.label')
    const at = label.element as HTMLElement & { setPointerCapture: unknown }
    let captured = false
    Object.assign(at, {
      setPointerCapture: () => (captured = true),
      hasPointerCapture: () => captured,
      releasePointerCapture: () => (captured = false),
    })
    await label.trigger('pointerdown', { clientX: 100, pointerId: 1 })
    await label.trigger('pointermove', { clientX: 101, pointerId: 1 })
    expect(w.emitted('drag'), 'a tremble is no drag').toBeUndefined()
    await label.trigger('pointermove', { clientX: 110, pointerId: 1 })
    await label.trigger('pointerup', { clientX: 110, pointerId: 1 })
    expect(w.emitted('drag')).toEqual([[2.5]])
    expect(w.emitted('change')).toEqual([[2.5]])
  })

  it('takes a drag back on Escape, and says nothing more of it', async () => {
    const { w } = field()
    const label = w.find('.label')
    const el = label.element as HTMLElement
    let held = false
    Object.assign(el, {
      setPointerCapture: () => (held = true),
      releasePointerCapture: () => (held = false),
      hasPointerCapture: () => held,
    })
    await label.trigger('pointerdown', { pointerId: 1, clientX: 0 })
    await label.trigger('pointermove', { pointerId: 1, clientX: 50 })
    expect(w.emitted('drag')).toHaveLength(1)
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    expect(w.emitted('cancel')).toHaveLength(1)
    await label.trigger('pointermove', { pointerId: 1, clientX: 80 })
    await label.trigger('pointerup', { pointerId: 1, clientX: 80 })
    expect(w.emitted('drag')).toHaveLength(1)
    expect(w.emitted('change')).toBeUndefined()
  })
})
