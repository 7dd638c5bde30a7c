// The way to the core: the same Go code as on the server, compiled to
// WebAssembly. This file loads it and gives its calls types; rules live there.
import type {
  Action,
  Board,
  Card,
  Footage,
  Format,
  Key,
  Kit,
  Line,
  Marker,
  Model,
  Node,
  Path,
  ProscenScene as Document,
  Settings,
  Shot,
  Sound,
  SunClock,
  Track,
} from './scene.gen'
import coreUrl from '../../wasm/core.wasm?url'

export type {
  Action,
  Board,
  Card,
  Document,
  Footage,
  Key,
  Kit,
  Line,
  Model,
  Marker,
  Node,
  Path,
  Settings,
  Shot,
  Sound,
  Track,
}
export type CollectionName = Exclude<keyof Document, 'schema'>
export type Vec3 = [number, number, number]

export interface Change {
  layer?: string
  collection: string
  id: string
  before?: unknown
  after?: unknown
}
export type Patch = Change[]
/** An edit of the scene: in its log, or on its way there. */
export interface Edit {
  id: string
  revision?: number
  base: number
  kind: 'do' | 'undo' | 'redo' | 'restore'
  of?: string
  label: string
  operation?: string
  arguments?: unknown
  tab?: string
  person?: string
  patch?: Patch
}
/** An edit that can be undone or redone. */
export interface Step {
  id: string
  label: string
  /** Of the edit whose patch is needed, which has to be fetched when it is missing. */
  revision: number
  missing?: boolean
}
/** An edit that could not be kept. */
export interface Lost {
  edit: Edit
  why: string
}
/** How this copy of the scene stands to the server's. */
export interface Synced {
  revision: number
  /** Ids of edits that the server has not confirmed. */
  waiting: string[]
  undo: Step[]
  redo: Step[]
  lost?: Lost[]
  /** Edits that are in the log after all, though they were said to be lost. */
  found?: string[]
  /** Edits between are missing. */
  behind?: boolean
  /** The copy has to be loaded again. */
  astray?: boolean
}

