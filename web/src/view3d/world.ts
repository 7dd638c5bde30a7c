// What the views look at: the meshes of the core, moved by the core, with their light
// and shadows. What draws it into which pane is the stage's business.
import {
  BufferAttribute,
  BufferGeometry,
  type Camera,
  Data3DTexture,
  DataTexture,
  DoubleSide,
  Frustum,
  FrontSide,
  InstancedMesh,
  LinearFilter,
  LinearMipmapLinearFilter,
  Matrix4,
  Mesh,
  OrthographicCamera,
  PerspectiveCamera,
  type RawShaderMaterial,
  type Texture,
  RedFormat,
  RepeatWrapping,
  RGBAFormat,
  Scene,
  Sphere,
  SRGBColorSpace,
  Vector3,
  type WebGLRenderer,
} from 'three'
import { core, FrameState, lampFloats, type Crowding, type Playing, type Sheer, type Structure } from '@/core/bridge'
import type { Fewer } from './fewer'
import { aim } from './projection'
import { ShadowMap, ShadowSheet, type Look } from './shadowMap'
import {
  castUniforms,
  depthMaterial,
  glow,
  manyDepthMaterial,
  manyMaterial,
  lampNear,
  lampSide,
  maxCasting,
  maxLamps,
  dressed,
  shadesPlainly,
  shadowing,
  surfaceMaterial,
  uniforms,
} from './shading'

/** Metres from the middle of what is drawn after all else. */
const vast = 25
const projected = new Matrix4()

/** Things of one shape that are seen by the same views, drawn at once. */
interface Batch {
  mesh: Mesh | InstancedMesh
  /** Which instances of the core these are. */
  members: number[]
  /** The number of the mesh that bends, or −1. */
  skin: number
  /** The number of the mesh whose colour has keys, or −1. */
  dye: number
  bends: boolean
  /** The picture plane whose picture it shows, "" for other things. */
  surface: string
  material: RawShaderMaterial
  /** What draws it into the shadow map. */
  depth: RawShaderMaterial
  hidden: boolean
  only: string[]
}

/** Through which cameras something is seen. */
interface Shooting {
  hidden: boolean
  only: string[]
}

export class World {
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
  private forms = new Map<string, Form>() // by the keys of their meshes
  private batches: Batch[] = []
  private nodeIndex = new Map<string, number>()
  private lampShooting: (Shooting | undefined)[] = [] // where each lamp shines, if not everywhere
  private shadow?: ShadowMap<Batch>
  private lampSheet?: ShadowSheet
  private lampMaps: ShadowMap<Batch>[] = []
  private casting: { lamp: number; numbers: Float32Array; looks: Look[] }[] = [] // lamps that cast shadows, by rows of the sheet
  private own = new Map<string, Float32Array | null>() // light of shots at the moment
  private crowd?: Data3DTexture
  private crowdDue?: ReturnType<typeof setTimeout>
  private crowdVersion = 0
  private crowdPlace = [0, 0, 0, 0]
  private crowdHow?: Crowding
  private stale = true // what it is made from may have changed
  private stoodAt = NaN

  /**
   * Inside says where the core is asked for it: beside what is worked in, or there. Tell is
   * called when the same moment looks otherwise than before.
   */
  constructor(
    private inside: <T>(look: () => T) => T = (look) => look(),
    private tell: () => void = () => {},
  ) {
    this.scene.matrixAutoUpdate = false
  }

  /** Has all meshes made anew, from now on with fewer triangles or with all. */
  remake(how?: Fewer) {
    fewer = how
    for (const f of this.forms.values()) letGo(f)
    this.forms.clear()
    this.structure.version = -1
    this.outdate()
  }
  /** Notes that what it is made from may have changed. */
  outdate() {
    this.stale = true
  }
  /** Stands as things are at a frame of story time, laid out anew where that has changed. */
  stand(story: number) {
    if (!this.stale && story === this.stoodAt) return
    if (this.stale) this.lay()
    this.stale = false
    this.stoodAt = story
    this.moveTo(story)
  }
  /** Gives back what it holds. */
  dispose() {
    this.clearBatches()
    for (const f of this.forms.values()) letGo(f)
    this.forms.clear()
    this.restore()
  }

  /** Is called when the same moment looks otherwise than before. */
  protected changed() {
    this.tell()
  }

