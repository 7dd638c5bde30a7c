// The one three.js scene behind all views: meshes from the core, moved by the
// core, drawn by one renderer into the panes that ask for it.
import {
  BufferAttribute,
  BufferGeometry,
  Camera,
  DataTexture,
  DepthTexture,
  Euler,
  FloatType,
  InstancedMesh,
  LinearFilter,
  LinearMipmapLinearFilter,
  Matrix4,
  Mesh,
  NearestFilter,
  OrthographicCamera,
  PerspectiveCamera,
  PlaneGeometry,
  Raycaster,
  type RawShaderMaterial,
  RedFormat,
  RepeatWrapping,
  RGBAFormat,
  Scene,
  SRGBColorSpace,
  Vector2,
  Vector3,
  WebGLRenderTarget,
  WebGLRenderer,
} from 'three'
import {
  core,
  FrameState,
  lampFloats,
  readCamera,
  type Air,
  type CameraNow,
  type Composed,
  type Playing,
  type Structure,
  type Struck,
  type Vec3,
} from '@/core/bridge'
import {
  depthMaterial,
  lensMaterial,
  manyDepthMaterial,
  manyMaterial,
  maxLamps,
  mixMaterial,
  pictured,
  skyMaterial,
  stillMaterial,
  surfaceMaterial,
  uniforms,
} from './shading'
import { ref } from 'vue'
import { StillPictures } from './stillPictures'

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
  /** What is on air in the view, when that may be more than its camera at the stage's moment. */
  air?(): Air | null
  /** Tells one picture of a small view from the next, when the stage's moment does not. */
  key?(): string
  /** The camera whose lens blurs the picture, or whose sharp zone is tinted in it. */
  focus?(): Focus
}
interface Focus {
  camera: string
  sensor: [number, number]
  blur: boolean
  tint: boolean
}

/** Things of one shape that are seen by the same views, drawn at once. */
interface Batch {
  mesh: Mesh | InstancedMesh
  /** Which instances of the core these are. */
  members: number[]
  /** The number of the mesh that bends, or −1. */
  skin: number
  material: RawShaderMaterial
  hidden: boolean
  only: string[]
}

/** The projection of a lens with angles in degrees, shifted by tangents to the right and up. */
function frustum(
  into: PerspectiveCamera,
  hfov: number,
  vfov: number,
  shiftX: number,
  shiftY: number,
  wider = { x: 1, y: 1 },
) {
  const near = 0.05
  const far = 3000
  const x = Math.tan((hfov * Math.PI) / 360) * wider.x
  const y = Math.tan((vfov * Math.PI) / 360) * wider.y
  into.fov = vfov
  into.aspect = x / y
  into.near = near
  into.far = far
  into.projectionMatrix.makePerspective(
    near * (shiftX - x),
    near * (shiftX + x),
    near * (shiftY + y),
    near * (shiftY - y),
    near,
    far,
    into.coordinateSystem,
  )
  into.projectionMatrixInverse.copy(into.projectionMatrix).invert()
}

/** Sets a three.js camera to a camera of the core. */
function aim(into: PerspectiveCamera, matrix: Float32Array, c: CameraNow, wider = { x: 1, y: 1 }) {
  into.matrixAutoUpdate = false
  into.matrix.fromArray(matrix)
  into.matrixWorld.copy(into.matrix)
  into.matrixWorldInverse.copy(into.matrix).invert()
  frustum(into, c.hfov, c.vfov, c.shiftX, c.shiftY, wider)
}

interface Thumb {
  target: WebGLRenderTarget
  stale: boolean
  key: string
}

/** Through which cameras something is seen. */
interface Shooting {
  hidden: boolean
  only: string[]
}

