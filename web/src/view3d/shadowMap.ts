// The shadow map of the sun. What stays where it is is drawn into one of its own and
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

export class ShadowMap<C extends Caster> {
  private target: WebGLRenderTarget
  private kept: WebGLRenderTarget // what stays
  private keptAt: Float32Array | null = null // where everything was when that was drawn
  private drawnAt = new Float32Array(0) // and when the map was
  private moving = new Set<C>()
  private sun = new Float32Array(0)

  private blends: boolean

  constructor(
    readonly size: number,
    r: WebGLRenderer,
  ) {
    this.blends = r.extensions.has('EXT_float_blend')
    const make = () =>
      new WebGLRenderTarget(size, size, {
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
  /** Draws all of it the next time: other things are there. */
  forget() {
    this.keptAt = null
    this.moving.clear()
  }

  /**
   * Sees to it that the map is that of casters whose instances have these matrices, in a
   * light. Draw renders casters into the target that is set; false when the map is as it was.
   */
  update(r: WebGLRenderer, sun: Float32Array, at: Float32Array, casters: C[], draw: (which: C[]) => void): boolean {
    let stale = !this.keptAt || !same(sun, this.sun)
    for (const c of casters)
      if (!this.moving.has(c) && this.keptAt && (c.bends || movedSince(c, at, this.keptAt))) {
        this.moving.add(c)
        stale = true
      }
    const moving = casters.filter((c) => this.moving.has(c))
    if (!stale && !moving.some((c) => c.bends || movedSince(c, at, this.drawnAt))) return false
    for (const { depth } of casters) {
      depth.depthTest = depth.depthWrite = !this.blends
      depth.blending = this.blends ? CustomBlending : NoBlending
      depth.blendEquation = MinEquation
      depth.blendSrc = depth.blendDst = OneFactor
    }
    if (stale || !this.blends) {
      this.begin(r, this.blends ? this.kept : this.target)
      draw(this.blends ? casters.filter((c) => !this.moving.has(c)) : casters)
      this.keptAt = at.slice()
      this.sun = sun.slice()
    }
    if (this.blends) {
      this.copy(r)
      if (moving.length) draw(moving)
    }
    this.drawnAt = at.slice()
    return true
  }
  private begin(r: WebGLRenderer, into: WebGLRenderTarget) {
    r.setRenderTarget(into)
    r.setScissorTest(false)
    r.setClearColor(0xffffff, 1)
    r.clear()
    r.setClearColor(0, 0)
  }
  /** Copies what stays into the map. */
  private copy(r: WebGLRenderer) {
    const gl = r.getContext() as WebGL2RenderingContext
    const of = (t: WebGLRenderTarget) =>
      (r.properties.get(t) as { __webglFramebuffer: WebGLFramebuffer }).__webglFramebuffer
    r.setRenderTarget(this.target)
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, of(this.kept))
    const texture = (r.properties.get(this.target.texture) as { __webglTexture: WebGLTexture }).__webglTexture
    r.state.bindTexture(gl.TEXTURE_2D, texture)
    gl.copyTexSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 0, 0, this.size, this.size)
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, of(this.target)) // as three.js has left it
  }
}

const same = (a: Float32Array, b: Float32Array) => a.length === b.length && a.every((v, i) => v === b[i])

/** Whether a caster is elsewhere than it was. */
function movedSince(c: Caster, now: Float32Array, then: Float32Array): boolean {
  for (const m of c.members) for (let i = m * 16; i < m * 16 + 16; i++) if (now[i] !== then[i]) return true
  return false
}
