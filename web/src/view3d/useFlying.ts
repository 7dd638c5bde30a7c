// Flying through scout by the keys that fly an unlocked camera, while the pointer is over
// it: arrows along the ground, page keys up and down. The wheel sets the speed meanwhile.
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { onBeforeUnmount, ref } from 'vue'
import { brisk, choosing, typing, ways } from './flight'

const [slowest, fastest] = [0.1, 60] // m/s

export function useFlying(over: () => boolean, go: (right: number, up: number, ahead: number) => void) {
  const speed = useLocalStorage('proscen.fly', 3) // m/s
  const flying = ref(false)
  const held = new Set<string>()
  let fast = false
  let last = 0
  let request = 0

  function fly(now: number) {
    const by = Math.min(0.1, (now - last) / 1000) * speed.value * (fast ? brisk : 1)
    last = now
    const way = [0, 0, 0]
    for (const k of held) ways[k]!.forEach((v, i) => (way[i]! += v))
    go(way[0]! * by, way[1]! * by, way[2]! * by)
    request = requestAnimationFrame(fly)
  }
  function stop() {
    held.clear()
    cancelAnimationFrame(request)
    request = 0
    flying.value = false
  }
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (!ways[e.key] || !over() || typing(e) || choosing(e) || e.ctrlKey || e.metaKey || e.altKey) return
      e.preventDefault()
      e.stopPropagation()
      fast = e.shiftKey
      held.add(e.key)
      if (request) return
      flying.value = true
      last = performance.now()
      request = requestAnimationFrame(fly)
    },
    { capture: true },
  )
  useEventListener(window, 'keyup', (e: KeyboardEvent) => {
    fast = e.shiftKey
    held.delete(e.key)
    if (!held.size) stop()
  })
  useEventListener(window, 'blur', stop)
  onBeforeUnmount(stop)

  /** Takes a turn of the wheel as another speed; false when nothing flies. */
  function wheel(e: WheelEvent): boolean {
    if (!flying.value) return false
    e.preventDefault()
    e.stopImmediatePropagation() // it brings nothing nearer now
    const to = speed.value * Math.exp(-e.deltaY * 0.002)
    speed.value = +Math.max(slowest, Math.min(fastest, to)).toPrecision(3)
    return true
  }
  return { flying, speed, wheel }
}
