// Copy and paste: keys within a node's rows, and things, paths, shots and boards from
// scene to scene. What is copied is kept in the browser, so that another tab can paste it.
import { ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { core, type Document } from '@/core/bridge'
import { sentence } from '@/ui/sentence'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { useView } from './view'

const place = 'proscen.copied'

export const useCopying = defineStore('copying', () => {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  let kept: Document | null = null // when the browser has no room for it
  let keysLast = false
  const say = (message: string) => ElMessage({ message, type: 'info', grouping: true, showClose: true })

  function read(): Document | null {
    try {
      const text = localStorage.getItem(place)
      return text ? (JSON.parse(text) as Document) : kept
    } catch {
      return kept
    }
  }
  function keep(clip: Document) {
    kept = clip
    try {
      localStorage.setItem(place, JSON.stringify(clip))
    } catch {
      localStorage.removeItem(place)
      say('This is too much for other tabs; it can be pasted in this one.')
    }
  }
  const count = (n: number, what: string) => (n ? [`${n} ${what}${n === 1 ? '' : 's'}`] : [])
  function inWords(clip: Document): string {
    const things = Object.values(clip.nodes).filter((n) => !n.parent).length
    const boards = Object.keys(clip.boards).length
    const only = clip.shots.boards ? count(boards, 'board') : count(Object.keys(clip.shots).length, 'shot')
    const paths = things ? [] : count(Object.keys(clip.paths).length, 'path')
    return [...count(things, 'thing'), ...paths, ...only].join(' and ')
  }
  /** Copies a selection as it looks at the playhead. */
  function take(sel: { nodes?: string[]; paths?: string[]; shots?: string[]; boards?: string[] }) {
    const o = core.clip(sel, head.story)
    if (!o.clip) return say(sentence(o.error ?? 'nothing was copied'))
    keysLast = false
    keep(o.clip as Document)
    say(`Copied ${inWords(o.clip as Document)}. They can be pasted here and in other scenes.`)
  }
  /** Copies the selected keys, or else what is selected. */
  function copy() {
    if (view.keys) {
      view.copyKeys()
      keysLast = true
      return
    }
    const paths = view.selected?.collection === 'paths' ? [view.selected.id] : []
    take({ nodes: view.nodes, paths, shots: view.shots })
  }
  /** Pastes what was copied last; `keys` pastes keys. */
  function paste(keys: () => void) {
    const clip = read()
    if (keysLast || !clip) {
      if (view.copied) keys()
      else say('Nothing is copied yet: select something and press Ctrl C.')
      return
    }
    const shot = scene.doc.shots[view.shot]
    const args = {
      clip,
      assembly: scene.cut.assembly,
      at: Math.round(head.screen),
      ...(clip.shots.boards && shot
        ? {
            onto: view.shot,
            from: Math.min(Math.max(0, Math.round(head.screen) - shot.screenIn), shot.screenOut - shot.screenIn - 1),
          }
        : {}),
    }
    const shots = !clip.shots.boards && Object.keys(clip.shots).length > 0
    const made = scene.make(shots ? 'shots' : 'nodes', 'paste', args)
    if (!made.length) return
    if (shots) view.selectShots(made)
    else view.selectNodes(made.filter((id) => !scene.doc.nodes[id]?.parent))
  }
  return { take, copy, paste }
})
