// The way to the core: the same Go code as on the server, compiled to
// WebAssembly. This file loads it and gives its calls short names; what they take
// and give, and the operations, are typed by core.gen.ts, made from the Go code.
import type {
  Brought,
  Calls,
  Card,
  ComposeWish,
  CutNow,
  Compared,
  Delivered,
  Document as Kept,
  Edit,
  EntityNow as Changed,
  Item,
  Key,
  Opened,
  Order,
  Operations as Taking,
  Outcome as Come,
  Patch,
  Path,
  Recipe,
  Playing,
  Heard,
  Previewed as Shown,
  Refusal,
  Selection,
  Shot,
  Structure,
  SunClock,
  Vec,
} from './core.gen'
import coreUrl from '../../wasm/core.wasm?url'

export type * from './core.gen'
/** With all collections: those that a file may leave out are empty. */
export type Document = Required<Kept>
export type Vec3 = Vec
export type Clock = 'story' | 'screen'
export type CollectionName = Exclude<keyof Document, 'schema'>
export type Entity<C extends CollectionName> = C extends 'settings'
  ? Document['settings']
  : Document[Exclude<C, 'settings'>][string]

/** A merge patch (RFC 7386): null takes a member away, lists are replaced. */
export type Merge<T> = T extends unknown[]
  ? T
  : T extends object
    ? { [K in keyof T]?: Merge<Exclude<T[K], undefined>> | (undefined extends T[K] ? null : never) }
    : T
/** Takes an argument's collection and merge as what the collection holds. */
type Merging<A, C extends CollectionName = CollectionName> = C extends CollectionName
  ? Omit<A, 'collection' | 'merge'> & { collection: C; merge: Merge<Entity<C>> }
  : never
type MergingEach<A, C extends CollectionName = CollectionName> = C extends CollectionName
  ? Omit<A, 'collection' | 'merges'> & { collection: C; merges: Record<string, Merge<Entity<C>>> }
  : never

/** The operations with what they take. */
export type Operations = Omit<Taking, keyof Narrowed> & Narrowed
/** What reflection does not tell: merges, and what is worked out when it is left out of a thing that is added. */
interface Narrowed {
  set: Merging<Taking['set']>
  setMany: Merging<Taking['setMany']>
  setEach: MergingEach<Taking['setEach']>
  actionAdd: Sparing<Taking['actionAdd'], 'out'>
  lineAdd: Sparing<Taking['lineAdd'], 'out'>
  cardAdd: Sparing<Taking['cardAdd'], 'name' | 'color' | 'ink'>
  soundAdd: Sparing<Taking['soundAdd'], 'out' | 'gain'>
  trackAdd: Sparing<Taking['trackAdd'], 'name'>
}
type Sparing<A, K extends keyof A> = Omit<A, K> & Partial<Pick<A, K>>
export type OperationName = keyof Operations
/** An operation with its arguments, as drags carry one along. */
export type Operation = { [N in OperationName]: { name: N; args: Operations[N] } }[OperationName]

/** A value for one axis; the others stay as they are, since they may have keys. */
export const alone = (axis: number, v: number) =>
  [0, 1, 2].map((k) => (k === axis ? +v.toFixed(4) : null)) as [number | null, number | null, number | null]

export interface EntityNow extends Changed {
  collection: CollectionName
}
export type Outcome = Partial<Omit<Come, 'changed'>> & { changed?: EntityNow[] }
export type Previewed = Omit<Shown, 'changed'> & { changed: EntityNow[] }

/** What a call answers: perhaps that it cannot be done, as a sentence. */
export type Answer<N extends keyof Calls> = Calls[N]['fails'] extends true
  ? OrRefusal<Calls[N]['gives']>
  : Calls[N]['gives']
