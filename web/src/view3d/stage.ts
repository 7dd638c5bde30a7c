// The one renderer behind all views: draws the world into the panes that ask for it.
import {
  type Camera,
  DepthTexture,
  Euler,
  FloatType,
  Mesh,
  OrthographicCamera,
  PerspectiveCamera,
  PlaneGeometry,
  Raycaster,
  type RawShaderMaterial,
  Scene,
  SRGBColorSpace,
  Vector2,
  WebGLRenderTarget,
  WebGLRenderer,
} from 'three'
import { ref } from 'vue'
import {
  core,
  readCamera,
  type Air,
  type CameraNow,
  type Composed,
  type Playing,
  type Side,
  type Struck,
  type Vec3,
} from '@/core/bridge'
import { usePreferences } from '@/stores/preferences'
import { loadFewer, type Fewer } from './fewer'
import { Pace, whenDone } from './pace'
import { visible, type Focus, type Place, type View } from './panes'
import { aim, frustum } from './projection'
import { lensMaterial, mixMaterial, shadePlainly, shadesPlainly, skyMaterial, stillMaterial, uniforms } from './shading'
import { StillPictures } from './stillPictures'
import { World } from './world'

/** So many targets of views are kept, whose sizes differ. */
const mostTargets = 12
/** So many scenes beside what is worked in are kept. */
const mostBeside = 10

interface Thumb {
  target: WebGLRenderTarget
  stale: boolean
  coarse: boolean
  key: string
}

/** The world, drawn by one renderer into the panes that ask for it. */
export class Stage extends World {
  readonly canvas = document.createElement('canvas')
  private renderer!: WebGLRenderer
  private works = true
  private views = new Set<View>()
  private thumbs = new Map<View, Thumb>()
  private sky: Mesh
  private skyScene = new Scene()
  private copyScene = new Scene()
  private lensScene = new Scene()
  private mixScene = new Scene()
  private stillScene = new Scene()
  private targets = new Map<string, WebGLRenderTarget>() // by what they are for and how large
  private moved = false // while drawing, the scene stands at another moment
  private here: World = this // what is drawn: what is worked in, or something beside it
  private beside = new Map<string, World>() // those that were drawn last, by their layers
  /** The shots that have something for themselves, in any alternate. */
  apart = new Set<string>()
  /** The alternate that is worked in, and the shot if it is one's own that is. */
  worked = { alternate: '', shot: '' }
  /** Whether what is on air shows the blur of lenses. */
  blur = false
  /** Whether all views are drawn without what takes slow graphics long. */
  set plainly(plain: boolean) {
    if (plain === shadesPlainly()) return
    shadePlainly(plain)
    for (const t of this.thumbs.values()) t.stale = true
    this.invalidate()
    const remade = (how?: Fewer) => {
      if (plain !== shadesPlainly()) return // chosen otherwise since
      this.forgetBeside()
      const shown = this.structure.version >= 0
      this.remake(how)
      if (shown) this.rebuild()
    }
    if (plain)
      void loadFewer().then(remade, () => remade()) // with all triangles, then
    else remade()
  }
  /** The pictures of cards, boards and footage. */
  readonly stills = new StillPictures(() => this.invalidate())
  /** What picture planes show: pictures that are lit as surfaces are. */
  readonly planes = new StillPictures(
    () => {
      this.dressPlanes()
      for (const [v, t] of this.thumbs) t.stale ||= !v.key
      this.invalidate()
    },
    (t) => {
      t.colorSpace = SRGBColorSpace
      t.flipY = false
    },
  )
  private copyMaterial: ReturnType<typeof copier>
  private dirty = true
  private fresh = true // something has changed since the last picture
  private story = NaN
  private request = 0
  private pace = new Pace()
  private coarse = false // pictures of what moves are drawn smaller and without smooth edges
  private underWay = 0 // pictures that the graphics have not finished
  private held = false // for that reason one was not begun
  private filling = false // only small pictures are due
  private resting = 0
  private ray = new Raycaster()
  /** Why nothing can be drawn, "" while all is well. */
  readonly trouble = ref('')
  /** Called after each drawn frame, for marks over the views. */
  readonly drawn = new Set<() => void>()
  /** Milliseconds that the last evaluation and drawing took. */
  readonly took = { evaluate: 0, draw: 0 }

