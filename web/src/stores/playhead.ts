// The two clocks and what runs them. On the desks of the action the story
// clock leads and the cut follows; on the desks of the cut the other way round.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { core, type Playing } from '@/core/bridge'
import { useScene } from './scene'
import { useView } from './view'

export const usePlayhead = defineStore('playhead', () => {
  const scene = useScene()
  const view = useView()
  const story = ref(0)
  const screen = ref(0)
  const speed = ref(0) // times the normal rate; 0 stands still
  const onAir = shallowRef<Playing[]>([])
  const clock = computed<'story' | 'screen'>(() =>
    view.desk === 'splice' || view.desk === 'turnover' ? 'screen' : 'story',
  )
  const playing = computed(() => speed.value !== 0)
  const airCamera = computed(() => onAir.value[0]?.camera ?? '')
  const airShot = computed(() => onAir.value[0]?.shot ?? '')
  const frame = computed(() => (clock.value === 'story' ? story.value : screen.value))
  const range = computed(() =>
    clock.value === 'story' ? scene.doc.settings.story : { in: 0, out: Math.max(1, scene.cut.length) },
  )

  function setScreen(at: number) {
    screen.value = Math.max(0, at)
    onAir.value = core.onAir(screen.value)
    const first = onAir.value[0]
    if (first) story.value = first.story
  }
  function setStory(at: number) {
    story.value = at
    const found = core.screenAt(at, screen.value)
    if (found >= 0) screen.value = found
    onAir.value = found >= 0 ? core.onAir(found) : []
  }
  const set = (at: number) => (clock.value === 'story' ? setStory(at) : setScreen(at))
  /** Moves by whole frames and stops. */
  function step(by: number) {
    speed.value = 0
    set(Math.max(clock.value === 'screen' ? 0 : -1e6, Math.round(frame.value) + by))
  }
  function toggle() {
    if (speed.value) stop()
    else {
      if (frame.value >= range.value.out - 1) set(range.value.in)
      run(1)
    }
  }
  function stop() {
    speed.value = 0
    set(Math.round(frame.value))
  }
  /** Faster in a direction with each press, or back to normal from the other. */
  function shuttle(direction: 1 | -1) {
    const s = speed.value
    run(Math.sign(s) === direction ? Math.max(-8, Math.min(8, s * 2)) : direction)
  }

  let last = 0
  let exact = 0
  function run(s: number) {
    const started = speed.value === 0
    speed.value = s
    if (!started) return
    last = performance.now()
    exact = frame.value
    requestAnimationFrame(tick)
  }
  function tick(now: number) {
    if (!speed.value) return
    exact += ((now - last) / 1000) * scene.rate * speed.value
    last = now
    const { in: a, out: b } = range.value
    if (exact >= b) exact = a
    else if (exact < a) exact = b - 1
    const whole = Math.floor(exact)
    if (whole !== frame.value) set(whole)
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
  watch(clock, () => {
    if (scene.loaded) set(Math.round(frame.value))
  })

  return {
    story,
    screen,
    speed,
    playing,
    onAir,
    airCamera,
    airShot,
    clock,
    frame,
    range,
    set,
    setStory,
    setScreen,
    step,
    toggle,
    stop,
    shuttle,
  }
})
