// Pictures side by side: what each shows, which leads, and how they stay in step.
import { beforeEach, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { core } from '@/core/bridge'
import { opened } from '@/testing/opened'
import { useAlternates } from './alternates'
import { useComparing } from './comparing'
import type { usePlayhead } from './playhead'
import type { useScene } from './scene'
import type { useView } from './view'

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
let head: ReturnType<typeof usePlayhead>
let alternates: ReturnType<typeof useAlternates>
let comparing: ReturnType<typeof useComparing>

beforeEach(async () => {
  ;({ scene, view, head } = await opened())
  alternates = useAlternates()
  comparing = useComparing()
  view.desk = 'splice'
  await nextTick()
})
const make = (name: string) => scene.make('alternates', 'alternateAdd', { name })[0]!
const first = (i: number) => {
  const { screen, playing } = comparing.airOf(comparing.sides[i]!)
  return [screen, playing[0]?.shot ?? '', playing[0]?.story ?? -1]
}

it('offers alternates, then assemblies, then cameras, and remembers what was chosen', async () => {
  const night = make('night')
  await nextTick()
  comparing.keep({ layout: 4 })
  expect(comparing.sides.map((s) => [s.alternate, s.camera])).toEqual([
    ['', ''],
    [night, ''],
    ['', 'a'],
    ['', 'b'],
  ])
  comparing.show(2, { camera: 'b', format: 'wide' })
  expect(comparing.sides[2]).toMatchObject({ camera: 'b', format: 'wide' })
  const [other] = scene.make('assemblies', 'assemblyAdd', { name: 'other' })
  comparing.show(3, { assembly: other!, camera: '' })
  expect(comparing.sides[3]!.assembly).toBe(other)
  expect(scene.run('assemblyRemove', { id: other! })).toBe(true)
  expect(comparing.sides[3]!.assembly, 'what is gone is not shown').toBe('cut')
  scene.run('alternateRemove', { id: night })
  expect(comparing.sides[1]!.alternate).toBe('')
})

it('knows the scene itself where there is no alternate at all', async () => {
  expect(comparing.known).toEqual({})
  view.beside = true
  await nextTick()
  expect(comparing.known).toEqual({ '': { format: 'wide' } })
  head.setScreen(60)
  expect(first(0)).toEqual([60, 's2', 52])
  view.beside = false
  await nextTick()
  expect(comparing.known).toEqual({})
})

it('stays in step by the cut, or by the story', async () => {
  const longer = make('longer')
  alternates.workIn(longer)
  scene.run('shotTrim', { id: 's1', edge: 'out', by: 12, ripple: true })
  alternates.workIn('')
  view.beside = true
  await nextTick()
  comparing.show(1, { alternate: longer })
  await nextTick()
  expect(comparing.known[longer]).toEqual({ format: 'wide' })
  head.setScreen(50)
  expect(first(0)).toEqual([50, 's2', 42])
  expect(first(1)).toEqual([50, 's1', 50])
  comparing.keep({ step: 'story' })
  expect(first(1)).toEqual([42, 's1', 42])
  comparing.keep({ step: 'cut' })
  head.setScreen(1000)
  expect(first(0)[1]).toBe('')
  // What is asked beside leaves what is worked in.
  expect(core.document().shots.s1!.screenOut).toBe(48)
})

it('lets another one lead: it is what is worked in', async () => {
  const night = make('night')
  const [other] = scene.make('assemblies', 'assemblyAdd', { name: 'other' })
  await nextTick()
  comparing.show(1, { alternate: night, assembly: other! })
  comparing.leads(1)
  expect([scene.alternate, scene.cut.assembly]).toEqual([night, other])
  expect(comparing.sides[0]).toMatchObject({ alternate: '', assembly: 'cut' })
  comparing.show(1, { alternate: '' })
  expect(scene.alternate).toBe('')
  comparing.show(0, { alternate: night })
  expect(scene.alternate, 'the others are only looked at').toBe('')
})

it('works in one shot only, at a press, and says what is there', async () => {
  const night = make('night')
  const name = (to: string) =>
    scene.run('set', { collection: 'nodes', id: 'box', merge: { name: to }, label: 'rename' })
  alternates.inShot('s2')
  expect([scene.layer, scene.alternate, scene.onlyIn]).toEqual(['@s2', '', 's2'])
  expect(alternates.here).toMatchObject({ name: 'only in shot 020', count: 0 })
  expect(scene.run('shotTrim', { id: 's1', edge: 'out', by: 12, ripple: true }), 'the cut stays').toBe(false)
  expect(name('Crate')).toBe(true)
  await nextTick()
  expect([alternates.ofShot('s2'), alternates.ofShot('s1'), [...alternates.apart]]).toEqual([1, 0, ['s2']])
  alternates.flip()
  expect(scene.layer).toBe('')
  expect(scene.doc.nodes.box!.name).toBe('Box')
  alternates.flip()
  expect([scene.layer, scene.doc.nodes.box!.name]).toEqual(['@s2', 'Crate'])
  alternates.workIn(night)
  expect(alternates.ofShot('s2'), 'it is in the alternate, too').toBe(1)
  alternates.inShot('s2')
  expect([scene.layer, alternates.below]).toEqual([`${night}@s2`, 'all of night'])
  expect(scene.doc.nodes.box!.name).toBe('Crate')
  expect(core.beside({ alternate: '', shot: 's2' }, (layer, here) => [layer, here])).toEqual(['@s2', false])
  expect(core.beside({ alternate: night, shot: 's1' }, (layer, here) => [layer, here])).toEqual([night, false])
  // Undone, nothing of it is left.
  alternates.workIn('')
  scene.undo()
  await nextTick()
  expect(Object.keys(scene.doc.differences)).toEqual([])
  expect(alternates.ofShot('s2')).toBe(0)
})
