// What is heard: pieces of sounds, as the core says them, started on the clock
// of the sound itself. While sound is heard the playhead reads that clock, so
// picture and sound cannot drift apart.
import { useLocalStorage } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { watch } from 'vue'
import { core, type Heard } from '@/core/bridge'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { sentence } from '@/ui/sentence'

/** Seconds that are started ahead of the playhead, and how often more are. */
const ahead = 8
const every = 2000
/** Milliseconds after which a sound that could not be had is asked for again. */
const retryAfter = 10_000
/** Bytes of decoded sound that are kept: about 25 minutes in stereo. */
const mostDecoded = 512 << 20
/** Seconds heard of a frame while scrubbing. */
const blip = 0.07

export const useSound = defineStore('sound', () => {
  const scene = useScene()
  const head = usePlayhead()
  const on = useLocalStorage('proscen.sound', true)
  let context: AudioContext | undefined
  let running: { source: AudioBufferSourceNode; blob: string }[] = []
  let timer: ReturnType<typeof setInterval> | undefined
  let started = 0 // frame up to which pieces are started
  let at0 = 0 // the context's time at frame0
  let frame0 = 0
  /** Sounds that are decoded, or being decoded; the one heard last comes last. */
  const buffers = new Map<string, AudioBuffer | Promise<AudioBuffer | null>>()
  /** When a sound could not be had, so that it is not asked for all the time. */
  const failed = new Map<string, number>()

  /** The samples of a sound: at once if they are here, else later. */
  function buffer(blob: string): AudioBuffer | null {
    const now = buffers.get(blob)
    if (now instanceof Promise) return null
    if (now) {
      buffers.delete(blob)
      buffers.set(blob, now)
      return now
    }
    if (performance.now() - (failed.get(blob) ?? -retryAfter) < retryAfter) return null
    const wait = fetchBuffer(blob)
    buffers.set(blob, wait)
    void wait.then((b) => {
      if (buffers.get(blob) !== wait) return // of a scene that has been left
      buffers.delete(blob)
      if (!b) return void failed.set(blob, performance.now())
      buffers.set(blob, b)
      forget(blob)
      if (head.playing) restart() // it joins in
    })
    return null
  }
  /** Lets decoded sounds go that have not been heard for longest, but none that is being heard or has just come. */
  function forget(come: string) {
    const size = (b: unknown) =>
      b instanceof Promise ? 0 : (b as AudioBuffer).length * (b as AudioBuffer).numberOfChannels * 4
    let bytes = [...buffers.values()].reduce((n: number, b) => n + size(b), 0)
    const needed = new Set([come, ...running.map((r) => r.blob)])
    for (const [blob, b] of buffers) {
      if (bytes <= mostDecoded) return
      if (needed.has(blob) || b instanceof Promise) continue
      bytes -= size(b)
      buffers.delete(blob)
    }
  }
  watch(
    () => scene.id,
    () => {
      silence()
      buffers.clear()
      failed.clear()
    },
    { flush: 'sync' },
  )
  async function fetchBuffer(blob: string): Promise<AudioBuffer | null> {
    try {
      const r = await fetch(`/api/sounds/${blob}`)
      if (!r.ok) throw new Error('a sound is not on the server any more; add it again')
      return await context!.decodeAudioData(await r.arrayBuffer())
    } catch (e) {
      ElMessage({ message: sentence((e as Error).message), type: 'warning', grouping: true, showClose: true })
      return null
    }
  }
  const pieces = (from: number, to: number): Heard[] => core.schedule(head.clock, from, to).filter((h) => !h.muted)
  const audible = () => on.value && Object.keys(scene.doc.sounds).length > 0

  /** Starts a piece from a frame of the clock on, at a time of the context. */
  function start(h: Heard, from: number, when: number, speed: number, seconds?: number) {
    const { blob } = scene.doc.sounds[h.sound]!
    const samples = buffer(blob)
    if (!samples) return
    const source = context!.createBufferSource()
    const gain = context!.createGain()
    source.buffer = samples
    source.playbackRate.value = h.speed * speed
    const perFrame = 1 / scene.rate
    const offset = h.offset + (from - h.in) * perFrame * h.speed
    const length = seconds ?? ((h.out - from) * perFrame) / speed
    gain.gain.setValueAtTime(core.gainAt(h, from), when)
    for (const l of h.levels)
      if (l.at > from) gain.gain.linearRampToValueAtTime(l.gain, when + ((l.at - from) * perFrame) / speed)
    source.connect(gain).connect(context!.destination)
    source.start(when, Math.max(0, offset), length * h.speed * speed)
    running.push({ source, blob })
    source.onended = () => (running = running.filter((r) => r.source !== source))
  }
  function silence() {
    for (const { source } of running) {
      source.onended = null
      source.stop()
    }
    running = []
    clearInterval(timer)
  }
  /** Starts what begins before a frame and has not been started. */
  function fill() {
    const speed = head.speed
    const now = frame0 + (context!.currentTime - at0) * scene.rate * speed
    const until = now + ahead * scene.rate * speed
    for (const h of pieces(now, until)) {
      const from = Math.max(h.in, frame0)
      if (h.out <= from || from < started || from >= until) continue
      start(h, from, at0 + (from - frame0) / scene.rate / speed, speed)
    }
    started = until
  }
  function restart() {
    silence()
    if (!context || context.state !== 'running' || head.speed <= 0 || !audible()) return head.follow(null)
    const late = context.outputLatency || 0
    head.follow(() => context!.currentTime - late)
    // A moment ahead, so that nothing begins late.
    at0 = context.currentTime + 0.02
    frame0 = head.exact() + 0.02 * scene.rate * head.speed
    at0 += late
    started = frame0
    fill()
    timer = setInterval(fill, every)
  }
  async function wake(): Promise<boolean> {
    context ??= new AudioContext()
    if (context.state === 'running') return true
    // Without a gesture a browser may never let it run.
    await Promise.race([context.resume(), new Promise((r) => setTimeout(r, 400))])
    return (context.state as string) === 'running'
  }
  watch(
    [() => head.begun, () => head.playing, on, () => scene.audible],
    async ([, playing]) => {
      if (!playing) {
        silence()
        return head.follow(null)
      }
      if (!audible()) return restart()
      if (await wake()) restart()
    },
    { flush: 'post' },
  )
  // Scrubbing lets each frame be heard for a moment.
  watch(
    () => head.frame,
    (frame) => {
      if (head.playing || !audible() || context?.state !== 'running') return
      silence()
      for (const h of pieces(frame, frame + 1))
        if (frame >= h.in && frame < h.out) start(h, frame, context.currentTime, 1, blip)
    },
  )
  return { on }
})