export interface EntityNow {
  collection: CollectionName
  id: string
  value: unknown
}
/** What a change of the scene gives back. */
export interface Outcome {
  edit?: Edit
  changed?: EntityNow[]
  synced?: Synced
  error?: string
}
/** One thing that differs between two states of the scene. */
export interface Differing {
  collection: string
  id: string
  name: string
  what: 'added' | 'removed' | 'changed'
  fields?: string[]
}
/** What a preview, or taking one back, changes. */
export interface Previewed {
  changed: EntityNow[]
  /** Shots that have only been moved in screen time, with their first frames and those after their last. */
  moved?: string[]
  frames?: number[]
  /** They are the same shots as in the answer before, and are not named again. */
  again?: boolean
  error?: string
  /** The tab that is dragging what would be grabbed. */
  held?: string
}
export interface Structure {
  version: number
  nodes: string[]
  /** Skin is the number of a mesh that bends, or −1. */
  instances: { node: number; mesh: number; skin: number }[]
  meshes: string[]
  cameras: string[]
  lamps: string[]
  aspect: number
  /** Nodes that cameras do not see, or that only some shots see. */
  shooting: { node: number; hidden: boolean; only: string[] }[]
}
export interface MeshData {
  positions: Float32Array
  normals: Float32Array
  colors: Float32Array
  indices: Uint32Array
  /** Two for each vertex, or none. */
  uvs: Float32Array
  /** Of its texture, if it has one. */
  width?: number
  height?: number
}
/** What a ray meets: the node, where, and the surface's direction there. */
export interface Struck {
  node: string
  at: Vec3
  normal: Vec3
  distance: number
}
/** A build parameter that can be dragged: it changes by gain for each metre along the axis. */
export interface Handle {
  param: string
  title: string
  at: Vec3
  axis: Vec3
  gain: number
  value: number
  min: number
  max: number
}
/** What a snap lines up with: a line across an axis, of a node or of the grid. */
export interface Hint {
  axis: number
  value: number
  node: string
}
export interface Way {
  length: number
  seconds: number
  speed: number
}
/** What stands for a camera: a picture among the files, a card, a frame of footage, or what to say. */
export interface Still {
  blob?: string
  card?: string
  video?: string
  frame?: number
  /** Frames a second of the video, when it is not the scene's. */
  rate?: number
  say?: string
}
/** A camera on its way from one shot's camera to the next one's. */
export interface Between {
  fromCamera: string
  fromStory: number
  toCamera: string
  toStory: number
  share: number
}
export interface Playing {
  shot: string
  camera: string
  story: number
  weight: number
  still?: Still
  between?: Between
}
/** What is on air: the shot that holds the frame first; a dip's colour has the rest of the picture. */
export interface Air {
  playing: Playing[]
  dip?: string
}
export interface CutShot {
  id: string
  /** The shot that stands for a cue, which is not in the document. */
  cue?: Shot
}
export interface Cut {
  /** Changes whenever shots come, go or change their order. */
  version: number
  shots: CutShot[]
  assembly: string
  /** The main lane, and the spare lanes in order. */
  lane: string
  spares: { id: string; shots: CutShot[] }[]
}
/** Which handle frames a join lacks, and how long it can be on either side of the seam. */
export interface Lack {
  out: string
  in: string
  tail: number
  head: number
  mostBefore: number
  mostAfter: number
}
export interface Difference {
  number: string
  what: string
  first: string
  second: string
  a: string
  b: string
  at: number
}
export interface Rhythm {
  beats: { shot: string; number: string; frames: number; off: number; far: boolean }[]
  average: number
  median: number
  total: number
  gaps: number
  over: number
}
export interface CutFormat {
  id: string
  title: string
  ending: string
  media: string
  reads: boolean
  lines: boolean
}
/** A piece of a sound that is heard over [in, out) of the clock that plays. */
/** A line as a shot lets it be heard, on the screen clock. */
export interface Said {
  shot: string
  line: string
  in: number
  out: number
  speed: number // of the shot
  cut?: boolean // only a part of it is heard
}

export interface Heard {
  sound: string
  in: number
  out: number
  offset: number
  speed: number
  levels: { at: number; gain: number }[]
  /** Its track is muted, or another one is solo. */
  muted?: boolean
  /** It stands for several pieces that are too short to be seen. */
  gathered?: boolean
}
export interface PathLine {
  points: number[]
  ticks: number[]
  length: number
}
export interface StockParam {
  name: string
  title: string
  unit: string
  default: number
  min: number
  max: number
}
export interface StockPiece {
  id: string
  title: string
  group: string
  kind: 'set' | 'prop' | 'vehicle'
  color: string
  params: StockParam[]
}
export interface Stock {
  pieces: StockPiece[]
  deeds: string[]
  /** Those deeds that are laid over what the body does. */
  gestures: string[]
  builds: string[]
}
/** One camera at the evaluated frame; lengths in mm and m, angles in degrees. */
export interface CameraNow {
  pan: number
  tilt: number
  roll: number
  focal: number
  squeeze: number
  stop: number
  focus: number
  gateWidth: number
  gateHeight: number
  hfov: number
  vfov: number
  /** How far off its axis the picture's middle is, as tangents to the right and up. */
  shiftX: number
  shiftY: number
  /** Diameter of the blur at infinity as a share of the picture's height. */
  spread: number
}
/** What the trade offers. */
export interface Trade {
  sensors: { name: string; width: number; height: number }[]
  squeezes: number[]
  stops: number[]
  sizes: { name: string; headroom: number }[]
  angles: string[]
}
/** Asks for a picture of one or two people; what is left out follows the rules. */
export interface Wish {
  camera: string
  subjects: string[]
  over?: string
  size: string
  angle: string
  focal: number
  around?: number
  x?: number
  headroom?: number
  room?: number
  frame: number
}
/** A place for a camera and what its picture is. */
export interface Composed {
  position: Vec3
  turn: Vec3
  focal: number
  focus: number
  around: number
  angle: string
  words: string
  hfov: number
  vfov: number
  shift: [number, number]
}
/** How much of a subject is seen: 0 outside, 1 hidden, 2 cut, 3 small, 4 seen; ribbons add 8 in focus. */
export interface Framed {
  node: string
  name: string
  /** Left, bottom, right and top in the picture, −1 to 1. */
  box: [number, number, number, number]
  depth: number
  status: number
  size?: string
  focus: boolean
}
/** What a crew asks about a camera; metres, degrees, frames of story time. */
export interface Numbers {
  height: number | null
  subject: string
  distance: number
  tilt: number
  heading: number
  roll: number
  near: number
  far: number
  hyperfocal: number
  speed: number
  panRate: number
  moves: boolean
  from: number
  to: number
  travel: number
  greatest: number
  greatestAt: number
  pan: number
  panAt: number
  size: string
  comfortable: number
  fastestPan: number
}
export interface Overshoot {
  channel: string
  from: number
  to: number
  by: number
}

