// Tabs, radio buttons and menus by arrow keys, as the authoring practices of ARIA have
// them: one of a group is reached by Tab, the others from there by arrows, Home and End.
import type { ObjectDirective } from 'vue'

const members = (group: HTMLElement) => [
  ...group.querySelectorAll<HTMLElement>(
    '[role=tab]:not(:disabled), [role=radio]:not(:disabled), [role=menuitem]:not(:disabled)',
  ),
]
const chosen = (el: HTMLElement) => ['aria-selected', 'aria-checked'].some((a) => el.getAttribute(a) === 'true')

function rove(group: HTMLElement) {
  const all = members(group)
  const at = Math.max(0, all.findIndex(chosen))
  all.forEach((el, i) => (el.tabIndex = i === at ? 0 : -1))
}
function key(e: KeyboardEvent) {
  const group = e.currentTarget as HTMLElement
  const all = members(group)
  const at = all.indexOf(e.target as HTMLElement)
  if (at < 0 || e.ctrlKey || e.metaKey || e.altKey) return
  const to = {
    ArrowLeft: at - 1,
    ArrowUp: at - 1,
    ArrowRight: at + 1,
    ArrowDown: at + 1,
    Home: 0,
    End: all.length - 1,
  }[e.key]
  if (to === undefined) return
  e.preventDefault()
  e.stopPropagation() // elsewhere arrows step frames
  const next = all[(to + all.length) % all.length]!
  next.focus()
  if (group.getAttribute('role') !== 'menu') next.click()
}

export const arrows: ObjectDirective<HTMLElement> = {
  mounted(group) {
    group.addEventListener('keydown', key)
    rove(group)
  },
  updated: rove,
}