  /** Smooth says whether edges in the views are; it holds until the page is opened again. */
  constructor(smooth = true) {
    super()
    try {
      this.renderer = new WebGLRenderer({
        canvas: this.canvas,
        antialias: smooth,
        alpha: true,
        powerPreference: 'high-performance',
      })
    } catch {
      this.trouble.value =
        'This browser draws no 3D pictures (WebGL is off or missing). Turn on hardware acceleration or use another browser; the cut and the lists work without.'
      this.works = false
    }
    // The graphics can be taken away by the system, and are mostly given back.
    this.canvas.addEventListener('webglcontextlost', (e) => {
      e.preventDefault()
      this.trouble.value = 'The system has taken the graphics away; they come back by themselves, or reload the page.'
    })
    this.canvas.addEventListener('webglcontextrestored', () => {
      this.trouble.value = ''
      this.pace.restart()
      this.restore()
      this.forgetBeside()
      for (const t of this.thumbs.values()) t.stale = true
      this.evaluate(this.story, true)
    })
    if (this.works) {
      this.renderer.setClearColor(0, 0)
      this.renderer.autoClear = false
      this.renderer.debug.checkShaderErrors = import.meta.env.DEV // asking makes the page wait for each
    }
    this.sky = new Mesh(new PlaneGeometry(2, 2), skyMaterial)
    this.sky.frustumCulled = false
    this.skyScene.add(this.sky)
    this.copyMaterial = copier()
    const quad = new Mesh(new PlaneGeometry(2, 2), this.copyMaterial)
    quad.frustumCulled = false
    this.copyScene.add(quad)
    const full = (material: RawShaderMaterial, into: Scene) => {
      const mesh = new Mesh(quad.geometry, material)
      mesh.frustumCulled = false
      into.add(mesh)
    }
    full(lensMaterial, this.lensScene)
    full(mixMaterial, this.mixScene)
    full(stillMaterial, this.stillScene)
  }

  add(v: View) {
    this.views.add(v)
    this.invalidate()
  }
  remove(v: View) {
    this.views.delete(v)
    this.thumbs.get(v)?.target.dispose()
    this.thumbs.delete(v)
    this.invalidate()
  }

  /** Asks for a new picture. */
  invalidate() {
    if (!this.request) this.pace.ask(performance.now())
    this.fresh = true
    this.again()
  }
  /** The same for what has not changed, but is not finished either. */
  private again() {
    this.dirty = true
    this.canvas.dataset.picture = 'due'
    if (!this.request) this.request = requestAnimationFrame(() => this.render())
  }

  protected override changed() {
    for (const t of this.thumbs.values()) t.stale = true
    this.invalidate()
  }

  /** For how many milliseconds yet small pictures give way to what may come next. */
  get yields() {
    return this.pace.yields(performance.now())
  }

  /** Takes over what the document has become. */
  rebuild() {
    this.outdateBeside()
    this.lay()
    this.evaluate(this.story, true)
  }
  /** Takes over what something beside what is worked in may have become. */
  outdateBeside() {
    for (const w of this.beside.values()) w.outdate()
    for (const t of this.thumbs.values()) t.stale = true
    this.invalidate()
  }
  /** Forgets what was beside another scene. */
  forgetBeside() {
    for (const w of this.beside.values()) w.dispose()
    this.beside.clear()
  }

