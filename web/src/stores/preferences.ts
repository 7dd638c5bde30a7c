// What a person prefers, whatever scene is open. It is kept in this browser as long as
// there are no persons on the server.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { watchEffect } from 'vue'
import type { Desk } from './view'

/** The sizes of the interface: of everything that is read, not of the views. */
export const sizes = { small: 0.9, usual: 1, large: 1.15, 'very large': 1.3 } as const
export type Size = keyof typeof sizes

export const usePreferences = defineStore('preferences', () => {
  /** Keys that were chosen, by desk and by the words of the command; '' for none. */
  const keys = useLocalStorage<Partial<Record<Desk, Record<string, string>>>>('proscen.keys', {})
  const size = useLocalStorage<Size>('proscen.size', 'usual')
  /** How lengths are shown; '' as the scene says. */
  const lengths = useLocalStorage<'' | 'metres' | 'feet'>('proscen.lengths', '')
  /** How the views are drawn: as pictures are delivered, or plainly where graphics are slow. */
  const pictures = useLocalStorage<'delivered' | 'plain'>('proscen.pictures', 'delivered')
  watchEffect(() => document.documentElement.style.setProperty('--size', String(sizes[size.value] ?? 1)))
  return { keys, size, lengths, pictures }
})
