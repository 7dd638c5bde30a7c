// Keeps the marks of a plan apart: cameras that lie on each other fan out, and names
// move to where nothing else is. Places and sizes are pixels.

export interface Dot {
  x: number
  y: number
}
export interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** How often dots that lie on each other are pushed apart, at most. */
const pushes = 40

/**
 * Returns where dots go so that none lies on another: as near to their places as that
 * allows, those that are in the way of nobody where they are. Dots that are looked at have
 * a distance between them that is kept from first to last.
 */
export function fanned(dots: Dot[], distance: number): Dot[] {
  // Dots in one place go different ways, each always the same.
  const out = dots.map((d, i) => ({ x: d.x + Math.cos(i * 2.4) * 0.01, y: d.y + Math.sin(i * 2.4) * 0.01 }))
  for (let k = 0; k < pushes; k++) {
    let pushed = false
    const cells = new Map<string, number[]>()
    const cell = (v: number) => Math.floor(v / distance)
    out.forEach((d, i) => {
      const key = `${cell(d.x)} ${cell(d.y)}`
      cells.set(key, [...(cells.get(key) ?? []), i])
    })
    out.forEach((a, i) => {
      for (let u = -1; u <= 1; u++)
        for (let v = -1; v <= 1; v++)
          for (const j of cells.get(`${cell(a.x) + u} ${cell(a.y) + v}`) ?? []) {
            if (j <= i) continue
            const b = out[j]!
            const [dx, dy] = [b.x - a.x, b.y - a.y]
            const off = Math.hypot(dx, dy)
            if (off >= distance - 0.01) continue
            const by = (distance - off) / 2 / (off || 1)
            a.x -= dx * by
            a.y -= dy * by
            b.x += dx * by
            b.y += dy * by
            pushed = true
          }
    })
    if (!pushed) break
  }
  return out.map((d, i) => (Math.hypot(d.x - dots[i]!.x, d.y - dots[i]!.y) < 0.1 ? dots[i]! : d))
}

export interface Named extends Dot {
  width: number // of its name
}
const tall = 13

const touch = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height

/**
 * Returns the middle of each name's lower edge, so that none covers another or one of some
 * boxes: above its place, or below, beside and further away. Null stands for a name for which
 * there is no room.
 */
export function labelled(names: Named[], taken: Box[]): (Dot | null)[] {
  const boxes = [...taken]
  return names.map(({ x, y, width }) => {
    for (const away of [0, 14, 28]) {
      const side = width / 2 + 10 + away
      const ways: Dot[] = [
        { x, y: y - 9 - away },
        { x: x + side, y: y + tall / 2 - 2 },
        { x: x - side, y: y + tall / 2 - 2 },
        { x, y: y + 9 + tall + away },
        { x: x + side, y: y - 6 - away },
        { x: x - side, y: y - 6 - away },
        { x: x + side, y: y + 8 + tall + away },
        { x: x - side, y: y + 8 + tall + away },
      ]
      for (const at of ways) {
        const box = { x: at.x - width / 2, y: at.y - tall + 2, width, height: tall }
        if (boxes.some((b) => touch(b, box))) continue
        boxes.push(box)
        return at
      }
    }
    return null
  })
}

/** The measure of a grid, in metres, whose lines are at least some pixels apart. */
export function gridStep(scale: number, least = 44): number {
  const steps = [0.5, 1, 2, 5, 10, 20, 50, 100, 200]
  return steps.find((s) => s * scale >= least) ?? 500
}

/** The multiples of a step from a place on, over a length. */
export function multiples(from: number, length: number, step: number): number[] {
  const first = Math.ceil(from / step)
  const last = Math.floor((from + length) / step)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => (first + i) * step)
}
