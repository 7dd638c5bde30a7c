// What is being typed into a field stays, also when somebody else changes the thing
// that the field shows: Vue would write the new value over it. With v-typed it is
// shown when the field is left without a change.
import type { ObjectDirective } from 'vue'

type Field = HTMLInputElement | HTMLTextAreaElement
interface Typing {
  text: string
  start: number | null
  end: number | null
}
const dirty = new WeakSet<Field>()
const held = new WeakMap<Field, Typing>()

export const typed: ObjectDirective<Field> = {
  created(el) {
    el.addEventListener('input', () => dirty.add(el))
    for (const end of ['change', 'blur']) el.addEventListener(end, () => dirty.delete(el))
  },
  beforeUpdate(el) {
    if (dirty.has(el) && document.activeElement === el)
      held.set(el, { text: el.value, start: el.selectionStart, end: el.selectionEnd })
  },
  updated(el) {
    const typing = held.get(el)
    if (!typing) return
    held.delete(el)
    if (el.value === typing.text) return
    el.value = typing.text
    el.setSelectionRange(typing.start, typing.end)
  },
}