  /** What a shot is seen in, in an alternate: what is worked in, or something beside it. */
  private worldOf(shot: string, alternate = this.worked.alternate): World {
    const { worked, apart } = this
    if (alternate === worked.alternate && (!shot || shot === worked.shot || !(worked.shot || apart.has(shot))))
      return this
    const at = { alternate, shot: worked.shot || apart.has(shot) ? shot : '' }
    const { layer, here } = core.beside(at, (layer, here) => ({ layer, here }))
    if (here) return this
    let w = this.beside.get(layer)
    if (!w)
      w = new World(
        (look) => core.beside(at, look),
        () => this.changed(),
      )
    this.beside.delete(layer)
    this.beside.set(layer, w) // as the last
    for (const [old, gone] of this.beside) {
      if (this.beside.size <= mostBeside) break
      gone.dispose()
      this.beside.delete(old)
    }
    return w
  }
  override lens(id: string, into: PerspectiveCamera, wider = { x: 1, y: 1 }): boolean {
    return this.here === this ? super.lens(id, into, wider) : this.here.lens(id, into, wider)
  }
  /** Turns to what a view sees, and stands it at the stage's moment. */
  private turnTo(v: View) {
    this.settle()
    if (v.free) return
    this.here = this.worldOf(v.shot?.() ?? '', v.alternate?.())
    if (this.here !== this) this.standBeside(this.story)
  }
  private standBeside(story: number) {
    this.here.stand(story)
    this.dressPlanes(this.here)
  }

  /** Moves everything to a frame of story time. */
  evaluate(story: number, force = false) {
    if (Number.isNaN(story) || (story === this.story && !force)) {
      this.story = Number.isNaN(story) ? this.story : story
      return
    }
    const start = performance.now()
    this.story = story
    this.moveTo(story)
    this.dressPlanes()
    this.took.evaluate = performance.now() - start
    for (const [v, t] of this.thumbs) t.stale ||= force || !v.key
    this.invalidate()
  }

  /**
   * Shows on the picture planes what they show at the stage's moment. Views of other
   * moments show the same: a video is at one place at a time.
   */
  private dressPlanes(w: World = this) {
    if (!w.surfaced) return
    const now = new Map(w.surfaces().map((s) => [s.node, s]))
    w.showOn((node) => {
      const s = now.get(node)
      return (s && this.planes.on(s)?.texture) ?? undefined
    })
  }

  /** A picture of a camera at a story frame as an address of data; the views stay as they are. */
  still(camera: string, story: number, width: number, height: number, shot = ''): Promise<string> {
    return this.picture(story, width, height, shot, (lens) => this.lens(camera, lens))
  }

  /** The same of something beside what is worked in, in the shape that it has there. */
  async stillBeside(at: Side, camera: string, story: number, most: number): Promise<string> {
    const world = new World((look) => core.beside(at, look))
    try {
      world.stand(story)
      const { aspect } = world.structure
      const [width, height] = [Math.min(most, most * aspect), Math.min(most, most / aspect)].map(Math.round) as [
        number,
        number,
      ]
      return await this.picture(story, width, height, at.shot, (lens) => world.lens(camera, lens), world)
    } finally {
      world.dispose()
    }
  }

  /** A picture from a place where no camera stands yet. */
  stillFrom(p: Composed, story: number, width: number, height: number): Promise<string> {
    return this.picture(story, width, height, '', (lens) => {
      const [pan, tilt, roll] = p.turn.map((v) => (v * Math.PI) / 180)
      lens.matrixAutoUpdate = false
      lens.matrix.makeRotationFromEuler(new Euler(tilt, pan, roll, 'YXZ')).setPosition(...p.position)
      lens.matrixWorld.copy(lens.matrix)
      lens.matrixWorldInverse.copy(lens.matrix).invert()
      frustum(lens, p.hfov, p.vfov, ...p.shift)
      return true
    })
  }

  private async picture(
    story: number,
    width: number,
    height: number,
    shot = '',
    look: (lens: PerspectiveCamera) => boolean,
    world = this.worldOf(shot),
  ): Promise<string> {
    if (!this.works) return ''
    const lens = new PerspectiveCamera()
    this.here = world
    this.goTo(story)
    if (!look(lens)) {
      this.settle()
      return ''
    }
    const target = new WebGLRenderTarget(width, height, { samples: 4 })
    const r = this.renderer
    r.setScissorTest(false)
    this.here.lit(r, shot)
    r.setRenderTarget(target)
    r.clear()
    this.draw(lens, false, shot)
    r.setRenderTarget(null)
    this.settle()
    const canvas = document.createElement('canvas')
    await this.read(target, canvas)
    return canvas.toDataURL('image/jpeg', 0.85)
  }

