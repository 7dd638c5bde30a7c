import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { core } from '@/core/bridge'
import { FakeServer } from '@/testing/server'
import { useArranging } from './arranging'
import { useScene } from './scene'
import { useView } from './view'

async function open() {
  setActivePinia(createPinia())
  new FakeServer().install()
  const scene = useScene()
  await scene.load('scene')
  return { scene, view: useView() }
}

afterEach(async () => {
  await useScene().flushed() // what is still being saved
  vi.unstubAllGlobals()
})

describe('the selection', () => {
  let at: Awaited<ReturnType<typeof open>>
  beforeEach(async () => {
    at = await open()
    for (const id of ['p', 'q', 'r'])
      at.scene.run('stockPlace', { kind: 'prop', stock: 'crate', name: 'Crate', position: [0, 0, 0], id })
  })

  it('holds several nodes, and forgets those that are gone', () => {
    const { scene, view } = at
    view.select('nodes', 'p')
    view.toggle('q')
    expect(view.nodes).toEqual(['p', 'q'])
    expect(view.isSelected('nodes', 'q')).toBe(true)
    view.toggle('p')
    expect(view.nodes).toEqual(['q'])
    view.selectNodes(['p', 'q', 'r'])
    scene.run('remove', { collection: 'nodes', ids: ['q'] })
    expect(view.nodes).toEqual(['p', 'r'])
    view.select('nodes', 'r')
    expect(view.nodes).toEqual(['r'])
  })

  it('leaves out of reach what is locked or filtered away', () => {
    const { scene, view } = at
    scene.run('group', { ids: ['p'], id: 'g', name: 'Stack' })
    expect(view.grabs('p')).toBe(true)
    scene.run('setMany', { collection: 'nodes', ids: ['g'], merge: { locked: true } })
    expect(view.grabs('p'), 'its group is locked').toBe(false)
    expect(view.grabs('q')).toBe(true)
    view.grab = 'camera'
    expect(view.grabs('q')).toBe(false)
    expect(view.outOfReach).toContain('q')
    expect(view.outOfReach.some((id) => scene.doc.nodes[id]!.camera)).toBe(false)
    expect(view.grabs('nothing')).toBe(false)
  })

  it('becomes what an arrangement makes of it', () => {
    const { scene, view } = at
    const arranging = useArranging()
    view.selectNodes(['p', 'q'])
    arranging.group()
    const [group] = view.nodes
    expect(scene.doc.nodes[group!]!.kind).toBe('group')
    arranging.duplicate()
    expect(view.nodes).toHaveLength(1)
    expect(view.nodes[0]).not.toBe(group)
    expect(Object.values(scene.doc.nodes).filter((n) => n.parent === view.nodes[0])).toHaveLength(2)
    arranging.ungroup(view.nodes[0]!)
    expect(view.nodes).toHaveLength(2)
    scene.run('move', { ids: ['r'], by: [0, 3, 0] })
    view.select('nodes', 'r')
    arranging.dropDown()
    expect(scene.doc.nodes.r!.position[1]).toBeLessThan(3)
    expect(core.document().nodes.r!.position).toEqual(scene.doc.nodes.r!.position)
  })

  it('is left one step at a time', () => {
    const { view } = at
    view.select('nodes', 'p')
    view.tape = { from: [0, 0, 0], to: [1, 0, 0] }
    view.placing = { kind: 'cast', name: 'Person' }
    view.back()
    expect([view.placing, view.tape !== null, view.node]).toEqual([null, true, 'p'])
    view.back()
    expect([view.tape, view.node]).toEqual([null, 'p'])
    view.back()
    expect(view.node).toBe('')
  })
})

describe('another scene', () => {
  it('begins as if it were the first: nothing is looked through, unlocked, armed or selected', async () => {
    const { scene, view } = await open()
    view.lookThrough('b')
    view.unlocked = 'b'
    view.autoKey = true
    view.inset = 'scout'
    view.allKeys('b')
    view.select('nodes', 'box')
    view.picking = 'pull'
    await scene.load('other')
    expect(scene.loaded).toBe(true)
    expect([view.through, view.unlocked, view.inset, view.autoKey, view.node, view.picking, view.keys]).toEqual([
      '',
      '',
      '',
      false,
      '',
      null,
      null,
    ])
  })

  it('lets go of what somebody else removes', async () => {
    const { scene, view } = await open()
    const server = new FakeServer()
    server.install()
    await scene.load('scene')
    view.lookThrough('b')
    view.unlocked = 'b'
    scene.run('shotRemove', { ids: ['s2'], close: true })
    scene.run('remove', { collection: 'nodes', ids: ['b'] })
    await nextTick()
    expect([view.through, view.unlocked]).toEqual(['', ''])
  })
})
