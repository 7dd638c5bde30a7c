import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, nextTick } from 'vue'

const Form = defineComponent({
  props: { name: { type: String, required: true }, other: { type: Number, required: true } },
  template: '<input v-typed :value="name" :title="String(other)" />',
})

it('keeps what is being typed when the thing changes elsewhere, and shows the change afterwards', async () => {
  const w = mount(Form, { props: { name: 'Ida', other: 1 }, attachTo: document.body })
  const field = w.get('input').element
  field.focus()
  field.value = 'Ida K'
  field.dispatchEvent(new Event('input'))
  await w.setProps({ other: 2 })
  expect(field.value).toBe('Ida K')
  await w.setProps({ name: 'Idaline' })
  expect(field.value).toBe('Ida K')
  field.dispatchEvent(new Event('change'))
  await w.setProps({ other: 3 })
  await nextTick()
  expect(field.value).toBe('Idaline')
  w.unmount()
})
