import 'fake-indexeddb/auto'
import { nextTick } from 'vue'
import { afterEach, expect, it, vi } from 'vitest'
import { opened } from '@/testing/opened'
import { useSound } from './sound'

/** Decodes everything to 200 MiB. */
class BigContext {
  static heard: unknown[] = []
  state = 'running'
  destination = {}
  currentTime = 0
  async resume() {}
  async decodeAudioData(bytes: ArrayBuffer) {
    return { length: 50 << 20, numberOfChannels: 1, of: new Uint8Array(bytes)[0] }
  }
  createGain() {
    return { gain: { setValueAtTime() {}, linearRampToValueAtTime() {} }, connect: (to: unknown) => to }
  }
  createBufferSource() {
    const source = {
      buffer: null as { of: number } | null,
      playbackRate: { value: 1 },
      connect: (to: unknown) => to,
      start: () => BigContext.heard.push(source.buffer!.of),
      stop() {},
    }
    return source
  }
}

afterEach(() => vi.unstubAllGlobals())

it('decoded sound is let go of when there is too much of it, and with its scene', async () => {
  vi.stubGlobal('AudioContext', BigContext)
  const { scene, view, head } = await opened()
  const asked: string[] = []
  const on = globalThis.fetch
  vi.stubGlobal('fetch', async (input: Request | string) => {
    if (typeof input !== 'string' || !input.startsWith('/api/sounds/')) return on(input as Request)
    const blob = input.slice('/api/sounds/'.length)
    asked.push(blob.charAt(0))
    return new Response(new Uint8Array([parseInt(blob.charAt(0), 16)]))
  })
  const add = () => {
    scene.run('trackAdd', { id: 't', clock: 'screen', assembly: 'cut', name: 't', gain: 0 })
    for (const [i, c] of ['a', 'b', 'c', 'd', 'e'].entries())
      scene.run('soundAdd', {
        id: c,
        track: 't',
        name: c,
        blob: c.repeat(64),
        seconds: 1,
        in: [0, 24, 48, 480, 504][i]!,
      })
  }
  add()
  useSound()
  const scrub = async (frame: number) => {
    BigContext.heard = []
    head.setScreen(frame)
    await new Promise((r) => setTimeout(r, 20)) // asked for and decoded
    head.setScreen(frame + 1)
    await new Promise((r) => setTimeout(r, 20))
    return BigContext.heard.at(-1)
  }
  view.desk = 'splice'
  await nextTick()
  head.toggle() // lets sound run
  await new Promise((r) => setTimeout(r, 40))
  expect(asked.join(''), 'what is heard at once is kept, however much it is').toBe('abc')
  head.stop()
  asked.length = 0
  expect(await scrub(484)).toBe(13)
  expect(await scrub(50)).toBe(12)
  expect(asked.join(''), 'what was heard last is still there').toBe('d')
  expect(await scrub(508)).toBe(14)
  expect(await scrub(52)).toBe(12)
  expect(asked.join('')).toBe('de')
  expect(await scrub(486), 'what was not heard for longest had to go').toBe(13)
  expect(asked.join('')).toBe('ded')
  await scene.load('scene')
  expect(await scrub(488)).toBe(13)
  expect(asked.join(''), 'a scene that is left leaves nothing').toBe('dedd')
  await scene.flushed()
  scene.leave()
})
