// Working in alternates: what is seen, what is listed, and what is chosen with what.
import { beforeEach, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { core, type Told } from '@/core/bridge'
import { opened } from '@/testing/opened'
import { fieldName, fieldValue } from '@/ui/fields'
import { useAlternates } from './alternates'
import type { useScene } from './scene'

let scene: ReturnType<typeof useScene>
let alternates: ReturnType<typeof useAlternates>

beforeEach(async () => {
  ;({ scene } = await opened())
  alternates = useAlternates()
  await nextTick()
})

function make(name: string, more: object = {}): string {
  const [id] = scene.make('alternates', 'alternateAdd', { name, ...more })
  return id!
}
const rename = (id: string, name: string) =>
  scene.run('set', { collection: 'nodes', id, merge: { name }, label: 'rename' })

it('keeps what is changed in an alternate there alone, and flips at one key', async () => {
  const night = make('night')
  alternates.workIn(night)
  const before = scene.changes
  expect(rename('box', 'Dark box')).toBe(true)
  await nextTick()
  expect(scene.doc.nodes.box!.name).toBe('Dark box')
  expect(scene.changes).toBeGreaterThan(before)
  expect(alternates.differ).toEqual({ 'nodes/box': ['name'] })
  expect(alternates.here).toMatchObject({ name: 'night', count: 1 })
  alternates.flip()
  await nextTick()
  expect(scene.doc.nodes.box!.name).toBe('Box')
  expect(alternates.differ).toEqual({})
  rename('box', 'Crate') // the scene moves on
  alternates.flip()
  await nextTick()
  expect(scene.doc.nodes.box!.name).toBe('Dark box')
  const [d] = core.differing(night) as Told[]
  expect(d).toMatchObject({
    what: 'changed',
    fields: [{ name: 'name', before: 'Crate', after: 'Dark box', moved: true }],
  })
  scene.run('differencesBack', { ids: [d!.id] })
  expect(scene.doc.nodes.box!.name).toBe('Crate')
  scene.undo()
  expect(scene.doc.nodes.box!.name).toBe('Dark box')
})

it('chooses what is bound together, and leaves it together', async () => {
  const tall = make('tall', { format: 'tall' })
  expect(tall).toBeUndefined() // the small scene has no such format
  scene.run('formatPut', { id: 'high', name: 'high', width: 720, height: 1280 })
  const high = make('high', { format: 'high', known: 'upright' })
  await nextTick()
  expect(alternates.follow('format', 'high')).toBe(true)
  expect(scene.alternate).toBe(high)
  expect(alternates.follow('format', 'wide')).toBe(true)
  expect(scene.alternate).toBe('')
  expect(scene.doc.settings.format).toBe('wide')
})

it('chooses the assembly that one is bound to, and the other way round', async () => {
  const [first] = Object.keys(scene.doc.assemblies)
  const [other] = scene.make('assemblies', 'assemblyAdd', { name: 'other' })
  const rain = make('rain', { assembly: other })
  await nextTick()
  alternates.choose(other!)
  expect([scene.alternate, scene.cut.assembly]).toEqual([rain, other])
  alternates.choose(first!)
  expect([scene.alternate, scene.cut.assembly]).toEqual(['', first])
  alternates.workIn(rain)
  expect(scene.cut.assembly).toBe(other)
})

it('goes back to the scene when the alternate is gone', async () => {
  const night = make('night')
  const rain = make('rain', { parent: night })
  await nextTick()
  expect(alternates.all.map((a) => [a.name, a.depth])).toEqual([
    ['night', 0],
    ['rain', 1],
  ])
  alternates.workIn(rain)
  rename('box', 'Wet box')
  scene.run('alternateRemove', { id: rain })
  await nextTick()
  expect(scene.alternate).toBe('')
  expect(scene.doc.nodes.box!.name).toBe('Box')
  expect(scene.workIn(rain)).toBe(false)
})

it('calls fields and values by words', () => {
  expect(['camera.focal', 'piece.params.width', 'screenIn'].map(fieldName)).toEqual([
    'lens',
    'piece params width',
    'beginning',
  ])
  expect([null, true, 1.23456, [1, 2, 3], [1, 2, 3, 4], { focal: 2 }, 'x'.repeat(50)].map(fieldValue)).toEqual([
    '—',
    'yes',
    '1.235',
    '1, 2, 3',
    '4 entries',
    'focal',
    `${'x'.repeat(39)}…`,
  ])
})