interface RawCore {
  open(body: Uint8Array): string
  run(name: string, args: string): string
  preview(name: string, args: string): string
  cancel(): string
  warm(): void
  join(who: string): string
  turn(kind: string): string
  next(): string
  receive(edits: string): string
  refused(id: string, why: string): string
  synced(): string
  pending(): string
  fetched(revision: number, patch: string): string
  guest(tab: string, operation: string, args: string): string
  held(): string
  newID(): string
  look(body: Uint8Array): string
  back(): string
  restore(body: Uint8Array, label: string): string
  compare(first: Uint8Array, second?: Uint8Array): string
  document(): string
  structure(known?: number): string
  mesh(index: number): MeshData
  evaluate(frame: number, into: Record<string, Uint8Array>): void
  onAir(screen: number): string
  screenAt(story: number, near: number): number
  cut(known: number): string
  choose(assembly: string): string
  airOf(assembly: string, screen: number): string
  between(b: string): Float32Array | string
  rhythm(assembly: string): string
  differences(a: string, b: string): string
  joinLack(shot: string, kind: string, frames: number, align: string): string
  schedule(clock: string, from: number, to: number, least: number): string
  lines(from: number, to: number, least: number): string
  uses(): string
  keysOf(shot: string): string
  entrances(shot: string, subjects: string, from: number, to: number): string
  shotAt(shot: string, screen: number): string
  formats(): string
  writeCut(assembly: string, format: string, clock: string, deliveries: string): string
  readCut(data: Uint8Array): string
  cardPicture(
    card: string,
    width: number,
    height: number,
    inside?: Uint8ClampedArray,
    insideWidth?: number,
    insideHeight?: number,
  ): Uint8ClampedArray | string
  path(path: string, node: string): string
  trail(camera: string, frame: number, step: number, count: number): Float32Array
  timecode(clock: string, frame: number): string
  parseTimecode(clock: string, text: string): string
  offered(): string
  atRate(text: string): string
  clip(selection: string, frame: number): string
  unused(): string
  stock(): string
  sharpZone(focal: number, stop: number, focus: number, sensorWidth: number, sensorHeight: number): string
  curve(keys: string, from: number, to: number, steps: number): Float32Array
  aimAngles(x: number, y: number, z: number): string
  picture(id: string, width: number, height: number): Uint8ClampedArray
  modelPicture(bundle: Uint8Array, width: number, height: number, person: boolean): Uint8ClampedArray | string
  missing(): string
  provide(blob: string, bundle: Uint8Array): string
  texture(mesh: number): Uint8Array
  bent(skin: number, positions: Uint8Array, normals: Uint8Array): void
  sunAt(clock: string): string
  handles(node: string): string
  ground(x: number, z: number, leave: string): number | null
  strike(from: Vec3, direction: Vec3, leave: string): string
  extent(nodes: string): string
  snap(nodes: string, by: Vec3, tolerance: number, grid: number): string
  way(collection: string, id: string): string
  trade(): string
  compose(wish: string): string
  suggest(wish: string, most: number): string
  framing(camera: string, subjects: string): string
  ribbon(camera: string, subjects: string, from: number, step: number, count: number): Uint8Array
  numbers(camera: string): string
  overshoots(node: string): string
}