type OrRefusal<T> = (T & { error?: undefined }) | ({ [K in keyof T]?: undefined } & Refusal)

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
  /** How it lets through what is behind it, if it does. */
  sheer?: Sheer
}
/** What is less opaque than the cut is not there, or what is behind shows; the opacity is the texture's and what through leaves. */
export interface Sheer {
  cut: number
  blend: boolean
  through: number
  /** How opaque a place has to be to cast a shadow. */
  casts: number
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

/** How the crowding of places is counted and looked up; core/ambient says what it is. */
export interface Crowding {
  /** Cells to each side, and upward. */
  wide: number
  high: number
  /** Layers of surface that the greatest number stands for. */
  layers: number
  step: number
  free: number
  gain: number
  most: number
}

/** An alternate, '' for the scene itself, as a shot has it if there is one. */
export interface Side {
  alternate: string
  shot?: string
  /** Differences that are left out, by their ids. */
  without?: string[]
}

interface RawCore {
  ask(name: string, args: string): string
  open(body: Uint8Array): string
  look(body: Uint8Array): string
  restore(body: Uint8Array, label: string): string
  compare(first: Uint8Array, second?: Uint8Array): string
  readCut(data: Uint8Array): string
  provide(blob: string, bundle: Uint8Array): string
  mesh(index: number): MeshData
  texture(mesh: number): Uint8Array
  bent(skin: number, positions: Uint8Array, normals: Uint8Array): void
  dyed(dye: number, colors: Uint8Array): void
  around(known: number, into: Uint8Array): Float64Array
  crowding(): Crowding
  lampFaces(lamp: number): Float32Array
  lightIn(shot: string): Float32Array | null
  evaluate(frame: number, into: Record<string, Uint8Array>): void
  seen(playing: string): Float32Array | string
  inFormat(format: string, shot: string, camera: string, at: number): Float32Array | string
  trail(camera: string, frame: number, step: number, count: number): Float32Array
  ribbon(camera: string, subjects: string, from: number, step: number, count: number): Uint8Array
  curve(keys: string, from: number, to: number, steps: number): Float32Array
  picture(id: string, width: number, height: number): Uint8ClampedArray
  modelPicture(bundle: Uint8Array, width: number, height: number, person: boolean): Uint8ClampedArray | string
  cardPicture(
    card: string,
    width: number,
    height: number,
    inside?: Uint8ClampedArray,
    insideWidth?: number,
    insideHeight?: number,
  ): Uint8ClampedArray | string
}

declare global {
  var proscenCore: RawCore | undefined
  var proscenCoreReady: (() => void) | undefined
  var Go: new () => { importObject: WebAssembly.Imports; run(instance: WebAssembly.Instance): Promise<void> }
}

const cameraFloats = 16 + 14
/**
 * Numbers for each lamp: place, colour, reach, direction, the cosines of its cone; and of its
 * shadow the right side of its only map and the tangent of half its angle, 0 when there are six
 * all around, −1 when it casts none.
 */
export const lampFloats = 16
const lookFloats = 38

/** The story frame after the last one that a shot shows; the clocks' relation is core/scene's. */
/** Names the layer of a shot in an alternate, '' for the scene; without a shot that of the alternate itself. */
export const layerOf = (alternate: string, shot = '') => (shot ? `${alternate}@${shot}` : alternate)
/** The alternate and the shot, '' for none, of a layer. */
export function layerParts(layer: string): { alternate: string; shot: string } {
  const [alternate = '', shot = ''] = layer.split('@')
  return { alternate, shot }
}
/** The light that a shot has for itself, as a word; '' where it is as the scene. */
export const ownLight = ({ exposure, tint, haze, hour }: Partial<Shot>): string =>
  [exposure, tint, haze, hour].some(Boolean) ? [exposure, tint, haze, hour].join() : ''
export const storyOut = (s: Shot): number => s.storyIn + (s.screenOut - s.screenIn) * s.speed

/** Reads a camera from its numbers, of which the first sixteen are its matrix. */
const known = (numbers: Float32Array | string) => (typeof numbers === 'string' ? null : numbers)

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
  /** Sun, its direction, zenith, horizon, ground, haze (metres, rise, base), shadow matrix, its pixels, gain. */
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

/** Asks the core by the name of a call. */
function ask<N extends keyof Calls>(name: N, args: Calls[N]['takes']): Answer<N> {
  return answer(raw().ask(name, JSON.stringify(args)))
}

function answer<T>(text: string): T {
  return JSON.parse(text) as T
}

let movedLast: string[] | undefined = []
/** Names the moved shots of an answer that says that they are those of the one before. */
function named(answered: Shown): Previewed {
  const p = answered as Previewed
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

const pixels = (out: Uint8ClampedArray | string) => (typeof out === 'string' ? null : out)

export const core = {
  open: (doc: unknown): OrRefusal<Opened> => answer(raw().open(bytes(doc))),
  /** Says where the opened scene stands, who this is, and what they have done: in the log, and waiting. */
  join: (who: Calls['join']['takes']) => ask('join', who) as Outcome,
  run: <N extends OperationName>(name: N, args: Operations[N]) => ask('run', { name, args }) as Outcome,
  preview: <N extends OperationName>(name: N, args: Operations[N]) => named(ask('preview', { name, args })),
  cancel: () => named(ask('cancel', {})),
  /** Lets what drags of shots call be compiled before one begins. */
  warm: () => ask('warm', {}),
  turn: (kind: 'undo' | 'redo') => ask('turn', { kind }) as Outcome,
  /** The oldest edit that the server has not confirmed. */
  next: () => ask('next', {}),
  synced: () => ask('synced', {}),
  pending: () => ask('pending', {}),
  /** Takes in edits of the log, of others and of this copy. */
  receive: (edits: Edit[]) => ask('receive', { edits }) as Outcome,
  /** Sets an edit aside that the server refuses for good. */
  refused: (id: string, why: string) => ask('refused', { id, why }) as Outcome,
  /** Hands over the patch of an edit that can be undone. */
  fetched: (revision: number, patch: Patch) => ask('fetched', { revision, patch }),
  /** Shows what another browser is dragging; null when it has let go. */
  guest: (tab: string, drag: { operation: string; arguments: unknown; alternate?: string } | null) =>
    ask('guest', {
      tab,
      name: drag?.operation ?? '',
      args: drag?.arguments ?? {},
      alternate: drag?.alternate ?? '',
    }) as Outcome,
  /** Works in another alternate from now on, '' for the scene itself. */
  workIn: (alternate: string) => ask('workIn', { alternate }),
  alternates: () => ask('alternates', {}),
  /** Says which alternates are looked at beside what is worked in; answers why some cannot be. */
  comparing: (alternates: string[]) => ask('comparing', { alternates }),
  /**
   * Asks about another alternate than is worked in, as a shot has it, for as long as look runs.
   * It is told which layer that is, and whether that is what is worked in.
   */
  beside<T>(at: Side, look: (layer: string, here: boolean) => T): T {
    const there = ask('beside', at)
    try {
      return look(there.layer ?? '', there.here ?? true)
    } finally {
      ask('homeward', {})
    }
  },
  /** What differs in an alternate from what it hangs on. */
  differing: (alternate: string) => ask('differing', { alternate }),
  /** What differs in an alternate, or a shot of it, from another one. */
  compareSides: (here: string, there: string) => ask('compareSides', { here, there }),
  /** The fields that differ where is worked, by collection/id. */
  differ: () => ask('differ', {}),
  /** What others are dragging, as collection/id, by their tabs. */
  held: () => ask('held', {}),
  newID: () => ask('newID', {}),
  /** Shows a state of the history instead of the scene, until back. */
  look: (doc: unknown): Partial<Refusal> => answer(raw().look(bytes(doc))),
  back: () => void ask('back', {}),
  /** Makes the scene what a document is, as an edit. */
  restore: (doc: unknown, label: string): Outcome => answer(raw().restore(bytes(doc), label)),
  /** What differs between two documents; without the second, between one and the scene. */
  compare: (first: unknown, second?: unknown): Compared[] =>
    answer(raw().compare(bytes(first), second ? bytes(second) : undefined)),
  document: () => ask('document', {}) as Document,
  /** How the scene is laid out, or null when that is the layout that is known. */
  laidOut: (known: number) => ask('structure', { known }),
  structure: () => ask('structure', { known: -1 })!,
  mesh: (index: number) => raw().mesh(index),
  onAir: (screen: number) => ask('onAir', { screen }),
  /** The screen frame that shows a story frame, preferring the shot at `near`; −1 when none does. */
  screenAt: (story: number, near: number, assembly = '') => ask('screenAt', { story, near, assembly }),
  /** The cut and its length; of an order that is known by its version, only the length. */
  cut: (known = -1): CutNow => ask('cut', { known }),
  /** Selects the assembly that is edited and played. */
  choose: (assembly: string) => ask('choose', { assembly }),
  airOf: (assembly: string, screen: number) => ask('airOf', { assembly, screen }),
  outlines: (camera: string, frame: number, formats: string[]) => ask('outlines', { camera, frame, formats }),
  /** The numbers of the camera through which a shot on air is seen, or null. */
  seen: (p: Playing) => known(raw().seen(JSON.stringify(p))),
  /** The same of a camera, perhaps for a shot, as it makes the picture of a format; at is story time, with a shot screen time. */
  inFormat: (format: string, shot: string, camera: string, at: number) =>
    known(raw().inFormat(format, shot, camera, at)),
  rhythm: (assembly: string) => ask('rhythm', { assembly }),
  differences: (first: string, second: string) => ask('differences', { first, second }),
  joinLack: (shot: string, kind: Calls['joinLack']['takes']['kind'], frames: number, align: string) =>
    ask('joinLack', { shot, kind, frames, align }),
  /** What is heard of [from, to) of a clock; pieces of fewer frames than least are gathered. */
  schedule: (clock: Clock, from: number, to: number, least = 0) => ask('schedule', { clock, from, to, least }),
  /** The lines that the cut lets be heard in [from, to) of screen time for some frames at least. */
  lines: (from: number, to: number, least = 0) => ask('lines', { from, to, least }),
  /** The stretches of the story that the cut shows, and how often. */
  uses: () => ask('uses', {}),
  /** The screen frames at which the camera of a shot has keys. */
  keysOf: (shot: Shot) => ask('keysOf', { shot }),
  /** The screen frames of a shot at which subjects come into its picture or go, between two of its frames. */
  entrances: (shot: Shot, subjects: string[], from: number, to: number) =>
    ask('entrances', { shot, subjects, from, to }),
  /** What a shot shows at a screen frame, as if it played alone. */
  shotAt: (shot: string, screen: number) => ask('shotAt', { shot, screen }),
  /** The open formats for cuts and lines. */
  formats: () => ask('formats', {}),
  writeCut: (assembly: string, format: string, clock: Clock, deliveries: Record<string, Delivered>) =>
    ask('writeCut', { assembly, format, clock, deliveries }),
  /** What a file brings: an operation with its arguments. */
  readCut: (data: Uint8Array): OrRefusal<Brought> => answer(raw().readCut(data)),
  /** What a delivery would make. */
  /** What a delivered file would show at a frame of it if it were made now. */
  airNow: (item: Item, recipe: Recipe, frame: number) => ask('airNow', { item, recipe, frame }),
  planned: (order: Order, recipe: Recipe) => ask('planned', { order, recipe }),
  /** What would disappoint in a delivery, where the files of some blobs are lost. */
  doubts: (order: Order, recipe: Recipe, lost: string[]) => ask('doubts', { order, recipe, lost }),
  /** The doubts that were asked for, once more shots have been looked through. */
  moreDoubts: () => ask('moreDoubts', {}),
  /** What assemblies need of each camera, with handles, and what that saves. */
  pulls: (assemblies: string[], head: number, tail: number) => ask('pulls', { assemblies, head, tail }),
  pullTable: (assemblies: string[], head: number, tail: number) => ask('pullTable', { assemblies, head, tail }),
  /** What is wrong with a recipe, '' when nothing is. */
  recipeWrong: (recipe: Recipe) => ask('recipeWrong', { recipe }),
  /** The recipes that every production has. */
  usualRecipes: () => ask('usualRecipes', {}),
  /** What the burn-ins of a recipe say at the beginning of what is delivered first. */
  burnTexts: (order: Order, recipe: Recipe) => ask('burnTexts', { order, recipe }),
  /** The pixels of a card, perhaps with a picture inside, or of what is said where one is missing. */
  cardPicture: (card: Card | { say: string }, width: number, height: number, inside?: ImageData) =>
    pixels(
      inside
        ? raw().cardPicture(JSON.stringify(card), width, height, inside.data, inside.width, inside.height)
        : raw().cardPicture(JSON.stringify(card), width, height),
    ),
  /** A path's line; with the id of a path of the scene, also its half-second ticks. */
  path: (path: Pick<Path, 'form' | 'points' | 'closed'>, id = '') =>
    ask('path', { form: path.form, points: path.points, closed: path.closed, id }),
  /** x, z and pan of a camera at moments before a frame, the latest first. */
  trail: (camera: string, frame: number, step: number, count: number) => raw().trail(camera, frame, step, count),
  timecode: (clock: Clock, frame: number) => ask('timecode', { clock, frame }),
  parseTimecode: (clock: Clock, text: string) => ask('parseTimecode', { clock, text }),
  /** The frame rates and picture shapes that a scene is offered. */
  offered: () => ask('offered', {}),
  /** A rate as it is typed, and what the scene would be with it: its story's frames with seconds kept. */
  atRate: (text: string) => ask('atRate', { text }),
  /** What nothing in the scene uses, with what it is called. */
  unused: () => ask('unused', {}) as { collection: CollectionName; id: string; name: string }[],
  /** Copies a selection as it looks at a frame of story time, for the operation paste in any scene. */
  clip: (selection: Selection, frame: number) => ask('clip', { selection, frame }),
  stock: () => ask('stock', {}),
  /** The pixels of a portrait: of a stand-in, or of a mannequin for "cast " and a build. */
  picture: (id: string, width: number, height: number) => raw().picture(id, width, height),
  /** A portrait of an imported model from its bundle, with a person beside it if wanted. */
  modelPicture: (bundle: Uint8Array, width: number, height: number, person: boolean) =>
    pixels(raw().modelPicture(bundle, width, height, person)),
  /** The blobs of imported models that are used and not at hand. */
  missing: () => ask('missing', {}),
  provide: (blob: string, bundle: Uint8Array): Partial<Refusal> => answer(raw().provide(blob, bundle)),
  texture: (mesh: number) => raw().texture(mesh),
  /** Fills positions and normals of a mesh that bends. */
  bent: (skin: number, positions: Uint8Array, normals: Uint8Array) => raw().bent(skin, positions, normals),
  /** Fills the colours of a mesh whose colour has keys. */
  dyed: (dye: number, colors: Uint8Array) => raw().dyed(dye, colors),
  crowding: () => raw().crowding(),
  /** The matrices of a lamp's shadow maps at the evaluated frame, column by column, to (x·w, y·w, w − near, w). */
  lampFaces: (lamp: number) => raw().lampFaces(lamp),
  /** The light of a shot that has one of its own at the evaluated frame, like a state's look. */
  lightIn: (shot: string) => raw().lightIn(shot),
  /**
   * How crowded places are at the evaluated frame: version, least corner and size of a
   * cell. Fills the numbers of all cells when they have another version than the known one.
   */
  around: (known: number, into: Uint8Array) => raw().around(known, into),
  /** Heading and height of the sun in degrees. */
  sunAt: (clock: SunClock) => ask('sunAt', { clock }),
  handles: (node: string) => ask('handles', { node }),
  /** The height of what one walks on at a place of the plan, or null. */
  ground: (x: number, z: number, leave = '') => ask('ground', { x, z, leave }),
  strike: (from: Vec3, direction: Vec3, leave: string[] = []) => ask('strike', { from, direction, leave }),
  /** What the picture planes show at the evaluated frame. */
  surfaces: () => ask('surfaces', {}),
  /** The corner of a thing that is seen nearest to a ray, within so many metres for each metre of the distance. */
  corner: (from: Vec3, direction: Vec3, spread: number, parallel: boolean) =>
    ask('corner', { from, direction, spread, parallel }),
  /** Where cameras aim that aim at a node, at a frame of story time. */
  aimPoint: (node: string, frame: number) => ask('aimPoint', { node, frame }),
  extent: (nodes: string[]) => ask('extent', { nodes }),
  snap: (nodes: string[], by: Vec3, tolerance: number, grid: number) => ask('snap', { nodes, by, tolerance, grid }),
  /** Length, time and mean speed of an action, or of a node's travel. */
  way: (collection: 'actions' | 'nodes', id: string) => ask('way', { collection, id }),
  trade: () => ask('trade', {}),
  compose: (wish: ComposeWish) => ask('compose', wish),
  newLens: (focal: number) => ask('newLens', { focal }),
  usualHeight: (path: string, frame: number) => ask('usualHeight', { path, frame }),
  /** How well a camera shows the points of the picture that it is matched to. */
  matched: (camera: string, frame: number) => ask('matched', { camera, frame }),
  lasting: (camera: string, subject: string, frame: number) => ask('lasting', { camera, subject, frame }),
  suggest: (wish: ComposeWish, most = 6) => ask('suggest', { wish, most }),
  /** The size of the shot in words, and how the camera frames subjects, at the evaluated frame. */
  framing: (camera: string, subjects: string[]) => ask('framing', { camera, subjects }),
  ribbon: (camera: string, subjects: string[], from: number, step: number, count: number) =>
    raw().ribbon(camera, JSON.stringify(subjects), from, step, count),
  numbers: (camera: string) => ask('numbers', { camera }),
  overshoots: (node: string) => ask('overshoots', { node }),
  sharpZone: (focal: number, stop: number, focus: number, sensor: [number, number]) =>
    ask('sharpZone', { focal, stop, focus, sensor }),
  curve: (keys: Key[], from: number, to: number, steps: number) => raw().curve(JSON.stringify(keys), from, to, steps),
  /** The gain of a heard piece at a frame; between levels it goes straight. */
  gainAt: (h: Heard, frame: number) => ask('gainAt', { levels: h.levels, frame }),
  aimAngles: (direction: Vec3) => ask('aimAngles', { direction }),
}
