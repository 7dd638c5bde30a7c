// The two clocks and what runs them. On the desks of the action the story
// clock leads and the cut follows; on the desks of the cut the other way round.
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { core, type Air } from '@/core/bridge'
import { useScene } from './scene'
import { useView } from './view'

export type ClockName = 'story' | 'screen'
export interface Range {
  in: number
  out: number
}
/** A take while it is recorded: screen frames, and the cameras put on air. */
interface Take {
  in: number
  out: number
  storyIn: number
  opening: string // the camera that is on air there before
  switches: { at: number; camera: string }[]
}
/** Seconds that go on by themselves: the machine's clock, or the sound's while it is heard. */
export type TimeSource = () => number
const machine: TimeSource = () => performance.now() / 1000

export const usePlayhead = defineStore('playhead', () => {
  const scene = useScene()
  const view = useView()
  const story = ref(0)
  const screen = ref(0)
  const speed = ref(0) // times the normal rate; 0 stands still
  const air = shallowRef<Air>({ playing: [] })
  const clock = computed<ClockName>(() => (view.desk === 'splice' || view.desk === 'turnover' ? 'screen' : 'story'))
  const playing = computed(() => speed.value !== 0)
  const onAir = computed(() => air.value.playing)
  const airCamera = computed(() => onAir.value[0]?.camera ?? '')
  const airShot = computed(() => onAir.value[0]?.shot ?? '')
  const frame = computed(() => (clock.value === 'story' ? story.value : screen.value))
  /** Nothing is cut yet: on the screen clock the action runs through the camera that was looked through last. */
  const uncut = computed(() => !scene.cut.shots.length)
  const whole = computed<Range>(() => {
    const { story } = scene.doc.settings
    if (clock.value === 'story') return story
    return { in: 0, out: Math.max(1, uncut.value ? story.out - story.in : scene.cutLength) }
  })
  /** The ranges set on the clocks. */
  const marked = reactive<Record<ClockName, Range | null>>({ story: null, screen: null })
  const loop = ref(false)
  /** What plays: the range that is set when it loops, or everything. */
  const range = computed<Range>(() => (loop.value && marked[clock.value]) || whole.value)

  const armed = ref(false) // the next playing is recorded as a take
  const preroll = ref(24) // frames played before a take
  const pace = ref(1) // the speed of playing
  const take = shallowRef<Take | null>(null)
  /** Whether the take is being recorded now, and not only led up to. */
  const taking = computed(() => !!take.value && screen.value >= take.value.in)

  /** Takes over what is on air, if it is something else than before. */
  function show(next: Air) {
    if (JSON.stringify(next) !== JSON.stringify(air.value)) air.value = next
  }
  function setScreen(at: number) {
    screen.value = Math.max(0, at)
    if (uncut.value && !taking.value) {
      story.value = scene.doc.settings.story.in + screen.value
      const camera = scene.doc.nodes[view.lastThrough] ? view.lastThrough : (scene.wall[0]?.id ?? '')
      return show({ playing: camera ? [{ shot: '', camera, story: story.value, weight: 1 }] : [] })
    }
    show(taking.value ? liveAir(screen.value) : core.onAir(screen.value))
    const first = onAir.value[0]
    if (first) story.value = first.story
    else if (taking.value) story.value = take.value!.storyIn + screen.value - take.value!.in
  }
  function setStory(at: number) {
    story.value = at
    const found = core.screenAt(at, screen.value)
    if (found >= 0) screen.value = found
    show(found >= 0 ? core.onAir(found) : { playing: [] })
  }
  const set = (at: number) => (clock.value === 'story' ? setStory(at) : setScreen(at))
  /** Moves by whole frames and stops. */
  function step(by: number) {
    if (playing.value) stop()
    set(Math.max(clock.value === 'screen' ? 0 : -1e6, Math.round(frame.value) + by))
  }
  function toggle() {
    if (speed.value) return stop()
    if (armed.value && clock.value === 'screen') beginTake()
    else if (frame.value >= range.value.out - 1 || frame.value < range.value.in) set(range.value.in)
    run(pace.value)
  }
  /** Plays at a speed; 0 stops. */
  function go(s: number) {
    if (s) run(s)
    else stop()
  }
  function stop() {
    speed.value = 0
    if (take.value) endTake()
    set(Math.round(frame.value))
  }
  /** Faster in a direction with each press, or back to normal from the other. */
  function shuttle(direction: 1 | -1) {
    if (take.value) return
    const s = speed.value
    run(Math.sign(s) === direction ? Math.max(-8, Math.min(8, s * 2)) : direction)
  }
  /** Sets an end of the range at the playhead, and the other where it would be empty. */
  function mark(edge: 'in' | 'out') {
    const at = Math.round(frame.value)
    const now = marked[clock.value] ?? { in: whole.value.in, out: whole.value.out }
    const next = edge === 'in' ? { in: at, out: now.out } : { in: now.in, out: at + 1 }
    if (next.out <= next.in) {
      if (edge === 'in') next.out = Math.max(at + 1, whole.value.out)
      else next.in = Math.min(at, whole.value.in)
    }
    marked[clock.value] = next
  }

  /** Puts a camera on air: in a take from this frame on, else in the cut. */
  function putOnAir(camera: string) {
    const t = take.value
    if (t) {
      t.switches.push({ at: Math.max(t.in, Math.floor(screen.value)), camera })
      setScreen(screen.value)
    } else if (uncut.value || airCamera.value !== camera) {
      const before = uncut.value ? airCamera.value : ''
      scene.run('cutTo', { assembly: scene.cut.assembly, at: Math.round(screen.value), camera, before })
    }
  }
  function beginTake() {
    const at = marked.screen?.in ?? Math.round(screen.value)
    const here = core.onAir(at).playing[0]
    const before = here ? undefined : core.onAir(at - 1).playing[0]
    take.value = {
      in: at,
      out: marked.screen?.out ?? Infinity,
      storyIn: here?.story ?? (before ? before.story + 1 : scene.doc.settings.story.in),
      opening: here?.camera ?? (uncut.value ? airCamera.value : ''),
      switches: [],
    }
    setScreen(Math.max(0, at - preroll.value))
  }
  function endTake() {
    const t = take.value!
    const out = Math.min(t.out, Math.round(screen.value))
    take.value = null
    armed.value = false
    if (out <= t.in) return
    const { in: at, storyIn, opening, switches } = t
    scene.run('takeRecord', { assembly: scene.cut.assembly, in: at, out, storyIn, opening, switches })
  }
  function liveAir(at: number): Air {
    const t = take.value!
    const camera = t.switches.at(-1)?.camera || t.opening
    return camera ? { playing: [{ shot: '', camera, story: t.storyIn + at - t.in, weight: 1 }] } : { playing: [] }
  }

  // Playing reads its place off a clock and never adds up steps, so it does not
  // drift. When sound is heard the clock is the sound's.
  let source: TimeSource = machine
  let startTime = 0
  let startFrame = 0
  /** Counts beginnings: whenever playing starts, jumps or changes its speed. */
  const begun = ref(0)
  function begin() {
    startTime = source()
    startFrame = frame.value
    begun.value++
  }
  /** The exact frame that the clock says. */
  const reads = () => startFrame + (source() - startTime) * scene.rate * speed.value
  const exact = () => (speed.value ? reads() : frame.value)
  /** Changes the clock while playing goes on from where it is. */
  function follow(clock: TimeSource | null) {
    const now = exact()
    source = clock ?? machine
    startTime = source()
    startFrame = now
  }
  function run(s: number) {
    const started = speed.value === 0
    if (!started) startFrame = reads()
    speed.value = s
    begin()
    if (started) requestAnimationFrame(tick)
  }
  function tick() {
    if (!speed.value) return
    let now = reads()
    const t = take.value
    const { in: a, out: b } = t ? { in: 0, out: t.out } : range.value
    if (t && now >= b) {
      setScreen(b)
      return stop()
    }
    if (now >= b || now < a) {
      now = now >= b ? a : b - 1
      set(now)
      begin()
    }
    const at = Math.floor(now + 1e-6)
    if (at !== frame.value) set(at)
    requestAnimationFrame(tick)
  }

  // What is on air may change under a playhead that stands still.
  watch(
    () => scene.changes,
    () => {
      if (!scene.loaded) return
      if (clock.value === 'screen') setScreen(screen.value)
      else setStory(story.value)
    },
  )
  watch(
    () => scene.id,
    () => {
      speed.value = story.value = screen.value = 0
      marked.story = marked.screen = take.value = null
    },
  )
  watch(clock, () => {
    if (speed.value) stop()
    if (scene.loaded) set(Math.round(frame.value))
  })

  return {
    story,
    screen,
    speed,
    playing,
    air,
    onAir,
    airCamera,
    airShot,
    clock,
    frame,
    range,
    whole,
    marked,
    loop,
    mark,
    armed,
    preroll,
    pace,
    take,
    taking,
    putOnAir,
    begun,
    exact,
    follow,
    set,
    setStory,
    setScreen,
    step,
    toggle,
    go,
    stop,
    shuttle,
  }
})
