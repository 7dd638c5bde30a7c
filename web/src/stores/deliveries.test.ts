import type { Recipe } from '@/core/bridge'
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
  kind: 'video',
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
  const recipe: Recipe = { name: 'r', pack: 'h264', quality: 'rough' }
  await deliveries.deliver('cut', recipe, { shots: ['s1'], each: true }, false)
  expect(server.posts).toHaveLength(1)
  expect(deliveries.list[0]).toMatchObject({
    assembly: 'cut',
    recipe: { quality: 'rough' },
    order: { shots: ['s1'] },
    revision: 1,
  })
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

it('lists page by page, and knows the newest of each shot however old', async () => {
  server.deliveries = Array.from({ length: 120 }, (_, i) => ({
    id: `d${120 - i}`,
    number: 120 - i,
    outputs: i === 119 ? [output({ id: 'old', shot: 's9', state: 'done' })] : [],
  }))
  await deliveries.load()
  expect(deliveries.list).toHaveLength(50)
  expect(deliveries.more).toBe(true)
  expect(deliveries.newest.flatMap((d) => d.outputs.map((o) => o.shot))).toEqual(['s9'])
  await deliveries.earlier()
  await deliveries.load()
  expect(deliveries.list.map((d) => d.number)).toEqual(Array.from({ length: 100 }, (_, i) => 120 - i))
  await deliveries.earlier()
  expect(deliveries.list).toHaveLength(120)
  expect(deliveries.more).toBe(false)
})

it('tells how far a sheet is, and why there is none', async () => {
  const told: string[] = []
  const made = deliveries.sheet('cut', 'list', (done, all) => told.push(`${done}/${all}`))
  await vi.waitFor(() => expect(told).toEqual(['0/3']))
  Object.assign((server.deliveries[0] as { outputs: Output[] }).outputs[0]!, { state: 'done', framesDone: 3 })
  expect((await made).file).toBe('x/list.pdf')
  expect(told.at(-1)).toBe('3/3')
  const failing = deliveries.sheet('cut', 'list', () => {})
  await vi.waitFor(() => expect(server.deliveries).toHaveLength(3))
  Object.assign((server.deliveries[0] as { outputs: Output[] }).outputs[0]!, { state: 'failed', error: 'No room.' })
  await expect(failing).rejects.toThrow('No room.')
})
