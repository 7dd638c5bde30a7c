// Which stretch of a clock the strip shows, and where frames are on it.
import { useElementSize } from '@vueuse/core'
import { computed, watch, type Ref } from 'vue'
import { useCutting } from '@/stores/cutting'
import { usePlayhead, type ClockName } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { keptSpans } from './scale'

export const labels = 92 // px for row names

export function useSpan(field: Ref<HTMLElement | null>) {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const cutting = useCutting()
  const { width } = useElementSize(field)
  /** The clock that the strip shows: on the desks of the cut the story's too, on demand. */
  const clock = computed<ClockName>(() => (view.desk === 'splice' && cutting.storyLayout ? 'story' : head.clock))
  const now = computed(() => (clock.value === 'story' ? head.story : head.screen))
  const set = (at: number) => (clock.value === 'story' ? head.setStory(at) : head.setScreen(at))
  /** All of the clock that the strip shows. */
  const whole = computed(() => (clock.value === head.clock ? head.whole : scene.doc.settings.story))

  watch(
    () => scene.id,
    (now) => {
      if (keptSpans.scene !== now) Object.assign(keptSpans, { scene: now, story: null, screen: null })
    },
    { immediate: true },
  )
  const span = computed(() => {
    const kept = keptSpans[clock.value]
    if (kept) return kept
    const r = whole.value
    const room = Math.max(24, (r.out - r.in) * 0.03)
    return { from: r.in - room * 0.4, to: r.out + room }
  })
  const perPixel = computed(() => (span.value.to - span.value.from) / Math.max(1, width.value - labels))
  const x = (frame: number) => (frame - span.value.from) / perPixel.value
  const frameAt = (clientX: number) => {
    const b = field.value!.getBoundingClientRect()
    return span.value.from + (clientX - b.x - labels) * perPixel.value
  }
  /** Shows a stretch so many times as long, about a frame: the playhead's, where it is in sight. */
  function zoom(k: number, about?: number) {
    const { from, to } = span.value
    const at = about ?? (now.value >= from && now.value <= to ? now.value : (from + to) / 2)
    const length = Math.max(12, Math.min(4e6, (to - from) * k))
    const f = (at - from) / (to - from)
    show(at - f * length, at + (1 - f) * length)
  }
  /** What is chosen on this clock: shots, or the range that is set. */
  const picked = computed(() => {
    const shots = clock.value === 'screen' ? view.shots.flatMap((id) => scene.doc.shots[id] ?? []) : []
    if (!shots.length) return head.marked[clock.value]
    return { in: Math.min(...shots.map((s) => s.screenIn)), out: Math.max(...shots.map((s) => s.screenOut)) }
  })
  /** Shows everything, or when it does, what is chosen. */
  function fit() {
    const r = picked.value
    if (keptSpans[clock.value] || !r) return void (keptSpans[clock.value] = null)
    const room = (r.out - r.in) * 0.15 + 4
    show(r.in - room, r.out + room)
  }
  /** Shows a stretch of the clock, or the nearest one in which some of it plays. */
  function show(from: number, to: number) {
    const room = (to - from) * 0.9
    const by = Math.max(0, whole.value.in - room - from) - Math.max(0, to - room - whole.value.out)
    keptSpans[clock.value] = { from: from + by, to: to + by }
  }
  /** Shows a frame that is out of sight; a part of the stretch comes before it. */
  function reach(frame: number, before: number) {
    const { from, to } = span.value
    if (frame < from || frame > to) show(frame - (to - from) * before, frame + (to - from) * (1 - before))
  }
  return { clock, now, set, whole, span, perPixel, x, frameAt, zoom, fit, show, reach }
}
export type Span = ReturnType<typeof useSpan>