  /** Makes anew what the graphics have lost. */
  restore() {
    this.shadow?.sheet.dispose()
    this.shadow = undefined
    this.lampSheet?.dispose()
    this.lampSheet = undefined
    this.crowd?.dispose()
    this.crowd = undefined
    clearTimeout(this.crowdDue)
    this.crowdDue = undefined
  }

  /** Takes over how the scene is laid out. */
  lay() {
    this.inside(() => {
      const s = core.laidOut(this.structure.version)
      if (!s) return
      this.structure = s
      this.state = new FrameState(s)
      this.nodeIndex = new Map(s.nodes.map((id, i) => [id, i]))
      const changing = new Set(s.instances.filter((x) => x.skin >= 0 || x.dye >= 0).map((x) => x.mesh))
      const had = this.forms
      this.forms = new Map()
      s.meshes.forEach((key, i) => {
        const old = had.get(key)
        had.delete(key)
        this.forms.set(key, old ?? (changing.has(i) ? form(i) : formOf(key, i)))
      })
      for (const gone of had.values()) letGo(gone)
      this.batch()
    })
  }

  /** Sorts what is drawn into batches. */
  private batch() {
    const s = this.structure
    const shown = new Map(s.shooting.map((x) => [x.node, x]))
    this.lampShooting = s.lamps.map((id) => shown.get(s.nodes.indexOf(id)))
    const groups = new Map<string, Batch & { key: string }>()
    s.instances.forEach(({ node, mesh, skin, dye, surface: shows }, i) => {
      const { hidden = false, only = [] } = shown.get(node) ?? {}
      const key = `${mesh} ${hidden} ${only.join()}`
      const g = groups.get(key)
      if (g) g.members.push(i)
      else {
        const blank = { mesh: undefined as unknown as Mesh, material: surfaceMaterial, depth: depthMaterial }
        const surface = shows ? s.nodes[node]! : ''
        groups.set(key, {
          ...blank,
          key: s.meshes[mesh]!,
          members: [i],
          skin,
          dye,
          bends: skin >= 0,
          surface,
          hidden,
          only,
        })
      }
    })
    this.clearBatches()
    this.batches = [...groups.values()].map(({ key, ...b }) => {
      const { shape, sheer, ...f } = this.forms.get(key)!
      const many = b.members.length > 1
      const texture = b.surface ? noPicture : f.texture
      b.material = dressed(many ? manyMaterial : surfaceMaterial, texture, sheer)
      b.depth = shadowing(many ? manyDepthMaterial : depthMaterial, texture, sheer)
      b.mesh = many ? new InstancedMesh(shape, b.material, b.members.length) : new Mesh(shape, b.material)
      // Where a batch's things are changes with every frame; only single ones are
      // left out when they are out of sight.
      b.mesh.frustumCulled = !many
      b.mesh.matrixAutoUpdate = false
      b.mesh.matrixWorldAutoUpdate = false
      // Land and water lie behind what stands on them, and are seen only where nothing does.
      if (!shape.boundingSphere) shape.computeBoundingSphere()
      b.mesh.renderOrder = shape.boundingSphere!.radius > vast && !sheer?.blend ? 1 : 0
      this.scene.add(b.mesh)
      return b
    })
  }

  private clearBatches() {
    for (const b of this.batches) {
      if (b.mesh instanceof InstancedMesh) b.mesh.dispose()
      for (const m of [b.material, b.depth]) if (!shared.includes(m)) m.dispose()
    }
    this.batches = []
    this.scene.clear()
    for (const m of [this.shadow, ...this.lampMaps]) m?.forget()
  }

  /** The light in a shot at the moment, '' for the scene's. */
  private lightIn(shot: string): Float32Array {
    if (!shot) return this.state.look
    let l = this.own.get(shot)
    if (l === undefined) this.own.set(shot, (l = this.inside(() => core.lightIn(shot))))
    return l ?? this.state.look
  }

  /** Asks anew for the light of shots, which may have been changed. */
  relight() {
    this.own.clear()
  }

