import { expect, it } from 'vitest'
import { find, type Findable } from './finding'

const of = (kind: string, name: string, also?: string): Findable => ({ id: name, kind, name, also, go: () => {} })
const all = [
  of('camera', 'Low step-out', 'camera 4'),
  of('camera', 'Over Ida to Tomas', 'camera 5'),
  of('cast', 'Ida'),
  of('cast', 'Tomas'),
  of('shot', 'Over Ida', '050'),
  of('shot', 'Tomas steps out', '040'),
  of('marker', 'Tomas steps out'),
  of('command', 'split the shot at the playhead'),
  of('set', 'Platform'),
  of('set', 'Platform lamp'),
]
const names = (typed: string) => find(all, typed, 4).map((f) => `${f.kind} ${f.name}`)

it('begins with what begins so, and of those with the shortest', () => {
  expect(names('ida')[0]).toBe('cast Ida')
  expect(names('plat')).toEqual(['set Platform', 'set Platform lamp'])
  expect(names('tom')[0]).toBe('cast Tomas')
})

it('finds by number, by kind and by several words in any order', () => {
  expect(names('050')).toEqual(['shot Over Ida'])
  expect(names('camera 5')).toEqual(['camera Over Ida to Tomas'])
  expect(names('out marker')).toEqual(['marker Tomas steps out'])
  expect(names('split')).toEqual(['command split the shot at the playhead'])
})

it('takes letters that follow one another in a short name, and nothing for nothing', () => {
  expect(names('pltf')).toEqual(['set Platform'])
  expect(names('xyz')).toEqual([])
  expect(names('   ')).toEqual([])
  expect(find(all, 'o', 2)).toHaveLength(2)
})
