import { mount } from '@vue/test-utils'
import { nextTick } from 'vue'
import { afterEach, expect, it, vi } from 'vitest'
import type { Vec3 } from '@/core/bridge'
import { opened } from '@/testing/opened'
import { FakeSocket } from '@/testing/server'
import { draw } from '@/testing/stage'
import { usePeople } from '@/stores/people'
import TheirMarks from './TheirMarks.vue'

vi.mock('@/view3d/stage', async () => {
  const { stage } = await import('@/testing/stage')
  return { useStage: () => stage }
})
afterEach(() => vi.unstubAllGlobals())

it('others are seen in a view by what they have selected, where it is, while it is in sight', async () => {
  const { scene } = await opened()
  usePeople()
  const line = () => FakeSocket.all.at(-1)!
  line().say({ kind: 'hello', revision: 0, people: [] })
  let inSight = true
  const w = mount(TheirMarks, { props: { place: (at: Vec3) => (inSight ? { x: at[0] * 10, y: at[2] * 10 } : null) } })
  const drawn = async () => {
    draw()
    await nextTick()
    return w
      .findAll('.theirs')
      .map((g) => `${g.attributes('aria-label')} ${g.attributes('transform')} ${g.get('circle').attributes('stroke')}`)
  }
  expect(await drawn()).toEqual([])
  const person = (tab: string, name: string, color: string, more: object) =>
    line().say({ kind: 'here', here: { tab, person: tab, name, color, ...more } })
  scene.run('place', { id: 'box', frame: 0, position: [3, 0, 4] })
  person('m', 'Mara', '#6fc3df', { selection: ['nodes/box', 'shots/s1', 'nodes/gone'] })
  expect(await drawn()).toEqual(['Mara is here translate(30.0 40.0) #6fc3df'])
  person('t', 'Tomas', '#e2b45a', { selection: ['nodes/box'] })
  expect(await drawn()).toHaveLength(2)
  const radii = w.findAll('circle').map((c) => c.attributes('r'))
  expect(new Set(radii).size, 'one around the other').toBe(2)
  inSight = false
  expect(await drawn()).toEqual([])
  inSight = true
  line().say({ kind: 'gone', tab: 'm' })
  expect(await drawn()).toEqual(['Tomas is here translate(30.0 40.0) #e2b45a'])
  w.unmount()
  scene.leave()
})