  private light(r: WebGLRenderer, l: Float32Array) {
    const gain = uniforms.gain.value.fromArray(l, 35)
    uniforms.shine.value.copy(gain).multiplyScalar(glow)
    uniforms.sun.value.fromArray(l, 0).multiply(gain)
    uniforms.sunDir.value.fromArray(l, 3)
    uniforms.zenith.value.fromArray(l, 6).multiply(gain)
    uniforms.horizon.value.fromArray(l, 9).multiply(gain)
    uniforms.ground.value.fromArray(l, 12).multiply(gain)
    uniforms.haze.value = l[15]! > 0 ? 1 / l[15]! : 0
    uniforms.hazeRise.value = l[16]! > 0 ? 1 / l[16]! : 0
    uniforms.hazeBase.value = l[17]!
    uniforms.toShadow.value.fromArray(l, 18)
    const px = l[34]!
    uniforms.shadowPx.value = px
    if (px && this.shadow?.sheet.width !== px) {
      this.shadow?.sheet.dispose()
      this.shadow = new ShadowMap(new ShadowSheet(px, px, r), 0, px)
    }
    uniforms.shadowMap.value = this.shadow?.sheet.texture ?? null
    const scale = Math.hypot(l[18]!, l[22]!, l[26]!)
    uniforms.shadowBias.value = scale > 0 ? 2 / px / scale : 0
  }