export class Stage {
  readonly scene = new Scene()
  structure: Structure = {
    version: -1,
    nodes: [],
    instances: [],
    meshes: [],
    cameras: [],
    lamps: [],
    aspect: 16 / 9,
    shooting: [],
  }
  state = new FrameState(this.structure)
  readonly canvas = document.createElement('canvas')
  private renderer!: WebGLRenderer
  private works = true
  private views = new Set<View>()
  private thumbs = new Map<View, Thumb>()
  private geometries = new Map<string, BufferGeometry>()
  private textures = new Map<string, DataTexture>()
  private batches: Batch[] = []
  private sky: Mesh
  private skyScene = new Scene()
  private copyScene = new Scene()
  private lensScene = new Scene()
  private mixScene = new Scene()
  private stillScene = new Scene()
  private layers: (WebGLRenderTarget | undefined)[] = []
  private moved = false // while drawing, the scene stands at another moment
  /** Whether what is on air shows the blur of lenses. */
  blur = false
  /** The pictures of cards, boards and footage. */
  readonly stills = new StillPictures(() => this.invalidate())
  private copyMaterial: ReturnType<typeof copier>
  private shadow?: WebGLRenderTarget
  private nodeIndex = new Map<string, number>()
  private dirty = true
  private shadowStale = true
  private story = NaN
  private request = 0
  private ray = new Raycaster()
  /** Why nothing can be drawn, "" while all is well. */
  readonly trouble = ref('')
  /** Called after each drawn frame, for marks over the views. */
  readonly drawn = new Set<() => void>()
  /** Milliseconds that the last evaluation and drawing took. */
  readonly took = { evaluate: 0, draw: 0 }

