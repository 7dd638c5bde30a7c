// The shadow maps of the sun and of lamps. What stays where it is is drawn into a map of its own and
// kept; for each moment that is copied, and what moves is drawn over it. The nearer of two
// distances is kept by blending, so that there are no depths to be copied; where graphics
// cannot blend such numbers, all is drawn for each moment.
import {
  CustomBlending,
  FloatType,
  MinEquation,
  NearestFilter,
  NoBlending,
  OneFactor,
  RedFormat,
  WebGLRenderTarget,
  type RawShaderMaterial,
  type WebGLRenderer,
} from 'three'

/** What casts shadows together: things of one shape. */
export interface Caster {
  /** Which instances of the core these are. */
  members: number[]
  /** Whether it bends, and so is never the same. */
  bends: boolean
  /** What draws it into the map. */
  depth: RawShaderMaterial
}

/** Where a light looks: its matrix, column by column, and the square of the map that is for it. */
export interface Look {
  matrix: Float32Array
  x: number
  y: number
  side: number
}

/** What shadow maps are drawn into: one of the sun, or those of several lamps. */
export class ShadowSheet {
  readonly target: WebGLRenderTarget
  readonly kept: WebGLRenderTarget // what stays
  readonly blends: boolean

  constructor(
    readonly width: number,
    readonly height: number,
    r: WebGLRenderer,
  ) {
    this.blends = r.extensions.has('EXT_float_blend')
    const make = () =>
      new WebGLRenderTarget(width, height, {
        format: RedFormat,
        type: FloatType,
        minFilter: NearestFilter,
        magFilter: NearestFilter,
        depthBuffer: !this.blends,
      })
    this.target = make()
    this.kept = make()
  }
  get texture() {
    return this.target.texture
  }
  dispose() {
    this.target.dispose()
    this.kept.dispose()
  }
}

/** The map of a light, in a part of a sheet. */
export class ShadowMap<C extends Caster> {
  private keptAt: Float32Array | null = null // where everything was when what stays was drawn
  private drawnAt = new Float32Array(0) // and when the map was
  private moving = new Set<C>()
  private light = new Float32Array(0)

  constructor(
    readonly sheet: ShadowSheet,
    private y: number,
    private height: number,
  ) {}
  /** Draws all of it the next time: other things are there. */
  forget() {
    this.keptAt = null
    this.moving.clear()
  }

  /**
   * Sees to it that the map is that of casters whose instances have these matrices, as a light
   * looks. Draw renders casters as it looks there into the square that is set; false when the
   * map is as it was.
   */
  update(
    r: WebGLRenderer,
    looks: Look[],
    at: Float32Array,
    casters: C[],
    draw: (which: C[], look: Look) => void,
  ): boolean {
    const light = Float32Array.from(looks.flatMap((l) => [...l.matrix, l.side]))
    let stale = !this.keptAt || !same(light, this.light)
    for (const c of casters)
      if (!this.moving.has(c) && this.keptAt && (c.bends || movedSince(c, at, this.keptAt))) {
        this.moving.add(c)
        stale = true
      }
    const moving = casters.filter((c) => this.moving.has(c))
    if (!stale && !moving.some((c) => c.bends || movedSince(c, at, this.drawnAt))) return false
    const { blends, kept, target } = this.sheet
    for (const { depth } of casters) {
      depth.depthTest = depth.depthWrite = !blends
      depth.blending = blends ? CustomBlending : NoBlending
      depth.blendEquation = MinEquation
      depth.blendSrc = depth.blendDst = OneFactor
    }
    const drawAll = (which: C[], into: WebGLRenderTarget) => {
      for (const l of looks) {
        this.enter(r, into, l.x, l.y, l.side, l.side)
        draw(which, l)
      }
    }
    if (stale || !blends) {
      this.begin(r, blends ? kept : target)
      drawAll(blends ? casters.filter((c) => !this.moving.has(c)) : casters, blends ? kept : target)
      this.keptAt = at.slice()
      this.light = light
    }
    if (blends) {
      this.copy(r)
      if (moving.length) drawAll(moving, target)
    }
    this.drawnAt = at.slice()
    return true
  }
  private enter(r: WebGLRenderer, into: WebGLRenderTarget, x: number, y: number, width: number, height: number) {
    into.viewport.set(x, y, width, height)
    into.scissor.set(x, y, width, height)
    into.scissorTest = true
    r.setRenderTarget(into)
  }
  private begin(r: WebGLRenderer, into: WebGLRenderTarget) {
    this.enter(r, into, 0, this.y, this.sheet.width, this.height)
    r.setClearColor(0xffffff, 1)
    r.clear()
    r.setClearColor(0, 0)
  }
  /** Copies what stays into the map. */
  private copy(r: WebGLRenderer) {
    const { kept, target, width } = this.sheet
    const gl = r.getContext() as WebGL2RenderingContext
    const of = (t: WebGLRenderTarget) =>
      (r.properties.get(t) as { __webglFramebuffer: WebGLFramebuffer }).__webglFramebuffer
    r.setRenderTarget(target)
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, of(kept))
    const texture = (r.properties.get(target.texture) as { __webglTexture: WebGLTexture }).__webglTexture
    r.state.bindTexture(gl.TEXTURE_2D, texture)
    gl.copyTexSubImage2D(gl.TEXTURE_2D, 0, 0, this.y, 0, this.y, width, this.height)
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, of(target)) // as three.js has left it
  }
}

const same = (a: Float32Array, b: Float32Array) => a.length === b.length && a.every((v, i) => v === b[i])

/** Whether a caster is elsewhere than it was. */
function movedSince(c: Caster, now: Float32Array, then: Float32Array): boolean {
  for (const m of c.members) for (let i = m * 16; i < m * 16 + 16; i++) if (now[i] !== then[i]) return true
  return false
}