  /** Moves everything to a frame of story time. */
  moveTo(story: number) {
    this.inside(() => this.move(story))
  }
  private move(story: number) {
    this.state.evaluate(story)
    const from = this.state.instances
    for (const { mesh, members, skin, dye } of this.batches) {
      if (skin >= 0) bend(mesh.geometry, skin)
      if (dye >= 0) recolor(mesh.geometry, dye)
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
    this.relight()
    this.lookFromLamps()
    this.surround()
  }
  /** Finds out which lamps cast shadows, and where they look. */
  private lookFromLamps() {
    const had = new Map(this.casting.map((c) => [c.lamp, c]))
    this.casting = []
    this.structure.lamps.forEach((_, lamp) => {
      const numbers = this.state.lamps.subarray(lamp * lampFloats, (lamp + 1) * lampFloats)
      if (numbers[15]! < 0 || this.casting.length === maxCasting) return
      const old = had.get(lamp)
      if (old && placing.every((k) => old.numbers[k] === numbers[k])) {
        this.casting.push(old)
        return
      }
      const matrices = core.lampFaces(lamp)
      const n = matrices.length / 16
      const looks = Array.from({ length: n }, (_, i) => ({
        matrix: matrices.slice(i * 16, i * 16 + 16),
        x: (i >> 1) * lampSide,
        y: (i & 1) * lampSide,
        side: n === 1 ? 2 * lampSide : lampSide,
      }))
      this.casting.push({ lamp, numbers: numbers.slice(), looks })
    })
  }

  private makeCrowd() {
    const { wide, high } = (this.crowdHow = core.crowding())
    this.crowd = new Data3DTexture(new Uint8Array(wide * high * wide), wide, high, wide)
    this.crowd.format = RedFormat
    this.crowd.minFilter = this.crowd.magFilter = LinearFilter
    this.crowd.unpackAlignment = 1
    this.crowdVersion = 0
  }
  /** Says to what is drawn how crowded places are here. */
  private crowded() {
    const [x, y, z, cell] = this.crowdPlace
    uniforms.crowdCell.value = cell!
    if (!this.crowd || !this.crowdHow) return
    const { layers, step, free, gain, most } = this.crowdHow
    uniforms.crowd.value = this.crowd
    uniforms.crowdHow.value.set(step, free, gain, most)
    uniforms.crowdLayers.value = layers
    uniforms.crowdFrom.value.set(x!, y!, z!)
  }

  /** Takes over how crowded places are. The first time takes longer, and comes after the first picture. */
  private surround() {
    if (shadesPlainly()) return // it is not seen there
    if (!this.crowd) {
      if (!this.crowdDue) {
        this.crowdDue = setTimeout(() => {
          this.makeCrowd()
          this.inside(() => this.surround())
          this.changed()
        }, firstCrowding)
      }
      return
    }
    const [version, x, y, z, cell] = core.around(this.crowdVersion, this.crowd.image.data as Uint8Array<ArrayBuffer>)
    if (version !== this.crowdVersion) this.crowd.needsUpdate = true
    this.crowdVersion = version!
    this.crowdPlace = [x!, y!, z!, version ? cell! : 0]
  }

  /**
   * The numbers of the camera of what plays: null when there is none, undefined when they are
   * those of its camera as it stands.
   */
  seen(p: Playing, format?: { id: string; screen: number } | null): Float32Array | null | undefined {
    if (!p.between && !p.reframe && !format) return undefined
    return this.inside(() =>
      format && !p.between
        ? core.inFormat(format.id, p.shot, p.camera, p.shot ? format.screen : p.story)
        : core.seen(p),
    )
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

  /** Whether there are picture planes that show something. */
  get surfaced() {
    return this.batches.some((b) => b.surface)
  }
  surfaces() {
    return this.inside(() => core.surfaces())
  }
  /** Shows pictures on picture planes. */
  showOn(pictureOf: (node: string) => Texture | undefined) {
    for (const b of this.batches) if (b.surface) b.material.uniforms.skin!.value = pictureOf(b.surface) ?? noPicture
  }

  /** Draws also the inside of things, or only their outside. */
  twoSided(on: boolean) {
    for (const { material } of this.batches) material.side = on ? DoubleSide : FrontSide
  }

  private sight = new Frustum()
  private reach = new Sphere()
  /**
   * Shows what a view sees, and lets lamps shine that light something of it: all of it when it is
   * free, else what the shot has.
   */
  reveal(camera: Camera, free: boolean, shot: string) {
    const shows = (b: Shooting) => free || (!b.hidden && (b.only.length === 0 || b.only.includes(shot)))
    for (const b of this.batches) b.mesh.visible = shows(b)
    this.sight.setFromProjectionMatrix(projected.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse))
    let n = 0
    this.casting.forEach(({ numbers }, row) => uniforms.lampRight.value[row]!.fromArray(numbers, 12))
    this.lampShooting.forEach((lamp, i) => {
      if (n < maxLamps && (!lamp || shows(lamp)) && this.shines(i)) this.lightLamp(i, n++)
    })
    uniforms.lampCount.value = n
  }
  /** Whether a lamp is on, and reaches what is in sight. */
  private shines(i: number): boolean {
    const l = this.state.lamps
    const k = i * lampFloats
    if (!(l[k + 3]! || l[k + 4]! || l[k + 5]!)) return false
    this.reach.center.set(l[k]!, l[k + 1]!, l[k + 2]!)
    this.reach.radius = l[k + 6]!
    return this.sight.intersectsSphere(this.reach)
  }

  /** Hands a lamp of the state to the shaders as one of those that shine. */
  private lightLamp(i: number, at: number) {
    const lamps = this.state.lamps
    const k = i * lampFloats
    uniforms.lampAt.value[at]!.set(lamps[k]!, lamps[k + 1]!, lamps[k + 2]!, lamps[k + 6]!)
    uniforms.lampColor.value[at]!.fromArray(lamps, k + 3).multiply(uniforms.gain.value)
    uniforms.lampCone.value[at]!.fromArray(lamps, k + 7)
    const row = this.casting.findIndex((c) => c.lamp === i)
    uniforms.lampMore.value[at]!.set(lamps[k + 11]!, row)
  }

  /** Sees to the light of a shot, and that shadows fall as things stand; true when that has left the window. */
  lit(r: WebGLRenderer, shot = ''): boolean {
    const l = this.lightIn(shot)
    this.light(r, l)
    this.crowded()
    if (shadesPlainly()) return false
    // What cameras do not see casts no shadow either.
    const casters = this.batches.filter((b) => !b.hidden && b.only.length === 0)
    let drawn = false
    if (this.shadow && uniforms.shadowPx.value) {
      const side = this.shadow.sheet.width
      const sun = { matrix: l.subarray(18, 34), x: 0, y: 0, side }
      drawn = this.shadow.update(r, [sun], this.state.instances, casters, (which, look) => this.cast(r, which, look, 0))
    }
    this.holdLampSheet(r)
    this.casting.forEach(({ lamp, looks }, row) => {
      const k = lamp * lampFloats
      const on = this.state.lamps.subarray(k + 3, k + 6).some((v) => v > 0)
      if (!on) return
      const reach = this.state.lamps[k + 6]!
      const from = looks.map((l) => ({ ...l, y: l.y + row * 2 * lampSide }))
      if (
        this.lampMaps[row]!.update(r, from, this.state.instances, casters, (which, look) =>
          this.cast(r, which, look, reach),
        )
      )
        drawn = true
    })
    return drawn
  }
  /** Has room for the maps of all lamps that cast shadows. */
  private holdLampSheet(r: WebGLRenderer) {
    // Small graphics hold only the first of them.
    const most = Math.floor(r.capabilities.maxTextureSize / (2 * lampSide))
    const rows = (this.casting.length = Math.min(this.casting.length, most))
    const height = rows * 2 * lampSide
    if (rows && this.lampSheet?.height !== height) {
      this.lampSheet?.dispose()
      const sheet = (this.lampSheet = new ShadowSheet(3 * lampSide, height, r))
      this.lampMaps = this.casting.map((_, row) => new ShadowMap(sheet, row * 2 * lampSide, 2 * lampSide))
    }
    uniforms.lampMaps.value = this.lampSheet?.texture ?? null
  }
  /** Draws what casts shadows into the target that is set, as the sun looks or a lamp with a reach. */
  private cast(r: WebGLRenderer, which: Batch[], look: Look, reach: number) {
    for (const b of this.batches) b.mesh.visible = false
    for (const b of which) {
      b.mesh.visible = true
      b.mesh.material = b.depth
    }
    castUniforms.toMap.value.fromArray(look.matrix)
    castUniforms.fromLamp.value = reach
    // Who looks is asked only for what is out of sight; lamps see no farther than they reach.
    if (reach > 0) {
      const far = Math.max(reach, 2 * lampNear)
      const m = fromLamp.projectionMatrix.fromArray(look.matrix).elements
      // (w − near) becomes ((w − near)·far/(far − near))·2 − w.
      for (let i = 2; i < 16; i += 4) m[i] = (2 * far * m[i]!) / (far - lampNear) - m[i + 1]!
    }
    r.render(this.scene, reach > 0 ? fromLamp : everything)
    for (const b of which) b.mesh.material = b.material
  }
}

/** What a picture plane shows while its picture is on the way. */
const noPicture = picture(new Uint8Array([70, 72, 74, 255]), 1, 1)

/** Materials that batches have in common. */
const shared = [surfaceMaterial, manyMaterial, depthMaterial, manyDepthMaterial]

/** Milliseconds after which places are counted for the first time. */
const firstCrowding = 300

/** The numbers of a lamp that say where it looks. */
const placing = [0, 1, 2, 7, 8, 9, 12, 13, 14, 15]
const fromLamp = new PerspectiveCamera()
const everything = new OrthographicCamera(-1e6, 1e6, 1e6, -1e6, -1e6, 1e6)

/** A mesh of the core, for the graphics. */
interface Form {
  shape: BufferGeometry
  texture?: DataTexture
  sheer?: Sheer
  /** Its key and how many worlds have it, if it is the same in all of them. */
  shared?: { key: string; worlds: number }
}
/** What neither bends nor changes its colour is there once for all worlds. */
const common = new Map<string, Form>()
function formOf(key: string, index: number): Form {
  let f = common.get(key)
  if (!f) common.set(key, (f = { ...form(index), shared: { key, worlds: 0 } }))
  f.shared!.worlds++
  return f
}
function letGo(f: Form) {
  if (f.shared && --f.shared.worlds > 0) return
  if (f.shared) common.delete(f.shared.key)
  f.shape.dispose()
  f.texture?.dispose()
}
function form(index: number): Form {
  const { shape, width, height, sheer } = geometry(index)
  return { shape, sheer, texture: width && height ? picture(core.texture(index), width, height) : undefined }
}

/** What makes meshes with fewer triangles, while views are drawn plainly. */
let fewer: Fewer | undefined

function geometry(index: number) {
  const m = core.mesh(index)
  const shape = new BufferGeometry()
  shape.setAttribute('position', new BufferAttribute(m.positions, 3))
  shape.setAttribute('normal', new BufferAttribute(m.normals, 3))
  shape.setAttribute('color', new BufferAttribute(m.colors, 4))
  if (m.uvs.length) shape.setAttribute('uv', new BufferAttribute(m.uvs, 2))
  shape.setIndex(new BufferAttribute(fewer ? fewer(m) : m.indices, 1))
  shape.computeBoundingSphere()
  return { shape, width: m.width, height: m.height, sheer: m.sheer }
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

const bytes = (a: { array: ArrayLike<number> }) => new Uint8Array((a.array as Float32Array).buffer)

/** Takes over how a mesh is bent at the evaluated frame. */
function bend(shape: BufferGeometry, skin: number) {
  const [p, n] = [shape.attributes.position!, shape.attributes.normal!]
  core.bent(skin, bytes(p), bytes(n))
  p.needsUpdate = true
  n.needsUpdate = true
  shape.computeBoundingSphere() // who is out of sight is left out
}

/** Takes over which colours a mesh has at the evaluated frame. */
function recolor(shape: BufferGeometry, dye: number) {
  core.dyed(dye, bytes(shape.attributes.color!))
  shape.attributes.color!.needsUpdate = true
}
