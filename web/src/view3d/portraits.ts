// Small pictures of the stock, drawn by the core's renderer one after the other
// when they come into sight, and kept.
import { reactive } from 'vue'
import { core } from '@/core/bridge'

export const portraitSize = { width: 132, height: 88 }
const retryAfter = 5000
const kept = reactive<Record<string, string>>({})
const queue: string[] = []
let running = false

/** The picture of a stand-in, or of "cast <build>"; empty until it is drawn. */
export function portrait(id: string): string {
  return kept[id] ?? ''
}
/** Asks for a picture. */
export function drawPortrait(id: string) {
  if (kept[id] !== undefined || queue.includes(id)) return
  queue.push(id)
  if (!running) void work()
}
/** Pixels as a picture's address; empty without pixels. */
export function dataAddress(pixels: Uint8ClampedArray | null, width: number, height: number): string {
  if (!pixels) return ''
  const canvas = document.createElement('canvas')
  Object.assign(canvas, { width, height })
  // Kept in memory that is read at once: it is never shown as a canvas.
  canvas
    .getContext('2d', { willReadFrequently: true })
    ?.putImageData(new ImageData(new Uint8ClampedArray(pixels), width, height), 0, 0)
  return canvas.toDataURL()
}
/** Keeps a picture that has been drawn already. */
export function keepPortrait(id: string, address: string) {
  kept[id] = address
}
async function pixels(id: string, width: number, height: number): Promise<Uint8ClampedArray | null> {
  if (!id.startsWith('model ')) return core.picture(id, width, height)
  const r = await fetch(`/api/models/${id.slice(6)}`)
  return r.ok ? core.modelPicture(new Uint8Array(await r.arrayBuffer()), width, height, false) : null
}
async function work() {
  running = true
  for (let id = queue.shift(); id !== undefined; id = queue.shift()) {
    const { width, height } = portraitSize
    const of = id
    const made = await pixels(id, width, height).catch(() => null)
    if (made) kept[id] = dataAddress(made, width, height)
    else setTimeout(() => drawPortrait(of), retryAfter)
    await new Promise((r) => setTimeout(r)) // leaves room for what the artist does meanwhile
  }
  running = false
}