  constructor() {
    try {
      this.renderer = new WebGLRenderer({
        canvas: this.canvas,
        antialias: true,
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
      this.shadow?.dispose()
      this.shadow = undefined
      for (const t of this.thumbs.values()) t.stale = true
      this.evaluate(this.story, true)
    })
    if (this.works) {
      this.renderer.setClearColor(0, 0)
      this.renderer.autoClear = false
      this.renderer.debug.checkShaderErrors = import.meta.env.DEV // asking makes the page wait for each
    }
    this.scene.matrixAutoUpdate = false
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
    this.dirty = true
    if (!this.request) this.request = requestAnimationFrame(() => this.render())
  }

  /** Takes over what the document has become. */
  rebuild() {
    const s = core.laidOut(this.structure.version)
    if (s) {
      this.structure = s
      this.state = new FrameState(s)
      this.nodeIndex = new Map(s.nodes.map((id, i) => [id, i]))
      const used = new Set(s.meshes)
      for (const [key, g] of this.geometries)
        if (!used.has(key)) {
          g.dispose()
          this.geometries.delete(key)
          this.textures.get(key)?.dispose()
          this.textures.delete(key)
        }
      s.meshes.forEach((key, i) => {
        if (this.geometries.has(key)) return
        const { shape, width, height } = geometry(i)
        this.geometries.set(key, shape)
        if (width && height) this.textures.set(key, picture(core.texture(i), width, height))
      })
      this.batch()
    }
    this.evaluate(this.story, true)
  }

  /** Where each lamp shines, if not everywhere. */
  private lampShooting: (Shooting | undefined)[] = []
  /** Sorts what is drawn into batches. */
  private batch() {
    const s = this.structure
    const shown = new Map(s.shooting.map((x) => [x.node, x]))
    this.lampShooting = s.lamps.map((id) => shown.get(s.nodes.indexOf(id)))
    const groups = new Map<string, Batch & { key: string }>()
    s.instances.forEach(({ node, mesh, skin }, i) => {
      const { hidden = false, only = [] } = shown.get(node) ?? {}
      const key = `${mesh} ${hidden} ${only.join()}`
      const g = groups.get(key)
      if (g) g.members.push(i)
      else {
        const blank = { mesh: undefined as unknown as Mesh, material: surfaceMaterial }
        groups.set(key, { ...blank, key: s.meshes[mesh]!, members: [i], skin, hidden, only })
      }
    })
    for (const b of this.batches) {
      if (b.mesh instanceof InstancedMesh) b.mesh.dispose()
      if (b.material !== surfaceMaterial && b.material !== manyMaterial) b.material.dispose()
    }
    this.scene.clear()
    this.batches = [...groups.values()].map(({ key, ...b }) => {
      const shape = this.geometries.get(key)!
      const many = b.members.length > 1
      b.material = many ? manyMaterial : surfaceMaterial
      const texture = this.textures.get(key)
      if (texture) b.material = pictured(b.material, texture)
      b.mesh = many ? new InstancedMesh(shape, b.material, b.members.length) : new Mesh(shape, b.material)
      // Where a batch's things are changes with every frame; only single ones are
      // left out when they are out of sight.
      b.mesh.frustumCulled = !many && b.skin < 0
      b.mesh.matrixAutoUpdate = false
      b.mesh.matrixWorldAutoUpdate = false
      this.scene.add(b.mesh)
      return b
    })
  }

  private light() {
    const l = this.state.look
    uniforms.sun.value.fromArray(l, 0)
    uniforms.sunDir.value.fromArray(l, 3)
    uniforms.zenith.value.fromArray(l, 6)
    uniforms.horizon.value.fromArray(l, 9)
    uniforms.ground.value.fromArray(l, 12)
    uniforms.haze.value = l[15]! > 0 ? 1 / l[15]! : 0
    uniforms.hazeRise.value = l[16]! > 0 ? 1 / l[16]! : 0
    uniforms.hazeBase.value = l[17]!
    uniforms.toShadow.value.fromArray(l, 18)
    const px = l[34]!
    uniforms.shadowPx.value = px
    if (px && (!this.shadow || this.shadow.width !== px)) {
      this.shadow?.dispose()
      this.shadow = new WebGLRenderTarget(px, px, {
        format: RedFormat,
        type: FloatType,
        minFilter: NearestFilter,
        magFilter: NearestFilter,
      })
      uniforms.shadowMap.value = this.shadow.texture
    }
    const scale = Math.hypot(l[18]!, l[22]!, l[26]!)
    uniforms.shadowBias.value = scale > 0 ? 3 / px / scale : 0
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
    this.took.evaluate = performance.now() - start
    for (const [v, t] of this.thumbs) t.stale ||= force || !v.key
    this.invalidate()
  }

  /** Moves everything without asking for a new picture. */
  private moveTo(story: number) {
    this.state.evaluate(story)
    const from = this.state.instances
    for (const { mesh, members, skin } of this.batches) {
      if (skin >= 0) bend(mesh.geometry, skin)
      if (mesh instanceof InstancedMesh) {
        const to = mesh.instanceMatrix.array as Float32Array
        for (let k = 0; k < members.length; k++) {
          const i = members[k]! * 16
          for (let x = 0; x < 16; x++) to[k * 16 + x] = from[i + x]!
        }
        mesh.instanceMatrix.needsUpdate = true
      } else {
        mesh.matrix.fromArray(from, members[0]! * 16)
        mesh.matrixWorld.copy(mesh.matrix)
      }
    }
    this.light()
    this.shadowStale = true
  }

  cameraIndex(id: string): number {
    return this.structure.cameras.indexOf(id)
  }
  position(node: string): Vector3 | null {
    const into = new Vector3()
    return this.placeOf(node, into) ? into : null
  }
  /** Sets a vector to where a node is; false when it is not there. */
  placeOf(node: string, into: Vector3): boolean {
    const i = this.nodeIndex.get(node)
    if (i === undefined) return false
    into.fromArray(this.state.nodes, i * 16 + 12)
    return true
  }
  matrix(node: string): Matrix4 | null {
    const i = this.nodeIndex.get(node)
    return i === undefined ? null : new Matrix4().fromArray(this.state.nodes, i * 16)
  }

  /** Sets a three.js camera to one of the scene's cameras, perhaps with more around its picture. */
  lens(id: string, into: PerspectiveCamera, wider = { x: 1, y: 1 }): boolean {
    const i = this.cameraIndex(id)
    if (i < 0) return false
    aim(into, this.state.cameraMatrix(i), this.state.camera(i), wider)
    return true
  }

  /** A picture of a camera at a story frame as an address of data; the views stay as they are. */
  still(camera: string, story: number, width: number, height: number, shot = ''): Promise<string> {
    return this.picture(story, width, height, shot, (lens) => this.lens(camera, lens))
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
    shot: string,
    look: (lens: PerspectiveCamera) => boolean,
  ): Promise<string> {
    if (!this.works) return ''
    const lens = new PerspectiveCamera()
    this.moveTo(story)
    if (!look(lens)) {
      this.moveTo(this.story)
      return ''
    }
    const target = new WebGLRenderTarget(width, height, { samples: 4 })
    const r = this.renderer
    r.setScissorTest(false)
    this.lit()
    r.setRenderTarget(target)
    r.clear()
    this.draw(lens, false, shot)
    r.setRenderTarget(null)
    this.moveTo(this.story)
    // Read when the picture is there, so that nothing waits for it.
    const pixels = new Uint8Array(width * height * 4)
    await r.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels)
    target.dispose()
    const canvas = document.createElement('canvas')
    canvas.width = width
    canvas.height = height
    const context = canvas.getContext('2d', { willReadFrequently: true })!
    const image = context.createImageData(width, height)
    for (let y = 0; y < height; y++)
      image.data.set(pixels.subarray((height - 1 - y) * width * 4, (height - y) * width * 4), y * width * 4)
    context.putImageData(image, 0, 0)
    return canvas.toDataURL('image/jpeg', 0.85)
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

  private render() {
    this.request = 0
    if (!this.dirty) return
    this.dirty = false
    if (!this.works) {
      for (const f of this.drawn) f() // marks over the views are there all the same
      return
    }
    const start = performance.now()
    const r = this.renderer
    const width = window.innerWidth
    const height = window.innerHeight
    const ratio = Math.min(2, window.devicePixelRatio)
    if (r.getPixelRatio() !== ratio) r.setPixelRatio(ratio)
    const size = r.getSize(new Vector2())
    if (size.x !== width || size.y !== height) r.setSize(width, height)
    r.setRenderTarget(null)
    r.setScissorTest(false)
    r.clear()
    r.setScissorTest(true)
    let waiting = false
    let budget = 2
    const order = [...this.views].sort((a, b) => Number(!!a.over) - Number(!!b.over))
    for (const v of order) {
      const camera = v.camera()
      const box = visible(v)
      if (!camera || !box) continue
      const air = v.air?.()
      if (v.thumbnail) {
        let t = this.thumbs.get(v)
        const w = Math.round(box.full.width * ratio)
        const h = Math.round(box.full.height * ratio)
        if (!t || t.target.width !== w || t.target.height !== h) {
          t?.target.dispose()
          t = { target: this.target(w, h), stale: true, key: '' }
          this.thumbs.set(v, t)
          budget++
        }
        const key = v.key?.() ?? ''
        if ((t.stale || t.key !== key) && budget > 0) {
          budget--
          t.stale = false
          t.key = key
          if (air) this.compose(air, t.target, true)
          else {
            this.settle()
            this.lit()
            this.into(t.target)
            this.draw(camera, !!v.free, v.shot?.())
          }
          this.into(null)
        }
        waiting ||= t.stale || t.key !== key
        this.show(t.target, box, height, camera)
        continue
      }
      if (air && !this.plain(air)) {
        const w = Math.round(box.full.width * ratio)
        const h = Math.round(box.full.height * ratio)
        this.mixed = this.sized(this.mixed, w, h)
        this.compose(air, this.mixed)
        this.into(null)
        this.show(this.mixed, box, height, camera)
        continue
      }
      this.settle()
      if (this.lit()) this.into(null)
      this.window(box, height)
      if (v.over) r.clearDepth()
      const f = v.focus?.()
      if (f && (f.blur || f.tint)) this.drawThroughLens(camera, box, height, ratio, f, v.shot?.())
      else this.draw(camera, !!v.free, v.shot?.())
    }
    this.settle()
    this.took.draw = performance.now() - start
    for (const f of this.drawn) f()
    if (waiting) this.invalidate()
  }

  private target(w: number, h: number, deep = false) {
    return new WebGLRenderTarget(Math.max(1, w), Math.max(1, h), {
      samples: 4,
      ...(deep ? { depthTexture: new DepthTexture(Math.max(1, w), Math.max(1, h), FloatType) } : {}),
    })
  }
  /** A target of a size: the one at hand if it fits. */
  private sized(now: WebGLRenderTarget | undefined, w: number, h: number, deep = false) {
    if (now?.width === Math.max(1, w) && now.height === Math.max(1, h)) return now
    now?.dispose()
    return this.target(w, h, deep)
  }
  /** Draws into a target, cleared, or with null into the window again. */
  private into(t: WebGLRenderTarget | null) {
    this.renderer.setRenderTarget(t)
    this.renderer.setScissorTest(!t)
    if (t) this.renderer.clear()
  }
  private show(t: WebGLRenderTarget, box: { full: Box; clip: Box }, height: number, camera: Camera) {
    this.window(box, height)
    this.copyMaterial.uniforms.picture!.value = t.texture
    this.renderer.render(this.copyScene, camera)
  }

  private mixed?: WebGLRenderTarget
  /** Whether what is on air is one camera at the stage's moment. */
  private plain(air: Air) {
    const [p, second] = air.playing
    return !!p && !second && !air.dip && !p.still && !p.between && p.story === this.story
  }
  /** Brings the scene back to the stage's moment. */
  private settle() {
    if (!this.moved) return
    this.moved = false
    this.moveTo(this.story)
  }
  /** Draws what is on air: its shots by their shares, a dip's colour for the rest. */
  private compose(air: Air, into: WebGLRenderTarget, small = false) {
    const shown = air.playing.slice(0, 2).map((p, i) => {
      const t = this.sized(this.layers[i], into.width, into.height)
      this.layers[i] = t
      this.layer(p, t, small)
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
  private layer(p: Playing, into: WebGLRenderTarget, small: boolean) {
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
    if (p.between) {
      const numbers = core.between(p.between)
      if (!numbers) return this.into(into)
      c = readCamera(numbers)
      aim(this.layerLens, numbers.subarray(0, 16), c)
      this.goTo(p.story)
    } else {
      this.goTo(p.story)
      const i = this.cameraIndex(p.camera)
      if (i < 0) return this.into(into)
      c = this.state.camera(i)
      aim(this.layerLens, this.state.cameraMatrix(i), c)
    }
    this.lit()
    if (!this.blur) {
      this.into(into)
      return this.draw(this.layerLens, false, p.shot)
    }
    this.through = this.sized(this.through, w, h, true)
    this.into(this.through)
    this.draw(this.layerLens, false, p.shot)
    this.into(into)
    this.lensPass(this.layerLens, c, h, true)
  }
  /** Moves everything to another moment for as long as a frame is drawn. */
  private goTo(story: number) {
    if (!this.moved && story === this.story) return
    this.moved = true
    this.moveTo(story)
  }

  private through?: WebGLRenderTarget
  /** Draws a view with the blur of a camera's lens, or a tint outside its sharp zone. */
  private drawThroughLens(
    camera: Camera,
    box: { full: Box; clip: Box },
    height: number,
    ratio: number,
    focus: Focus,
    shot?: string,
  ) {
    const h = Math.round(box.full.height * ratio)
    this.through = this.sized(this.through, Math.round(box.full.width * ratio), h, true)
    this.into(this.through)
    this.draw(camera, false, shot)
    this.into(null)
    this.window(box, height)
    const c = this.state.camera(this.cameraIndex(focus.camera))
    this.lensPass(camera, c, h, focus.blur, focus.tint ? focus.sensor : undefined)
  }
  private lensPass(camera: Camera, c: CameraNow, height: number, blur: boolean, sensor?: [number, number]) {
    const u = lensMaterial.uniforms
    u.picture!.value = this.through!.texture
    u.depth!.value = this.through!.depthTexture
    u.spread!.value = blur ? (c.spread * height) / 2 : 0
    u.focus!.value = c.focus
    u.zone!.value = [0, -1]
    if (sensor) {
      const zone = core.sharpZone(c.focal, c.stop, c.focus, sensor)
      u.zone!.value = [zone.near, zone.far < 0 ? 0 : zone.far]
    }
    this.renderer.render(this.lensScene, camera)
  }

  private window(box: { full: Box; clip: Box }, height: number) {
    const { full, clip } = box
    this.renderer.setViewport(full.x, height - full.y - full.height, full.width, full.height)
    this.renderer.setScissor(clip.x, height - clip.y - clip.height, clip.width, clip.height)
  }

  private draw(camera: Camera, free: boolean, shot = '') {
    camera.updateMatrixWorld()
    const shows = (b: Shooting) => free || (!b.hidden && (b.only.length === 0 || b.only.includes(shot)))
    for (const b of this.batches) b.mesh.visible = shows(b)
    let n = 0
    this.lampShooting.forEach((lamp, i) => {
      if (n < maxLamps && (!lamp || shows(lamp))) this.lightLamp(i, n++)
    })
    uniforms.lampCount.value = n
    const ortho = camera instanceof OrthographicCamera
    uniforms.eye.value.setFromMatrixPosition(camera.matrixWorld)
    uniforms.clearAir.value = ortho ? 1 : 0
    if (ortho) this.renderer.clear(true, true)
    else {
      skyMaterial.uniforms
        .unproject!.value.copy(camera.matrixWorld)
        .multiply((camera as PerspectiveCamera).projectionMatrixInverse)
      this.renderer.render(this.skyScene, camera)
    }
    this.renderer.render(this.scene, camera)
  }

  /** Hands a lamp of the state to the shaders as one of those that shine. */
  private lightLamp(i: number, at: number) {
    const lamps = this.state.lamps
    const k = i * lampFloats
    uniforms.lampAt.value[at]!.set(lamps[k]!, lamps[k + 1]!, lamps[k + 2]!, lamps[k + 6]!)
    uniforms.lampColor.value[at]!.fromArray(lamps, k + 3)
    uniforms.lampCone.value[at]!.fromArray(lamps, k + 7)
    uniforms.lampInner.value[at] = lamps[k + 11]!
  }

  /** Sees to it that shadows fall as things stand; true when that has left the window. */
  private lit(): boolean {
    if (!this.shadowStale) return false
    this.shadowStale = false
    if (!this.shadow || !uniforms.shadowPx.value) return false
    this.renderShadow(this.shadow)
    return true
  }
  private renderShadow(into: WebGLRenderTarget) {
    const r = this.renderer
    r.setRenderTarget(into)
    r.setScissorTest(false)
    r.setClearColor(0xffffff, 1)
    r.clear()
    r.setClearColor(0, 0)
    // What cameras do not see casts no shadow either.
    for (const b of this.batches) b.mesh.visible = !b.hidden && b.only.length === 0
    for (const { mesh } of this.batches)
      mesh.material = mesh instanceof InstancedMesh ? manyDepthMaterial : depthMaterial
    r.render(this.scene, everything)
    for (const b of this.batches) b.mesh.material = b.material
  }
}

const everything = new OrthographicCamera(-1e6, 1e6, 1e6, -1e6, -1e6, 1e6)

/** The parts of a colour written #rrggbb, from 0 to 1. */
const rgb = (c: string): Vec3 => [1, 3, 5].map((i) => parseInt(c.slice(i, i + 2), 16) / 255) as Vec3

interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** Where a view is in the window, and the part that no scrolling hides. */
function visible(v: View): { full: Box; clip: Box } | null {
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
  if (x1 <= x0 || y1 <= y0) return null
  return { full, clip: { x: x0, y: y0, width: x1 - x0, height: y1 - y0 } }
}

function geometry(index: number): { shape: BufferGeometry; width?: number; height?: number } {
  const m = core.mesh(index)
  const shape = new BufferGeometry()
  shape.setAttribute('position', new BufferAttribute(m.positions, 3))
  shape.setAttribute('normal', new BufferAttribute(m.normals, 3))
  shape.setAttribute('color', new BufferAttribute(m.colors, 4))
  if (m.uvs.length) shape.setAttribute('uv', new BufferAttribute(m.uvs, 2))
  shape.setIndex(new BufferAttribute(m.indices, 1))
  shape.computeBoundingSphere()
  return { shape, width: m.width, height: m.height }
}

/** A texture as the renderer samples it: repeating, with halvings for small sizes. */
function picture(pixels: Uint8Array, width: number, height: number): DataTexture {
  const t = new DataTexture(pixels, width, height, RGBAFormat)
  t.colorSpace = SRGBColorSpace
  t.wrapS = t.wrapT = RepeatWrapping
  t.magFilter = LinearFilter
  t.minFilter = LinearMipmapLinearFilter
  t.generateMipmaps = true
  t.needsUpdate = true
  return t
}

/** Takes over how a mesh is bent at the evaluated frame. */
function bend(shape: BufferGeometry, skin: number) {
  const [p, n] = [shape.attributes.position!, shape.attributes.normal!]
  const bytes = (a: { array: ArrayLike<number> }) => new Uint8Array((a.array as Float32Array).buffer)
  core.bent(skin, bytes(p), bytes(n))
  p.needsUpdate = true
  n.needsUpdate = true
}

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
  stage ??= new Stage()
  return stage
}
