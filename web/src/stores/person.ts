// Who works here: until there are accounts, a name and a colour chosen once for
// this browser, and the tab, which is a client like any other.
import { useLocalStorage, useSessionStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { ulid } from 'ulid'

/** The colours of people: none is that of what is on air. */
export const peopleColors = ['#e2b45a', '#6fc3df', '#9ad17b', '#c79be8', '#e89bb4', '#7fd1c0', '#d8a47f', '#a8b6ff']

export const usePerson = defineStore('person', () => {
  const kept = useLocalStorage('proscen.person', { id: '', name: '', color: '' })
  if (!kept.value.id) {
    const id = ulid()
    kept.value = { id, name: '', color: peopleColors[[...id].reduce((n, c) => n + c.charCodeAt(0), 0) % 8]! }
  }
  const id = computed(() => kept.value.id)
  const chosen = computed(() => !!kept.value.name)
  const name = computed({
    get: () => kept.value.name || `Guest ${kept.value.id.slice(-3)}`,
    set: (name: string) => (kept.value = { ...kept.value, name: name.trim().slice(0, 60) }),
  })
  const color = computed({
    get: () => kept.value.color,
    set: (color: string) => (kept.value = { ...kept.value, color }),
  })

  /** Takes another colour than others have, unless one was chosen. */
  function differ(taken: string[]) {
    const free = peopleColors.find((c) => !taken.includes(c))
    if (!chosen.value && free && taken.includes(color.value)) color.value = free
  }

  const session = useSessionStorage('proscen.tab', '')
  const tab = ref('')
  /** Takes the name of this tab. A tab that was copied with its storage gets one of its own. */
  async function takeTab(): Promise<string> {
    if (tab.value) return tab.value
    let mine = session.value || ulid()
    if (!(await hold(mine))) {
      mine = ulid()
      await hold(mine)
    }
    session.value = tab.value = mine
    return mine
  }
  return { id, name, color, chosen, differ, tab, takeTab }
})

const lockOf = (tab: string) => `proscen.tab.${tab}`

/** Holds the name of a tab as long as the tab lives; false when another one has it. */
function hold(tab: string): Promise<boolean> {
  if (!navigator.locks) return Promise.resolve(true)
  return new Promise((answer) => {
    void navigator.locks.request(lockOf(tab), { ifAvailable: true }, (lock) => {
      answer(!!lock)
      return lock ? new Promise<void>(() => {}) : undefined
    })
  })
}

/** The tabs that live now, as far as the browser tells. */
export async function livingTabs(): Promise<Set<string>> {
  if (!navigator.locks?.query) return new Set()
  const { held = [] } = await navigator.locks.query()
  return new Set(held.flatMap((l) => (l.name?.startsWith(lockOf('')) ? [l.name.slice(lockOf('').length)] : [])))
}
