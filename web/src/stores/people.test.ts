import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { FakeSocket } from '@/testing/server'
import { opened } from '@/testing/opened'
import { usePeople } from './people'
import { usePerson } from './person'

let stores: Awaited<ReturnType<typeof opened>>
let people: ReturnType<typeof usePeople>
const line = () => FakeSocket.all.at(-1)!
const mara = (more: object = {}) => ({ tab: 'm', person: 'pm', name: 'Mara', color: '#6fc3df', ...more })
const here = (more: object = {}) => line().say({ kind: 'here', here: mara(more) })
const place = (x: number) => ({
  operation: 'place',
  arguments: { id: 'box', frame: 0, position: [x, 0, 0] as Vec3 },
})

beforeEach(async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true, toFake: ['setTimeout', 'clearTimeout', 'Date', 'performance'] })
  stores = await opened()
  people = usePeople()
  line().say({ kind: 'hello', revision: 0, people: [mara({ desk: 'frame', selection: ['nodes/a'] })] })
})
afterEach(() => {
  stores.scene.leave()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('the others who are here', () => {
  it('come, go, and mark what they have selected', () => {
    expect(people.others.map((p) => p.name)).toEqual(['Mara'])
    expect(people.marks.get('nodes/a')).toEqual([{ tab: 'm', name: 'Mara', color: '#6fc3df' }])
    here({ desk: 'splice', clock: 'screen', screen: 312, through: 'b', selection: ['shots/s1'] })
    expect([...people.marks.keys()].sort()).toEqual(['nodes/b', 'shots/s1'])
    expect(people.doing(people.others[0]!)).toBe('Mara · Splice · ▷ 312')
    line().say({ kind: 'gone', tab: 'm' })
    expect(people.others).toHaveLength(0)
  })

  it('are seen while they drag; what they let go of waits for their edit', async () => {
    const x = () => stores.scene.doc.nodes.box!.position[0]
    here({ drag: place(4) })
    here({ drag: place(5) })
    expect(x()).toBe(5)
    here()
    expect(x(), 'not back and forth').toBe(5)
    await vi.advanceTimersByTimeAsync(500)
    expect(x(), 'no edit has come').toBe(0)
    here({ drag: place(7) })
    line().say({ kind: 'gone', tab: 'm' })
    expect(x(), 'who has gone drags nothing').toBe(0)
    expect(stores.scene.undoable).toHaveLength(0)
  })

  it('hear of desk, selection and drags here, and of a name that is chosen', async () => {
    const person = usePerson()
    const said = () => line().said.at(-1)!
    expect(said()).toMatchObject({ tab: person.tab, name: person.name, desk: 'dress' })
    person.name = 'Ida'
    stores.view.select('nodes', 'box')
    await nextTick()
    await vi.advanceTimersByTimeAsync(400)
    expect(said()).toMatchObject({ name: 'Ida', selection: ['nodes/box'] })
    stores.scene.preview('place', place(3).arguments)
    await nextTick()
    await vi.advanceTimersByTimeAsync(100)
    expect(said().drag).toEqual(place(3))
    stores.scene.cancel()
    await nextTick()
    await vi.advanceTimersByTimeAsync(100)
    expect(said().drag).toBeUndefined()
  })

  it('are followed to their desk, frame and camera until something is done here', () => {
    here({ desk: 'splice', clock: 'screen', screen: 60, through: 'b' })
    people.follow('m')
    expect(people.leader?.name).toBe('Mara')
    expect(people.wanted).toBe('splice')
    expect(stores.head.screen).toBe(60)
    expect(stores.view.through).toBe('b')
    here({ desk: 'splice', clock: 'screen', screen: 90 })
    expect(stores.head.screen).toBe(90)
    expect(stores.view.through).toBe('')
    people.ownWay()
    here({ desk: 'splice', clock: 'screen', screen: 20 })
    expect(stores.head.screen).toBe(90)
    people.follow('m')
    people.follow('m')
    expect(people.followed).toBe('')
  })

  it('have another colour than this browser, which may choose one', () => {
    const person = usePerson()
    const mine = person.color
    line().say({ kind: 'hello', revision: 0, people: [mara({ color: mine })] })
    expect(person.color).not.toBe(mine)
    person.name = 'Ida'
    const chosen = person.color
    line().say({ kind: 'hello', revision: 0, people: [mara({ color: chosen })] })
    expect(person.color).toBe(chosen)
  })
})
