import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { Output } from '@/api/client'
import { FakeServer } from '@/testing/server'
import { useDeliveries } from './deliveries'
import { useScene } from './scene'

let server: FakeServer
let scene: ReturnType<typeof useScene>
let deliveries: ReturnType<typeof useDeliveries>
const output = (change: Partial<Output>): Output => ({
  id: 'o1',
  shot: 's1',
  number: '010',
  camera: 1,
  cameraName: 'A',
  version: 1,
  file: 'x/y.mp4',
  state: 'waiting',
  frames: 48,
  framesDone: 0,
  ...change,
})

beforeEach(async () => {
  setActivePinia(createPinia())
  server = new FakeServer()
  server.install()
  server.deliveries = [{ id: 'd1', outputs: [output({}), output({ id: 'o2' })] }]
  scene = useScene()
  await scene.load('scene')
  deliveries = useDeliveries()
  await vi.waitFor(() => expect(deliveries.list).toHaveLength(1))
})
afterEach(() => vi.unstubAllGlobals())

it('follows the progress of an output', () => {
  server.socket().say({ kind: 'delivery', delivery: 'd1', output: output({ state: 'rendering', framesDone: 12 }) })
  expect(deliveries.list[0]!.outputs[0]!.framesDone).toBe(12)
  expect(deliveries.list[0]!.outputs[1]!.framesDone).toBe(0)
  expect(deliveries.pictures.o1).toBe(1)
})

it('asks for the list when it hears of a delivery that it does not know', async () => {
  server.deliveries = [{ id: 'd2', outputs: [] }, ...server.deliveries]
  server.socket().say({ kind: 'delivery', delivery: 'd2', output: output({}) })
  await vi.waitFor(() => expect(deliveries.list).toHaveLength(2))
})

it('delivers what has been saved', async () => {
  scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
  await deliveries.deliver('cut', 'rough', 'wide', ['s1'])
  expect(server.posts).toHaveLength(1)
  expect(deliveries.list[0]).toMatchObject({ assembly: 'cut', quality: 'rough', shots: ['s1'], revision: 1 })
})

it('says when the list cannot be had', async () => {
  server.away = true
  await deliveries.load()
  expect(deliveries.failure).toContain('does not answer')
})

it('shows nothing of the scene before, also when its answer comes late', async () => {
  server.other = new FakeServer()
  const late = deliveries.load()
  const opening = scene.load('other')
  expect(deliveries.list).toHaveLength(0)
  await Promise.all([late, opening])
  expect(deliveries.list).toHaveLength(0)
  expect(deliveries.loading).toBe(false)
})
