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

/** How often dots that lie on each other are pushed apart at most, and how many pairs are looked at for it. */
const pushes = 40
const pairs = 100_000

/** Things by the squares of a picture that they touch. */
class Squares<T> {
  private readonly at = new Map<string, T[]>()
  constructor(private readonly side: number) {}
  private *over({ x, y, width, height }: Box) {
    for (let u = Math.floor(x / this.side); u * this.side <= x + width; u++)
      for (let v = Math.floor(y / this.side); v * this.side <= y + height; v++) yield `${u} ${v}`
  }
  put(thing: T, box: Box) {
    for (const key of this.over(box)) {
      const there = this.at.get(key)
      if (there) there.push(thing)
      else this.at.set(key, [thing])
    }
  }
  /** What may touch a box; some of it perhaps more than once. */
  *near(box: Box) {
    for (const key of this.over(box)) yield* this.at.get(key) ?? []
  }
}

/**
 * Returns where dots go so that none is nearer to another than a distance: as near to their
 * places as that allows, those that are in nobody's way where they are. In a heap of hundreds
 * some stay on each other.
 */
export function fanned(dots: Dot[], distance: number): Dot[] {
  // Dots in one place go different ways, each always the same.
  const out = dots.map((d, i) => ({ x: d.x + Math.cos(i * 2.4) * 0.01, y: d.y + Math.sin(i * 2.4) * 0.01 }))
  let looks = pairs
  for (let k = 0; k < pushes && looks > 0; k++) {
    let pushed = false
    const squares = new Squares<number>(distance)
    out.forEach((d, i) => squares.put(i, { ...d, width: 0, height: 0 }))
    out.forEach((a, i) => {
      const around = { x: a.x - distance, y: a.y - distance, width: 2 * distance, height: 2 * distance }
      for (const j of squares.near(around)) {
        if (looks-- <= 0) return
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
  const squares = new Squares<Box>(48)
  for (const b of taken) squares.put(b, b)
  const free = (box: Box) => {
    for (const b of squares.near(box)) if (touch(b, box)) return false
    return true
  }
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
        if (!free(box)) continue
        squares.put(box, box)
        return at
      }
    }
    return null
  })
}
