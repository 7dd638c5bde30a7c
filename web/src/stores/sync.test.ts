// The browser's real queue, line and core against a server that others use too,
// over a network that loses, breaks and repeats: in the end both have the same.
import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { ElMessage } from 'element-plus'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { core } from '@/core/bridge'
import { FakeServer, same } from '@/testing/server'
import { leftIn } from './keeping'
import { useScene } from './scene'

beforeEach(() => {
  localStorage.clear()
  vi.useFakeTimers({ shouldAdvanceTime: true, toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval'] })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
  ElMessage.closeAll()
})

/** Numbers from 0 to below n, the same for the same seed. */
function dice(seed: number) {
  let s = seed * 2654435761 + 1
  return (n: number) => {
    s = (Math.imul(s ^ (s >>> 15), 0x2c1b3c6d) + 0x9e3779b9) | 0
    return Math.abs(s >> 3) % n
  }
}

const runs = Number(process.env.RUNS ?? 40)

it(`keeps together with the server, ${runs} times`, async () => {
  let made = 0
  let refused = 0
  let lost = 0
  for (let seed = 1; seed <= runs; seed++) {
    const roll = dice(seed)
    sessionStorage.clear()
    setActivePinia(createPinia())
    const server = new FakeServer()
    server.install()
    const id = `model-${seed}` // each has its own in the browser's database
    let scene = useScene()
    await scene.load(id)
    const settle = () => vi.advanceTimersByTimeAsync(30)
    for (let step = 0; step < 30; step++) {
      switch (roll(13)) {
        case 0:
        case 1:
          scene.run('shotTrim', { id: `s${1 + roll(3)}`, edge: 'out', by: roll(9) - 4, ripple: true })
          break
        case 2:
          scene.run('markerAdd', { clock: 'story', frame: roll(200) })
          break
        case 3:
          scene.run('place', {
            id: ['a', 'box'][roll(2)]!,
            frame: roll(90),
            position: [roll(9), 1, 2],
            key: roll(2) > 0,
          })
          break
        case 4:
          scene.run('cutTo', { assembly: 'cut', at: roll(140), camera: ['a', 'b'][roll(2)]! })
          break
        case 5:
          if (roll(2)) scene.undo()
          else scene.redo()
          break
        case 6: // somebody else, heard of or not
          server.elsewhere('shots', `s${1 + roll(3)}`, (s) => (s.notes = `note ${roll(1000)}`), roll(3) > 0)
          break
        case 7:
          server.elsewhere(
            'nodes',
            ['a', 'box'][roll(2)]!,
            (n) => {
              if (roll(2)) n.locked = true
              else delete n.locked
            },
            roll(3) > 0,
          )
          break
        case 8:
          server.deaf = true
          break
        case 9:
          server.away = roll(2) > 0
          break
        case 10:
          server.socket().onclose?.()
          break
        case 11:
          scene.preview('shotMove', { ids: ['s3'], by: roll(40) })
          if (roll(2)) scene.cancel()
          break
        case 12: // the tab crashes and is opened again
          server.away = false
          await settle()
          await scene.leave()
          setActivePinia(createPinia())
          scene = useScene()
          await scene.load(id)
      }
      if (roll(2)) await settle()
      lost += scene.lost.length
    }
    scene.cancel()
    server.away = server.deaf = false
    await vi.advanceTimersByTimeAsync(6000)
    server.socket().say({ kind: 'hello', revision: server.revision, people: [] })
    await vi.advanceTimersByTimeAsync(200)
    await scene.flushed()
    await vi.waitFor(() => expect(scene.revision, `seed ${seed}`).toBe(server.revision))
    const [mine, theirs] = [core.document(), server.document]
    for (const [collection, entities] of Object.entries(theirs))
      expect(
        same((mine as unknown as Record<string, unknown>)[collection] ?? {}, entities),
        `seed ${seed}: ${collection}`,
      ).toBe(true)
    const ids = server.edits.map((e) => e.id)
    expect(new Set(ids).size, `seed ${seed}: nothing is there twice`).toBe(ids.length)
    made += server.posts.length
    refused += server.asked - server.posts.length
    scene.leave()
    await vi.waitFor(async () => expect(await leftIn(id, ''), `seed ${seed}: nothing waits for ever`).toEqual([]))
  }
  console.log(`${runs} runs: ${made} edits stored, ${refused} posts refused or repeated, ${lost} set aside`)
  expect(made).toBeGreaterThan(runs)
  expect(refused).toBeGreaterThan(0)
}, 120_000)
