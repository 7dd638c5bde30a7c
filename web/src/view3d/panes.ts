// The panes that the stage is drawn into: where they are in the window, and what of
// them is in sight.
import type { Camera } from 'three'
import type { Air } from '@/core/bridge'

/** A pane that shows the stage. */
export interface View {
  element: HTMLElement
  /** The camera for this frame, or null to leave the pane alone. */
  camera(): Camera | null
  /** A part of the pane, in its pixels, when the picture does not fill it. */
  frame?(): { x: number; y: number; width: number; height: number }
  /** Small views are drawn in turn and kept as pictures between. */
  thumbnail?: boolean
  /** Free views show also what is hidden while shooting. */
  free?: boolean
  /** The shot whose picture this is. */
  shot?(): string
  /** Drawn on top of the others. */
  over?: boolean
  /** The alternate that is seen, when that is not the one that is worked in. */
  alternate?(): string
  /** What the pictures are made in, when that is not the format that is worked in. */
  format?(): { id: string; screen: number } | null
  /** Where a wipe ends over another view: from a share of its width on it is drawn. */
  from?(): number
  /** What is on air in the view, when that may be more than its camera at the stage's moment. */
  air?(): Air | null
  /** Tells one picture of a small view from the next, when the stage's moment does not. */
  key?(): string
  /** The camera whose lens blurs the picture, or whose sharp zone is tinted in it. */
  focus?(): Focus
}
export interface Focus {
  camera: string
  sensor: [number, number]
  blur: boolean
  tint: boolean
}

export interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** A picture's place in the window, and the part of it that no scrolling hides. */
export interface Place {
  full: Box
  clip: Box
}

/** Where a view is in the window, and the part that no scrolling hides. */
export function visible(v: View): Place | null {
  // Behind a pane that is blown up, the others are not seen.
  if (document.querySelector('.pane.full') && !v.element.closest('.pane.full')) return null
  const b = v.element.getBoundingClientRect()
  if (b.width < 2 || b.height < 2) return null
  const inner = v.frame?.() ?? { x: 0, y: 0, width: b.width, height: b.height }
  const full = { x: b.x + inner.x, y: b.y + inner.y, width: inner.width, height: inner.height }
  let [x0, y0, x1, y1] = [Math.max(0, full.x), Math.max(0, full.y), full.x + full.width, full.y + full.height]
  const scroller = v.element.closest('.scrolls')
  if (scroller) {
    const s = scroller.getBoundingClientRect()
    x0 = Math.max(x0, s.left)
    y0 = Math.max(y0, s.top)
    x1 = Math.min(x1, s.right)
    y1 = Math.min(y1, s.bottom)
  }
  x0 = Math.max(x0, full.x + (v.from?.() ?? 0) * full.width)
  if (x1 <= x0 || y1 <= y0) return null
  return { full, clip: { x: x0, y: y0, width: x1 - x0, height: y1 - y0 } }
}
