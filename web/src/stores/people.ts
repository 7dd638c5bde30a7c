// Who else has the scene open, and what they see of this browser: desk, playhead,
// selection, and what is being dragged. One of them can be followed.
import { useThrottleFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, watch } from 'vue'
import type { Presence } from '@/api/client'
import { usePerson } from './person'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { desks, useView, type Desk } from './view'

/** Milliseconds between two words about this browser: of a drag, and of the rest. */
const dragEvery = 60
const restEvery = 150
/** How long what somebody has let go of stays where they dragged it, until their edit comes. */
const patience = 400

export interface Mark {
  tab: string
  name: string
  color: string
}

export const usePeople = defineStore('people', () => {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const person = usePerson()
  const here = shallowReactive(new Map<string, Presence>())
  const others = computed(() =>
    [...here.values()].sort((a, b) => a.name.localeCompare(b.name) || a.tab.localeCompare(b.tab)),
  )
  /** The tab that is followed. */
  const followed = ref('')
  const leader = computed(() => here.get(followed.value))

  /** Whose selection, camera or drag a thing is, as collection/id. */
  const marks = computed(() => {
    const out = new Map<string, Mark[]>()
    for (const { tab, name, color, selection = [], through } of here.values()) {
      const things = new Set(selection)
      if (through) things.add(`nodes/${through}`)
      for (const thing of things) out.set(thing, [...(out.get(thing) ?? []), { tab, name, color }])
    }
    return out
  })
  /** What somebody is doing, in words. */
  function doing(p: Presence): string {
    const desk = desks.find((d) => d.id === p.desk)?.title ?? ''
    const at = p.clock === 'screen' ? `▷ ${Math.round(p.screen ?? 0)}` : `◷ ${Math.round(p.story ?? 0)}`
    return `${p.name} · ${desk} · ${at}`
  }

  scene.naming((tab) => here.get(tab)?.name ?? 'Somebody else')

  const letting = new Map<string, ReturnType<typeof setTimeout>>()
  function letGo(tab: string) {
    clearTimeout(letting.get(tab))
    letting.delete(tab)
    scene.guest(tab, null)
  }
  function take(p: Presence) {
    const was = here.get(p.tab)
    here.set(p.tab, p)
    if (p.drag) {
      clearTimeout(letting.get(p.tab))
      letting.delete(p.tab)
      scene.guest(p.tab, p.drag)
    } else if (was?.drag && !letting.has(p.tab))
      letting.set(
        p.tab,
        setTimeout(() => letGo(p.tab), patience),
      )
    if (p.tab === followed.value) goAlong(p)
  }
  function leave(tab: string) {
    if (here.get(tab)?.drag || letting.has(tab)) letGo(tab)
    here.delete(tab)
    if (followed.value === tab) followed.value = ''
  }
  function empty() {
    for (const tab of [...here.keys()]) {
      clearTimeout(letting.get(tab))
      here.delete(tab)
    }
    letting.clear()
    followed.value = ''
  }
  scene.onEvent((e) => {
    if (e.kind === 'hello') {
      const now = new Set((e.people ?? []).map((p) => p.tab))
      for (const tab of [...here.keys()]) if (!now.has(tab)) leave(tab)
      for (const p of e.people ?? []) take(p)
      person.differ(others.value.filter((p) => p.person !== person.id).map((p) => p.color))
      say()
    } else if (e.kind === 'here' && e.here) take(e.here)
    else if (e.kind === 'gone' && e.tab) leave(e.tab)
    else if (e.kind === 'now')
      say() // in case a word of it was lost
    else if (e.kind === 'edit') for (const { tab } of e.edits ?? []) if (tab && letting.has(tab)) letGo(tab)
  })
  watch(() => scene.id, empty, { flush: 'sync' })

  const selection = computed(() => {
    const s = view.selected
    if (!s) return []
    return [s.id, ...view.more].slice(0, 200).map((id) => `${s.collection}/${id}`)
  })
  function say() {
    if (!scene.loaded) return
    scene.say({
      tab: person.tab,
      person: person.id,
      name: person.name,
      color: person.color,
      desk: view.desk,
      clock: head.clock,
      story: head.story,
      screen: head.screen,
      playing: head.speed,
      through: view.through || undefined,
      assembly: scene.cut.assembly || undefined,
      selection: selection.value,
      drag: scene.dragging ?? undefined,
    })
  }
  const soon = useThrottleFn(say, dragEvery, true)
  const later = useThrottleFn(say, restEvery, true)
  watch([() => scene.dragging, () => head.speed], () => void soon())
  watch(
    [() => view.desk, () => view.through, selection, () => person.name, () => person.color, () => scene.cut.assembly],
    () => void later(),
  )
  // While it plays, whoever follows plays too.
  watch([() => head.story, () => head.screen], () => !head.playing && void later())

  /** Goes where somebody is, and stays with them until something is done here. */
  function follow(tab: string) {
    followed.value = followed.value === tab ? '' : tab
    if (leader.value) goAlong(leader.value)
  }
  const wanted = ref<Desk | null>(null) // the desk that the shell goes to
  function goAlong(p: Presence) {
    if (p.desk && p.desk !== view.desk) wanted.value = p.desk as Desk
    if (p.assembly && p.assembly !== scene.cut.assembly) scene.choose(p.assembly)
    if (view.through !== (p.through ?? '')) view.lookThrough(p.through ?? '')
    const to = p.clock === 'screen' ? (p.screen ?? 0) : (p.story ?? 0)
    const at = p.clock === 'screen' ? head.screen : head.story
    const off = Math.abs(at - to)
    if (off > (p.playing ? 6 : 0.001)) {
      if (p.clock === 'screen') head.setScreen(to)
      else head.setStory(to)
    }
    if ((p.playing ?? 0) !== head.speed) head.go(p.playing ?? 0)
  }
  /** Whoever does something here follows nobody any more. */
  function ownWay() {
    followed.value = ''
  }

  return { here, others, marks, doing, followed, leader, follow, ownWay, wanted }
})