  /** Draws what is on air into a canvas; the views stay as they are. */
  async paint(air: Air, into: HTMLCanvasElement, width: number, height: number) {
    if (!this.works) return
    const target = this.target(width, height, 4)
    this.compose(air, target)
    this.into(null)
    this.settle()
    await this.read(target, into)
  }

  /** Reads a target into a canvas when the picture is there, so that nothing waits for it. */
  private async read(target: WebGLRenderTarget, into: HTMLCanvasElement) {
    const { width, height } = target
    const pixels = new Uint8Array(width * height * 4)
    await this.renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels)
    target.dispose()
    Object.assign(into, { width, height }) // which empties it
    const context = into.getContext('2d', { willReadFrequently: true })!
    const image = context.createImageData(width, height)
    for (let y = 0; y < height; y++)
      image.data.set(pixels.subarray((height - 1 - y) * width * 4, (height - y) * width * 4), y * width * 4)
    context.putImageData(image, 0, 0)
  }

  /** The ray from the eye, or from the picture of a plan, through a place from −1 to 1. */
  rayAt(at: Vector2, camera: Camera): { from: Vec3; direction: Vec3 } {
    this.ray.setFromCamera(at, camera as PerspectiveCamera)
    const { origin, direction } = this.ray.ray
    if (camera instanceof OrthographicCamera) origin.addScaledVector(direction, camera.near)
    return { from: origin.toArray(), direction: direction.toArray() }
  }

  /** What is under a place in a view, leaving nodes out. */
  pick(at: Vector2, camera: Camera, leave: string[] = []): Struck | null {
    const { from, direction } = this.rayAt(at, camera)
    return core.strike(from, direction, leave)
  }

  /** Lets marks follow that lie over views which are not drawn now. */
  private mark() {
    for (const v of this.views) v.camera() // as its view is now: it may have had no size before
    for (const f of this.drawn) f()
  }

  private render() {
    this.request = 0
    if (!this.dirty) return
    // What is asked of slow graphics beyond that only comes the later.
    this.held = this.underWay >= this.pace.atOnce
    if (this.held) return this.mark() // marks over the views do not wait for it
    this.dirty = false
    if (!this.works) return this.mark() // they are there all the same
    const start = performance.now()
    this.coarse = this.pace.coarse(start)
    if (this.filling && !this.fresh && !this.coarse) return this.fill()
    this.relight()
    for (const w of this.beside.values()) w.relight()
    const r = this.renderer
    const width = window.innerWidth
    const height = window.innerHeight
    const ratio = Math.min(2, window.devicePixelRatio)
    if (r.getPixelRatio() !== ratio) r.setPixelRatio(ratio)
    const size = r.getSize(new Vector2())
    if (size.x !== width || size.y !== height) r.setSize(width, height)
    const fine = this.coarse ? ratio / 2 : ratio
    r.setRenderTarget(null)
    r.setScissorTest(false)
    r.clear()
    r.setScissorTest(true)
    let waiting = false
    let budget = this.coarse ? 1 : this.yields ? 0 : 2
    this.fresh = false
    const order = [...this.views].sort((a, b) => Number(!!a.over) - Number(!!b.over))
    for (const v of order) {
      const air = v.air?.()
      const plain = !!air && !v.thumbnail && this.plain(air, v)
      if (!v.air) this.turnTo(v)
      else if (plain) this.settle()
      else this.here = this
      const camera = v.camera()
      const box = visible(v)
      if (!camera || !box) continue
      if (v.thumbnail) {
        const t = this.thumbOf(v, box, ratio, () => budget++)
        if (this.due(v, t) && budget > 0) {
          budget--
          this.drawThumb(v, t, camera)
        }
        waiting ||= this.due(v, t)
        this.show(t.target, box, height, camera)
        continue
      }
      if (air && !plain) {
        const mixed = this.sized('mixed', box.full.width * fine, box.full.height * fine)
        this.compose(air, mixed, false, v)
        this.into(null)
        this.show(mixed, box, height, camera)
        continue
      }
      if (this.here.lit(this.renderer, v.free ? '' : v.shot?.())) this.into(null)
      const f = v.focus?.()
      if (f && (f.blur || f.tint)) {
        this.drawThroughLens(camera, box, height, fine, f, v.shot?.(), v.over)
        continue
      }
      if (this.coarse) {
        const t = this.sized('coarse', box.full.width * fine, box.full.height * fine)
        this.into(t)
        this.draw(camera, !!v.free, v.shot?.())
        this.into(null)
        this.show(t, box, height, camera)
        continue
      }
      this.window(box, height)
      if (v.over) r.clearDepth()
      this.draw(camera, !!v.free, v.shot?.())
    }
    this.settle()
    this.took.draw = performance.now() - start
    for (const f of this.drawn) f()
    clearTimeout(this.resting)
    this.filling = waiting && !this.coarse
    if (this.coarse) this.resting = window.setTimeout(() => this.again(), this.pace.rest)
    else if (waiting && this.yields) this.resting = window.setTimeout(() => this.again(), this.yields)
    else if (waiting) this.again()
    else if (!this.dirty) this.canvas.dataset.picture = 'whole'
    this.time()
    this.coarse = false
  }

  /**
   * Draws some of the small pictures that are due, and nothing else: the views are drawn
   * once more when all of them are there.
   */
  private fill() {
    this.relight()
    let budget = 4
    for (const v of this.views) {
      if (v.thumbnail) this.turnTo(v)
      const camera = v.thumbnail ? v.camera() : null
      const box = camera && visible(v)
      if (!camera || !box) continue
      const t = this.thumbOf(v, box, this.renderer.getPixelRatio())
      if (!this.due(v, t)) continue
      if (budget-- === 0) break
      this.drawThumb(v, t, camera)
    }
    this.settle()
    this.filling = budget < 0
    this.again()
    this.time(false)
  }
  /** The small picture of a view, made anew when it has another size. */
  private thumbOf(v: View, box: Place, ratio: number, made = () => {}): Thumb {
    const t = this.thumbs.get(v)
    const w = Math.round(box.full.width * ratio)
    const h = Math.round(box.full.height * ratio)
    if (t && t.target.width === w && t.target.height === h) return t
    t?.target.dispose()
    const fresh = { target: this.target(w, h, this.samples), stale: true, coarse: false, key: '' }
    this.thumbs.set(v, fresh)
    made()
    return fresh
  }
  /** Of a pixel's edges, in what is drawn for the views. */
  private get samples() {
    return shadesPlainly() ? 0 : 4
  }
  private due(v: View, t: Thumb) {
    return t.stale || t.key !== (v.key?.() ?? '') || (t.coarse && !this.coarse)
  }
  private drawThumb(v: View, t: Thumb, camera: Camera) {
    t.stale = false
    t.coarse = this.coarse
    t.key = v.key?.() ?? ''
    const air = v.air?.()
    if (air) this.compose(air, t.target, true, v)
    else {
      this.here.lit(this.renderer, v.free ? '' : v.shot?.())
      this.into(t.target)
      this.draw(camera, !!v.free, v.shot?.())
    }
    this.into(null)
  }

  /** Finds out how long this machine needs for a whole picture. */
  private time(whole = true) {
    const counts = whole && !this.coarse && this.underWay === 0
    this.underWay++
    whenDone(this.renderer.getContext() as WebGL2RenderingContext, (ms) => {
      this.underWay--
      if (counts) this.pace.took(ms)
      if (this.held) this.again()
    })
  }

  private target(w: number, h: number, samples: number, deep = false) {
    return new WebGLRenderTarget(Math.max(1, w), Math.max(1, h), {
      samples,
      ...(deep ? { depthTexture: new DepthTexture(Math.max(1, w), Math.max(1, h), FloatType) } : {}),
    })
  }
  /** A target for something, of a size: the one at hand of those used last. */
  private sized(what: string, width: number, height: number, deep = false) {
    const w = Math.max(1, Math.round(width))
    const h = Math.max(1, Math.round(height))
    const samples = this.coarse ? 0 : this.samples
    const key = `${what} ${w} ${h} ${samples}`
    const t = this.targets.get(key) ?? this.target(w, h, samples, deep)
    this.targets.delete(key)
    this.targets.set(key, t) // as the last
    for (const [old, gone] of this.targets) {
      if (this.targets.size <= mostTargets) break
      gone.dispose()
      this.targets.delete(old)
    }
    return t
  }
  /** Draws into a target, cleared, or with null into the window again. */
  private into(t: WebGLRenderTarget | null) {
    this.renderer.setRenderTarget(t)
    this.renderer.setScissorTest(!t)
    if (t) this.renderer.clear()
  }
  private show(t: WebGLRenderTarget, box: Place, height: number, camera: Camera) {
    this.window(box, height)
    this.copyMaterial.uniforms.picture!.value = t.texture
    this.renderer.render(this.copyScene, camera)
  }

  /** Whether what is on air is one camera at the stage's moment. */
  private plain(air: Air, v: View) {
    const [p, second] = air.playing
    if (v.format?.() || (p && this.worldOf(p.shot, v.alternate?.()) !== this)) return false
    return !!p && !second && !air.dip && !p.still && !p.between && !p.reframe && p.story === this.story
  }
  /** Brings the scene back to the stage's moment. */
  private settle() {
    this.here = this
    if (!this.moved) return
    this.moved = false
    this.moveTo(this.story)
  }
  /** Draws what is on air: its shots by their shares, a dip's colour for the rest. */
  private compose(air: Air, into: WebGLRenderTarget, small = false, v?: View) {
    const shown = air.playing.slice(0, 2).map((p, i) => {
      const t = this.sized(`layer ${i}${small ? ', small' : ''}`, into.width, into.height)
      this.layer(p, t, small, v)
      return { texture: t.texture, weight: p.weight }
    })
    const u = mixMaterial.uniforms
    u.first!.value = shown[0]?.texture ?? null
    u.second!.value = shown[1]?.texture ?? shown[0]?.texture ?? null
    u.weights!.value = [shown[0]?.weight ?? 0, shown[1]?.weight ?? 0]
    u.dip!.value = rgb(air.dip ?? '#000000')
    this.into(into)
    this.renderer.render(this.mixScene, this.layerLens)
  }

  private layerLens = new PerspectiveCamera()
  private layer(p: Playing, into: WebGLRenderTarget, small: boolean, v?: View) {
    const { width: w, height: h } = into
    if (p.still) {
      const found = this.stills.get(p.still, w, h, small ? undefined : p.shot)
      const u = stillMaterial.uniforms
      u.picture!.value = found?.texture ?? null
      u.fit!.value = found ? [Math.min(1, (found.aspect * h) / w), Math.min(1, w / h / found.aspect)] : [0, 0]
      u.ground!.value = rgb(found?.ground ?? '#2d4047')
      this.into(into)
      this.renderer.render(this.stillScene, this.layerLens)
      return
    }
    let c: CameraNow
    this.here = this.worldOf(p.shot, v?.alternate?.())
    this.goTo(p.story)
    const numbers = this.here.seen(p, v?.format?.())
    if (numbers === null) return this.into(into)
    if (numbers) {
      c = readCamera(numbers)
      aim(this.layerLens, numbers.subarray(0, 16), c)
    } else {
      const i = this.here.cameraIndex(p.camera)
      if (i < 0) return this.into(into)
      c = this.here.state.camera(i)
      aim(this.layerLens, this.here.state.cameraMatrix(i), c)
    }
    this.here.lit(this.renderer, p.shot)
    if (!this.blur) {
      this.into(into)
      return this.draw(this.layerLens, false, p.shot)
    }
    const through = this.sized(`through${small ? ', small' : ''}`, w, h, true)
    this.into(through)
    this.draw(this.layerLens, false, p.shot)
    this.into(into)
    this.lensPass(through, this.layerLens, c, h, true)
  }
  /** Moves everything to another moment for as long as a frame is drawn. */
  private goTo(story: number) {
    if (this.here !== this) return this.standBeside(story)
    if (!this.moved && story === this.story) return
    this.moved = true
    this.moveTo(story)
  }

  /** Draws a view with the blur of a camera's lens, or a tint outside its sharp zone. */
  private drawThroughLens(
    camera: Camera,
    box: Place,
    height: number,
    ratio: number,
    focus: Focus,
    shot?: string,
    over?: boolean,
  ) {
    const through = this.sized('through', box.full.width * ratio, box.full.height * ratio, true)
    this.into(through)
    this.draw(camera, false, shot)
    this.into(null)
    this.window(box, height)
    if (over) this.renderer.clearDepth()
    const c = this.here.state.camera(this.here.cameraIndex(focus.camera))
    this.lensPass(through, camera, c, through.height, focus.blur, focus.tint ? focus.sensor : undefined)
  }
  private lensPass(
    through: WebGLRenderTarget,
    camera: Camera,
    c: CameraNow,
    height: number,
    blur: boolean,
    sensor?: [number, number],
  ) {
    const u = lensMaterial.uniforms
    u.picture!.value = through.texture
    u.depth!.value = through.depthTexture
    u.spread!.value = blur ? (c.spread * height) / 2 : 0
    u.focus!.value = c.focus
    u.zone!.value = [0, -1]
    if (sensor) {
      const zone = core.sharpZone(c.focal, c.stop, c.focus, sensor)
      u.zone!.value = [zone.near, zone.far < 0 ? 0 : zone.far]
    }
    this.renderer.render(this.lensScene, camera)
  }

  private window(box: Place, height: number) {
    const { full, clip } = box
    this.renderer.setViewport(full.x, height - full.y - full.height, full.width, full.height)
    this.renderer.setScissor(clip.x, height - clip.y - clip.height, clip.width, clip.height)
  }

  private draw(camera: Camera, free: boolean, shot = '') {
    camera.updateMatrixWorld()
    this.here.reveal(camera, free, shot)
    const ortho = camera instanceof OrthographicCamera
    uniforms.eye.value.setFromMatrixPosition(camera.matrixWorld)
    uniforms.clearAir.value = ortho ? 1 : 0
    this.here.twoSided(!!camera.userData.cut) // what is cut through shows its inside
    if (ortho) uniforms.eyeWay.value.setFromMatrixColumn(camera.matrixWorld, 2)
    if (ortho) this.renderer.clear(true, true)
    else {
      skyMaterial.uniforms
        .unproject!.value.copy(camera.matrixWorld)
        .multiply((camera as PerspectiveCamera).projectionMatrixInverse)
      this.renderer.render(this.skyScene, camera)
    }
    this.renderer.render(this.here.scene, camera)
  }
}

/** The parts of a colour written #rrggbb, from 0 to 1. */
const rgb = (c: string): Vec3 => [1, 3, 5].map((i) => parseInt(c.slice(i, i + 2), 16) / 255) as Vec3

function copier() {
  const m = skyMaterial.clone()
  m.uniforms = { picture: { value: null } }
  m.fragmentShader = /* glsl */ `
    precision highp float;
    in vec2 at;
    uniform sampler2D picture;
    out vec4 result;
    void main() { result = texture(picture, at * 0.5 + 0.5); }`
  return m
}

let stage: Stage | undefined
export function useStage(): Stage {
  stage ??= new Stage(usePreferences().pictures !== 'plain')
  return stage
}