declare global {
  var proscenCore: RawCore | undefined
  var proscenCoreReady: (() => void) | undefined
  var Go: new () => { importObject: WebAssembly.Imports; run(instance: WebAssembly.Instance): Promise<void> }
}

const cameraFloats = 16 + 14
/** Numbers for each lamp: place, colour, reach, direction and the cosines of its cone. */
export const lampFloats = 12
const lookFloats = 35

/** The gain of a heard piece at a frame: straight between its levels. */
export function levelAt(h: Heard, frame: number): number {
  const l = h.levels
  const i = l.findIndex((x) => x.at > frame)
  if (i <= 0) return (i < 0 ? l.at(-1) : l[0])?.gain ?? 1
  const [a, b] = [l[i - 1]!, l[i]!]
  return a.gain + ((b.gain - a.gain) * (frame - a.at)) / (b.at - a.at)
}

/** The story frame after the last one that a shot shows; the clocks' relation is core/scene's. */
export const storyOut = (s: Shot): number => s.storyIn + (s.screenOut - s.screenIn) * s.speed

/** Reads a camera from its numbers, of which the first sixteen are its matrix. */
export function readCamera(numbers: Float32Array): CameraNow {
  const [pan, tilt, roll, focal, squeeze, stop, focus, gateWidth, gateHeight, hfov, vfov, shiftX, shiftY, spread] =
    numbers.subarray(16) as unknown as number[]
  return {
    pan,
    tilt,
    roll,
    focal,
    squeeze,
    stop,
    focus,
    gateWidth,
    gateHeight,
    hfov,
    vfov,
    shiftX,
    shiftY,
    spread,
  } as CameraNow
}

/** The typed arrays that the core fills for a frame. Matrices are column by column. */
export class FrameState {
  instances = new Float32Array(0)
  nodes = new Float32Array(0)
  cameras = new Float32Array(0)
  lamps = new Float32Array(0)
  /** Sun, its direction, zenith, horizon, ground, haze (metres, rise, base), shadow matrix, its pixels. */
  look = new Float32Array(lookFloats)
  private bytes: Record<string, Uint8Array> = {}

  constructor(public structure: Structure) {
    const sizes = {
      instances: structure.instances.length * 16,
      nodes: structure.nodes.length * 16,
      cameras: structure.cameras.length * cameraFloats,
      lamps: structure.lamps.length * lampFloats,
      look: lookFloats,
    }
    for (const [name, n] of Object.entries(sizes)) {
      const array = new Float32Array(n)
      this[name as keyof typeof sizes] = array
      this.bytes[name] = new Uint8Array(array.buffer)
    }
  }

  evaluate(frame: number) {
    raw().evaluate(frame, this.bytes)
  }
  cameraMatrix(i: number): Float32Array {
    return this.cameras.subarray(i * cameraFloats, i * cameraFloats + 16)
  }
  camera(i: number): CameraNow {
    return readCamera(this.cameras.subarray(i * cameraFloats, (i + 1) * cameraFloats))
  }
  nodePosition(i: number): Vec3 {
    return [this.nodes[i * 16 + 12] ?? 0, this.nodes[i * 16 + 13] ?? 0, this.nodes[i * 16 + 14] ?? 0]
  }
}

function raw(): RawCore {
  if (!globalThis.proscenCore) throw new Error('The core is not loaded.')
  return globalThis.proscenCore
}

function answer<T>(text: string): T {
  return JSON.parse(text) as T
}

let movedLast: string[] = []
/** Names the moved shots of an answer that says that they are those of the one before. */
function named(p: Previewed): Previewed {
  if (p.again) p.moved = movedLast
  else if (p.moved) movedLast = p.moved
  return p
}

let loading: Promise<void> | undefined

