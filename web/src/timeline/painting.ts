// Canvases behind the rows of the strip, for what is too narrow or too many to be
// elements of its own.

/** A cleared canvas that is drawn on in pixels of the page; null where there is none. */
export function cleared(
  canvas: HTMLCanvasElement | null | undefined,
  width: number,
  height: number,
): CanvasRenderingContext2D | null {
  const g = canvas?.getContext('2d')
  if (!canvas || !g) return null
  const ratio = Math.min(2, window.devicePixelRatio || 1)
  const [w, h] = [Math.max(1, Math.floor(width * ratio)), Math.floor(height * ratio)]
  if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h })
  canvas.style.width = `${w / ratio}px`
  canvas.style.height = `${height}px`
  g.setTransform(ratio, 0, 0, ratio, 0, 0)
  g.clearRect(0, 0, width, height)
  return g
}

/** Fills many boxes from the top to a height, those of a colour at once; in order of their left ends. */
export function boxes(g: CanvasRenderingContext2D, height: number) {
  const paths = new Map<string, { path: Path2D; end: number }>()
  return {
    /** What lies within a pixel that its colour has already is left out. */
    add(color: string, x: number, width: number) {
      let p = paths.get(color)
      if (!p) paths.set(color, (p = { path: new Path2D(), end: -Infinity }))
      if (x + width <= p.end) return
      p.path.rect(x, 0, width, height)
      p.end = Math.ceil(x + width)
    },
    fill() {
      for (const [color, { path }] of paths) {
        g.fillStyle = color
        g.fill(path)
      }
    },
  }
}
