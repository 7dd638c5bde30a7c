// The one table of commands, and their keys on each desk: those that they come with, and
// those that have been chosen instead. What listens, the sheet, tips and tests are made
// from it.
import { shallowRef } from 'vue'
import { usePreferences } from './preferences'
import { useView, type Desk } from './view'

/** Something that is done all day. Its words name it, also in the preferences. */
export interface Command {
  keys: string[] // as KeyboardEvent.key; Ctrl+ stands for Control or Command. None: only found
  words: string
  group: 'Time' | 'Set' | 'Cameras' | 'Cut' | 'Edit' | 'View'
  desks?: Desk[] // where it can be done; everywhere if they are left out
  hidden?: boolean // one of a row of which the first is shown
  repeats?: boolean // also while its key is held
  run: () => unknown
}

/** The table, as soon as the shell is there. */
export const commands = shallowRef<Command[]>([])

/** Whether a command can be done on a desk. */
export const onDesk = (c: Command, desk: Desk) => !c.desks || c.desks.includes(desk)

/** The key of an event as commands write it, in small letters. */
export function pressed(e: KeyboardEvent): string {
  const key = e.key.toLowerCase()
  if (e.getModifierState('AltGraph')) return key // it makes signs such as [ and {
  if (e.ctrlKey || e.metaKey) return `ctrl+${e.shiftKey ? 'shift+' : ''}${key}`
  return e.shiftKey && key.length > 1 ? `shift+${key}` : key
}

const named: Record<string, string> = {
  ' ': 'Space',
  arrowleft: '←',
  arrowright: '→',
  arrowup: '↑',
  arrowdown: '↓',
  escape: 'Esc',
  delete: 'Del',
  pageup: 'PageUp',
  pagedown: 'PageDown',
}
/** A key as it is shown: “Ctrl Shift Z”. */
export function shown(key: string): string {
  const parts = key.toLowerCase().match(/^(ctrl\+)?(shift\+)?(.+)$/s)
  if (!parts) return key
  const last = parts[3]!
  const name = named[last] ?? (last.length === 1 ? last.toUpperCase() : last[0]!.toUpperCase() + last.slice(1))
  return [parts[1] && 'Ctrl', parts[2] && 'Shift', name].filter(Boolean).join(' ')
}

/** Keys that cannot be given to a command: the browser or the page needs them. */
const reserved = new Set([
  'escape',
  'tab',
  'enter',
  'ctrl+w',
  'ctrl+t',
  'ctrl+n',
  'ctrl+r',
  'ctrl+k',
  'f5',
  'f11',
  'f12',
])
const half = new Set(['control', 'shift', 'alt', 'meta', 'capslock', 'dead', 'unidentified'])
/** Why a pressed key cannot be given to a command; '' when it can, null while only half of it is held. */
export function refused(key: string): string | null {
  const last = key.split('+').at(-1)!
  if (half.has(last)) return null
  return reserved.has(key) ? `${shown(key)} stays what it is in every program.` : ''
}

export function useKeys() {
  const preferences = usePreferences()
  const keysOf = (c: Command, desk: Desk): string[] => {
    const own = preferences.keys[desk]?.[c.words]
    return own === undefined ? c.keys : own ? [own] : []
  }
  /** The first key of a command on a desk, as it is shown; '' without one. */
  const shownOf = (c: Command, desk: Desk) => {
    const [first] = keysOf(c, desk)
    return first ? shown(first) : ''
  }
  /** The other command that has a key on a desk. */
  const holder = (all: Command[], c: Command, desk: Desk, key: string) =>
    all.find((o) => o !== c && onDesk(o, desk) && keysOf(o, desk).some((k) => k.toLowerCase() === key))
  /** Gives a command a key on a desk; '' for none. */
  function give(c: Command, desk: Desk, key: string) {
    const on = { ...preferences.keys[desk] }
    if ((c.keys[0]?.toLowerCase() ?? '') === key) delete on[c.words]
    else on[c.words] = key
    preferences.keys = { ...preferences.keys, [desk]: on }
  }
  return { keysOf, shownOf, holder, give }
}

/** Gives a tip the key of a command on the desk that is open: “Split the shot (X)”. */
export function useTip() {
  const view = useView()
  const { shownOf } = useKeys()
  return (text: string, words: string) => {
    const c = commands.value.find((x) => x.words === words)
    const key = c && onDesk(c, view.desk) ? shownOf(c, view.desk) : ''
    return key ? `${text} (${key})` : text
  }
}