/** Loads the core once; after a failure it can be tried again. */
export function loadCore(): Promise<void> {
  loading ??= startCore().catch((e: unknown) => {
    loading = undefined
    throw e
  })
  return loading
}

async function startCore() {
  if (globalThis.proscenCore) return
  const failed = new Error('The core could not be loaded. Check that the server is running, and try again.')
  try {
    await import('../../wasm/wasm_exec.js')
    const ready = new Promise<void>((done) => (globalThis.proscenCoreReady = done))
    const go = new globalThis.Go()
    const answer = await fetch(coreUrl)
    if (!answer.ok) throw failed
    const { instance } = await WebAssembly.instantiateStreaming(answer, go.importObject)
    void go.run(instance)
    await ready
  } catch {
    throw failed
  }
}

const bytes = (doc: unknown) => new TextEncoder().encode(JSON.stringify(doc))

export const core = {
  open: (doc: unknown): { assembly?: string; error?: string } => answer(raw().open(bytes(doc))),
  /** Says where the opened scene stands, who this is, and what they have done: in the log, and waiting. */
  join: (who: { revision: number; tab: string; person: string; mine: Edit[]; waiting: Edit[] }): Outcome =>
    answer(raw().join(JSON.stringify(who))),
  run: (name: string, args: object): Outcome => answer(raw().run(name, JSON.stringify(args))),
  preview: (name: string, args: object): Previewed => named(answer(raw().preview(name, JSON.stringify(args)))),
  cancel: (): Previewed => named(answer(raw().cancel())),
  /** Lets what drags of shots call be compiled before one begins. */
  warm: () => raw().warm(),
  turn: (kind: 'undo' | 'redo'): Outcome => answer(raw().turn(kind)),
  /** The oldest edit that the server has not confirmed. */
  next: (): Edit | null => answer(raw().next()),
  synced: (): Synced => answer(raw().synced()),
  pending: (): Edit[] => answer(raw().pending()),
  /** Takes in edits of the log, of others and of this copy. */
  receive: (edits: Edit[]): Outcome => answer(raw().receive(JSON.stringify(edits))),
  /** Sets an edit aside that the server refuses for good. */
  refused: (id: string, why: string): Outcome => answer(raw().refused(id, why)),
  /** Hands over the patch of an edit that can be undone. */
  fetched: (revision: number, patch: Patch): Synced & { error?: string } =>
    answer(raw().fetched(revision, JSON.stringify(patch))),
  /** Shows what another browser is dragging; null when it has let go. */
  guest: (tab: string, drag: { operation: string; arguments: unknown } | null): Outcome =>
    answer(raw().guest(tab, drag?.operation ?? '', JSON.stringify(drag?.arguments ?? {}))),
  /** What others are dragging, as collection/id, by their tabs. */
  held: (): Record<string, string[]> => answer(raw().held()),
  newID: (): string => raw().newID(),
  /** Shows a state of the history instead of the scene, until back. */
  look: (doc: unknown): { error?: string } => answer(raw().look(bytes(doc))),
  back: () => void raw().back(),
  /** Makes the scene what a document is, as an edit. */
  restore: (doc: unknown, label: string): Outcome => answer(raw().restore(bytes(doc), label)),
  /** What differs between two documents; without the second, between one and the scene. */
  compare: (first: unknown, second?: unknown): Differing[] =>
    answer(raw().compare(bytes(first), second ? bytes(second) : undefined)),
  document: (): Document => answer(raw().document()),
  /** How the scene is laid out, or null when that is the layout that is known. */
  laidOut: (known: number): Structure | null => answer(raw().structure(known)),
  structure: (): Structure => answer(raw().structure()),
  mesh: (index: number): MeshData => raw().mesh(index),
  onAir: (screen: number): Air => answer(raw().onAir(screen)),
  /** The screen frame that shows a story frame, preferring the shot at `near`; −1 when none does. */
  screenAt: (story: number, near: number): number => raw().screenAt(story, near),
  /** The cut and its length; of an order that is known by its version, only the length. */
  cut: (known = -1): (Cut | Pick<Cut, 'version'>) & { length: number } => answer(raw().cut(known)),
  /** Selects the assembly that is edited and played. */
  choose: (assembly: string): { error?: string } => answer(raw().choose(assembly)),
  airOf: (assembly: string, screen: number): Air => answer(raw().airOf(assembly, screen)),
  /** The numbers of a camera on a travel, or null. */
  between: (b: Between): Float32Array | null => {
    const out = raw().between(JSON.stringify(b))
    return typeof out === 'string' ? null : out
  },
  rhythm: (assembly: string): Rhythm => answer(raw().rhythm(assembly)),
  differences: (a: string, b: string): Difference[] => answer(raw().differences(a, b)),
  joinLack: (shot: string, kind: string, frames: number, align: string): Lack | null =>
    answer(raw().joinLack(shot, kind, frames, align)),
  /** What is heard of [from, to) of a clock; pieces of fewer frames than least are gathered. */
  schedule: (clock: 'story' | 'screen', from: number, to: number, least = 0): Heard[] =>
    answer(raw().schedule(clock, from, to, least)),
  /** The lines that the cut lets be heard in [from, to) of screen time for some frames at least. */
  lines: (from: number, to: number, least = 0): Said[] => answer(raw().lines(from, to, least)),
  /** The stretches of the story that the cut shows, and how often. */
  uses: (): { in: number; out: number; times: number }[] => answer(raw().uses()),
  /** The screen frames at which the camera of a shot has keys. */
  keysOf: (shot: Shot): number[] => answer(raw().keysOf(JSON.stringify(shot))),
  /** The screen frames of a shot at which subjects come into its picture or go, between two of its frames. */
  entrances: (shot: Shot, subjects: string[], from: number, to: number): number[] =>
    answer(raw().entrances(JSON.stringify(shot), JSON.stringify(subjects), from, to)),
  /** What a shot shows at a screen frame, as if it played alone. */
  shotAt: (shot: string, screen: number): Playing | null => answer(raw().shotAt(shot, screen)),
  /** The open formats for cuts and lines. */
  formats: (): CutFormat[] => answer(raw().formats()),
  writeCut: (
    assembly: string,
    format: string,
    clock: 'story' | 'screen',
    deliveries: Record<string, string>,
  ): { text?: string; notes?: string[]; error?: string } =>
    answer(raw().writeCut(assembly, format, clock, JSON.stringify(deliveries))),
  /** What a file brings: an operation with its arguments. */
  readCut: (data: Uint8Array): { operation?: string; args?: object; notes?: string[]; error?: string } =>
    answer(raw().readCut(data)),
  /** The pixels of a card, perhaps with a picture inside, or of what is said where one is missing. */
  cardPicture: (
    card: Card | { say: string },
    width: number,
    height: number,
    inside?: ImageData,
  ): Uint8ClampedArray | null => {
    const out = inside
      ? raw().cardPicture(JSON.stringify(card), width, height, inside.data, inside.width, inside.height)
      : raw().cardPicture(JSON.stringify(card), width, height)
    return typeof out === 'string' ? null : out
  },
  /** A path's line; with the id of a path of the scene, also its half-second ticks. */
  path: (path: Partial<Path>, id = ''): PathLine & { error?: string } =>
    answer(raw().path(JSON.stringify({ name: '', ...path }), id)),
  /** x, z and pan of a camera at moments before a frame, the latest first. */
  trail: (camera: string, frame: number, step: number, count: number): Float32Array =>
    raw().trail(camera, frame, step, count),
  timecode: (clock: 'story' | 'screen', frame: number): string => raw().timecode(clock, frame),
  /** The frame rates and picture shapes that a scene is offered. */
  offered: (): { rates: string[]; shapes: Format[] } => answer(raw().offered()),
  /** A rate as it is typed, and what the scene would be with it: its story's frames with seconds kept. */
  atRate: (text: string): { rate?: string; drops?: boolean; frames?: number; error?: string } =>
    answer(raw().atRate(text)),
  /** What nothing in the scene uses, with what it is called. */
  unused: (): { collection: CollectionName; id: string; name: string }[] => answer(raw().unused()),
  /** Copies a selection as it looks at a frame of story time, for the operation paste in any scene. */
  clip: (
    selection: { nodes?: string[]; paths?: string[]; shots?: string[] },
    frame: number,
  ): { clip?: Document; error?: string } => answer(raw().clip(JSON.stringify(selection), frame)),
  parseTimecode: (clock: 'story' | 'screen', text: string): { frame?: number; error?: string } =>
    answer(raw().parseTimecode(clock, text)),
  stock: (): Stock => answer(raw().stock()),
  /** The pixels of a portrait: of a stand-in, or of a mannequin for "cast " and a build. */
  picture: (id: string, width: number, height: number): Uint8ClampedArray => raw().picture(id, width, height),
  /** A portrait of an imported model from its bundle, with a person beside it if wanted. */
  modelPicture: (bundle: Uint8Array, width: number, height: number, person: boolean): Uint8ClampedArray | null => {
    const out = raw().modelPicture(bundle, width, height, person)
    return typeof out === 'string' ? null : out
  },
  /** The blobs of imported models that are used and not at hand. */
  missing: (): string[] => answer(raw().missing()),
  provide: (blob: string, bundle: Uint8Array): { error?: string } => answer(raw().provide(blob, bundle)),
  texture: (mesh: number): Uint8Array => raw().texture(mesh),
  /** Fills positions and normals of a mesh that bends. */
  bent: (skin: number, positions: Uint8Array, normals: Uint8Array) => raw().bent(skin, positions, normals),
  /** Heading and height of the sun in degrees. */
  sunAt: (clock: SunClock): [number, number] => answer(raw().sunAt(JSON.stringify(clock))),
  handles: (node: string): Handle[] => answer(raw().handles(node)),
  /** The height of what one walks on at a place of the plan, or null. */
  ground: (x: number, z: number, leave = ''): number | null => raw().ground(x, z, leave),
  strike: (from: Vec3, direction: Vec3, leave: string[] = []): Struck | null =>
    answer(raw().strike(from, direction, JSON.stringify(leave))),
  extent: (nodes: string[]): { min: Vec3; max: Vec3 } | null => answer(raw().extent(JSON.stringify(nodes))),
  snap: (nodes: string[], by: Vec3, tolerance: number, grid: number): { by: Vec3; hints: Hint[] } =>
    answer(raw().snap(JSON.stringify(nodes), by, tolerance, grid)),
  /** Length, time and mean speed of an action, or of a node's travel. */
  way: (collection: 'actions' | 'nodes', id: string): Way => answer(raw().way(collection, id)),
  trade: (): Trade => answer(raw().trade()),
  compose: (w: Wish): Composed & { error?: string } => answer(raw().compose(JSON.stringify(w))),
  suggest: (w: Wish, most = 6): { all?: Composed[]; error?: string } => answer(raw().suggest(JSON.stringify(w), most)),
  /** The size of the shot in words, and how the camera frames subjects, at the evaluated frame. */
  framing: (camera: string, subjects: string[]): { label: string; subjects: Framed[] } =>
    answer(raw().framing(camera, JSON.stringify(subjects))),
  ribbon: (camera: string, subjects: string[], from: number, step: number, count: number): Uint8Array =>
    raw().ribbon(camera, JSON.stringify(subjects), from, step, count),
  numbers: (camera: string): Numbers | null => answer(raw().numbers(camera)),
  overshoots: (node: string): Overshoot[] => answer(raw().overshoots(node)),
  sharpZone: (focal: number, stop: number, focus: number, sensor: [number, number]) =>
    answer<{ near: number; far: number; hyperfocal: number }>(
      raw().sharpZone(focal, stop, focus, sensor[0], sensor[1]),
    ),
  curve: (keys: Key[], from: number, to: number, steps: number): Float32Array =>
    raw().curve(JSON.stringify(keys), from, to, steps),
  aimAngles: (d: Vec3): [number, number] => answer(raw().aimAngles(...d)),
}
