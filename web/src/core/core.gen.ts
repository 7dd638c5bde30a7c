/* Made from the operations and calls of the core by scripts/generate.sh. */

/**
 * @minItems 3
 * @maxItems 3
 */
export type Vec = [number, number, number];
export type Problems = Problem[];
export type Patch = PatchChange[];

export interface Core {
  Document: Document;
  Opened: Opened;
  Refusal: Refusal;
  Compared: Compared;
  Brought: Brought;
  Between: Between;
  calls: Calls;
  operations: Operations;
}
export interface Document {
  schema: string;
  settings: Settings;
  nodes: {
    [k: string]: Node;
  };
  paths: {
    [k: string]: Path;
  };
  curves: {
    [k: string]: Curve;
  };
  actions: {
    [k: string]: Action;
  };
  assemblies: {
    [k: string]: Assembly;
  };
  lanes: {
    [k: string]: Lane;
  };
  shots: {
    [k: string]: Shot;
  };
  markers: {
    [k: string]: Marker;
  };
  lines: {
    [k: string]: Line;
  };
  formats: {
    [k: string]: Format;
  };
  models: {
    [k: string]: Model;
  };
  kits: {
    [k: string]: Kit;
  };
  boards: {
    [k: string]: Board;
  };
  cards: {
    [k: string]: Card;
  };
  footage: {
    [k: string]: Footage;
  };
  tracks: {
    [k: string]: Track;
  };
  sounds: {
    [k: string]: Sound;
  };
  recipes: {
    [k: string]: Recipe;
  };
  alternates?: {
    [k: string]: Alternate;
  };
  differences?: {
    [k: string]: Difference;
  };
}
export interface Settings {
  production: string;
  title: string;
  rate: string;
  story: Range;
  format: string;
  sun: Sun;
  sky: Sky;
  haze: Haze;
  blur?: boolean;
  exposure?: number;
  tint?: string;
  shutter?: number;
  follow?: boolean;
  storyStart?: number;
  screenStart?: number;
  drop?: boolean;
  lengths?: "feet";
}
export interface Range {
  in: number;
  out: number;
}
export interface Sun {
  heading: number;
  height: number;
  strength: number;
  color: string;
  clock?: SunClock;
}
export interface SunClock {
  latitude: number;
  day: number;
  hour: number;
  light?: boolean;
}
export interface Sky {
  zenith: string;
  horizon: string;
  ground: string;
  strength: number;
}
export interface Haze {
  distance: number;
  rise?: number;
  base?: number;
}
export interface Node {
  kind: "set" | "prop" | "vehicle" | "cast" | "camera" | "lamp" | "aim" | "group";
  name: string;
  parent?: string;
  joint?: string;
  position: Vec;
  turn: Vec;
  scale?: number;
  path?: string;
  alongPath?: boolean;
  hidden?: boolean;
  locked?: boolean;
  tint?: string;
  shooting?: Shooting;
  model?: string;
  piece?: Piece;
  screen?: Screen;
  cast?: Cast;
  camera?: Camera;
  lamp?: Lamp;
}
export interface Shooting {
  hidden?: boolean;
  only?: string[];
}
export interface Piece {
  stock: string;
  params?: {
    [k: string]: number;
  };
  color?: string;
  along?: string;
}
export interface Screen {
  name?: string;
  blob?: string;
  width?: number;
  height?: number;
  film?: Footage;
  from?: number;
  loop?: boolean;
  glow?: boolean;
}
export interface Footage {
  name: string;
  blob: string;
  width: number;
  height: number;
  frames: number;
  pace?: number;
  rate?: string;
}
export interface Cast {
  height: number;
  coat: string;
  legs: string;
  build?: "average" | "slim" | "broad" | "child" | "elder";
  hair?: string;
  hairStyle?: "short" | "long" | "tied" | "bald";
  skin?: string;
}
export interface Camera {
  number: number;
  color: string;
  archived?: boolean;
  folder?: string;
  order?: number;
  support: "sticks" | "dolly" | "handheld" | "mounted";
  unrest?: Unrest;
  aim: "free" | "along" | "at";
  aimAt?: string;
  /**
   * @minItems 2
   * @maxItems 2
   */
  framing: [number, number];
  lag?: number;
  level?: boolean;
  /**
   * @minItems 2
   * @maxItems 2
   */
  sensor: [number, number];
  kit?: string;
  focal: number;
  squeeze?: number;
  /**
   * @minItems 2
   * @maxItems 2
   */
  shift?: [number, number];
  stop: number;
  focus: number;
  focusOn?: string;
  left?: LeftPosition[];
  formats?: {
    [k: string]: Reframe;
  };
  match?: Match;
}
export interface Unrest {
  amount: number;
  rate: number;
  seed: number;
  from?: number;
}
export interface LeftPosition {
  frame: number;
  position: Vec;
  turn: Vec;
  focal: number;
}
export interface Reframe {
  /**
   * @minItems 2
   * @maxItems 2
   */
  shift?: [number, number];
  scale?: number;
  focal?: number;
  move?: Vec;
}
export interface Match {
  blob: string;
  width: number;
  height: number;
  free?: boolean;
  points?: MatchPoint[];
}
export interface MatchPoint {
  at: Vec;
  /**
   * @minItems 2
   * @maxItems 2
   */
  in: [number, number];
}
export interface Lamp {
  color: string;
  strength: number;
  reach: number;
  spot?: number;
  soft?: number;
  shadow?: boolean;
}
export interface Path {
  name: string;
  form: "straight" | "arc" | "curve" | "rise";
  points: Vec[];
  closed?: boolean;
}
export interface Curve {
  node: string;
  channel: string;
  keys: Key[];
}
export interface Key {
  frame: number;
  value: number;
  ease: "hold" | "even" | "soft" | "shaped";
  in?: Handle;
  out?: Handle;
  on?: string;
}
export interface Handle {
  frames: number;
  value: number;
}
export interface Action {
  cast: string;
  do:
    | "stand"
    | "walk"
    | "run"
    | "ride"
    | "sit"
    | "crouch"
    | "turn"
    | "idle"
    | "clip"
    | "talk"
    | "look"
    | "point"
    | "reach"
    | "wave"
    | "take"
    | "give"
    | "put";
  in: number;
  out: number;
  path?: string;
  start?: number;
  end?: number;
  reverse?: boolean;
  /**
   * @minItems 2
   * @maxItems 2
   */
  ease?: [number, number];
  face?: string;
  on?: string;
  joint?: string;
  with?: string;
  at?: Vec;
  hand?: "left" | "right";
  seat?: number;
  turn?: number;
  clip?: string;
}
export interface Assembly {
  name: string;
  target?: number;
  shotTarget?: number;
  cues?: "story" | "screen";
  fixed?: boolean;
  order?: number;
}
export interface Lane {
  assembly: string;
  main?: boolean;
  name: string;
  order?: number;
  locked?: boolean;
}
export interface Shot {
  lane: string;
  number: string;
  name?: string;
  camera: string;
  plays?: "board" | "card" | "footage";
  card?: string;
  footage?: string;
  footageIn?: number;
  screenIn: number;
  screenOut: number;
  storyIn: number;
  speed: number;
  head?: number;
  tail?: number;
  join?: Join;
  locked?: boolean;
  notes?: string;
  status?: "idea" | "blocked" | "agreed";
  exposure?: number;
  tint?: string;
  haze?: number;
  hour?: number;
  formats?: ShotFormats;
}
export interface Join {
  kind: "dissolve" | "dip" | "travel";
  before: number;
  after: number;
  color?: string;
  ease?: "hold" | "even" | "soft" | "shaped";
  rest?: number;
}
export interface ShotFormats {
  [k: string]: ShotFrame;
}
export interface ShotFrame {
  camera?: string;
  /**
   * @minItems 2
   * @maxItems 2
   */
  shift?: [number, number];
  scale?: number;
  focal?: number;
  move?: Vec;
}
export interface Marker {
  assembly?: string;
  clock: "story" | "screen";
  frame: number;
  frames?: number;
  name: string;
  note?: string;
  color: string;
  camera?: string;
}
export interface Line {
  cast: string;
  text: string;
  in: number;
  out: number;
  gesture?: boolean;
}
export interface Format {
  name: string;
  width: number;
  height: number;
  deliver?: boolean;
}
export interface Model {
  name: string;
  blob: string;
  size: Vec;
  triangles: number;
  clips?: Clip[];
}
export interface Clip {
  name: string;
  seconds: number;
}
export interface Kit {
  name: string;
  primes?: number[];
  zooms?: [number, number][];
  squeeze?: number;
  shared?: boolean;
}
export interface Board {
  shot: string;
  name: string;
  blob: string;
  width: number;
  height: number;
  at?: number;
}
export interface Card {
  name: string;
  title?: string;
  text?: string;
  color: string;
  ink: string;
  blob?: string;
  width?: number;
  height?: number;
}
export interface Track {
  name: string;
  clock: "story" | "screen";
  assembly?: string;
  gain: number;
  mute?: boolean;
  solo?: boolean;
  order?: number;
}
export interface Sound {
  track: string;
  name: string;
  blob: string;
  seconds: number;
  in: number;
  out: number;
  from?: number;
  gain: number;
  fadeIn?: number;
  fadeOut?: number;
}
export interface Recipe {
  name: string;
  pack: "h264" | "vp9" | "prores" | "ffv1" | "png" | "jpeg" | "exr";
  quality: "rough" | "check" | "fine";
  scale?: number;
  rate?: string;
  head?: number;
  tail?: number;
  joined?: boolean;
  sound?: boolean;
  lines?: "picture" | "file";
  slate?: number;
  burns?: Burn[];
  mask?: Mask;
  passes?: ("depth" | "normal" | "facing" | "position" | "matte" | "groups")[];
  names?: NamePart[];
  first?: number;
  byStory?: boolean;
}
export interface Burn {
  says: string;
  text?: string;
  x: number;
  y: number;
  size?: number;
}
export interface Mask {
  aspect: number;
  dark: number;
}
export interface NamePart {
  says: string;
  text?: string;
}
export interface Alternate {
  name: string;
  parent?: string;
  format?: string;
  assembly?: string;
  known?: string;
}
export interface Difference {
  alternate: string;
  collection: string;
  thing: string;
  what: "added" | "removed" | "changed";
  fields?: Fields;
  was?: Fields;
}
export interface Fields {}
export interface Opened {
  assembly: string;
}
export interface Refusal {
  error: string;
  problems?: Problems;
}
export interface Problem {
  path: string;
  message: string;
}
export interface Compared {
  collection: string;
  id: string;
  name: string;
  what: "added" | "removed" | "changed";
  fields?: string[];
}
export interface Brought {
  operation: string;
  args: unknown;
  will: Change[];
  notes: string[];
}
export interface Change {
  what: string;
  was?: string;
  is: string;
}
export interface Between {
  from: View;
  to: View;
  share: number;
}
export interface View {
  camera: string;
  story: number;
  reframe?: Reframe;
}
export interface Calls {
  aimAngles: {
    takes: {
      direction: Vec;
    };
    /**
     * @minItems 2
     * @maxItems 2
     */
    gives: [number, number];
    fails: false;
  };
  aimPoint: {
    takes: {
      node: string;
      frame: number;
    };
    gives: Vec;
    fails: false;
  };
  airNow: {
    takes: {
      item: Item;
      recipe: Recipe;
      frame: number;
    };
    gives: Air;
    fails: true;
  };
  airOf: {
    takes: {
      assembly: string;
      screen: number;
    };
    gives: Air;
    fails: false;
  };
  alternates: {
    takes: None;
    gives: LayersNow;
    fails: false;
  };
  atRate: {
    takes: {
      text: string;
    };
    gives: RateRead;
    fails: true;
  };
  back: {
    takes: None;
    gives: Done;
    fails: false;
  };
  beside: {
    takes: {
      alternate: string;
      shot?: string;
      without?: string[];
    };
    gives: BesideNow;
    fails: true;
  };
  burnTexts: {
    takes: Delivering;
    gives: string[];
    fails: true;
  };
  cancel: {
    takes: None;
    gives: Previewed;
    fails: false;
  };
  choose: {
    takes: AssemblyNamed;
    gives: Done;
    fails: true;
  };
  clip: {
    takes: {
      selection: Selection;
      frame: number;
    };
    gives: Clipped;
    fails: true;
  };
  compareSides: {
    takes: {
      here: string;
      there: string;
    };
    gives: Told[];
    fails: true;
  };
  comparing: {
    takes: {
      alternates: string[];
    };
    gives: {
      [k: string]: ComparedSide;
    };
    fails: false;
  };
  compose: {
    takes: ComposeWish;
    gives: Composed;
    fails: true;
  };
  corner: {
    takes: {
      from: Vec;
      direction: Vec;
      spread: number;
      parallel: boolean;
    };
    gives: Vec | null;
    fails: false;
  };
  cut: {
    takes: {
      known: number;
    };
    gives: CutNow;
    fails: false;
  };
  differ: {
    takes: None;
    gives: {
      [k: string]: string[];
    };
    fails: false;
  };
  differences: {
    takes: {
      first: string;
      second: string;
    };
    gives: ProgramDifference[];
    fails: false;
  };
  differing: {
    takes: {
      alternate: string;
    };
    gives: Told[];
    fails: true;
  };
  document: {
    takes: None;
    gives: Document;
    fails: false;
  };
  doubts: {
    takes: Doubting;
    gives: DoubtsNow;
    fails: true;
  };
  entrances: {
    takes: {
      shot: Shot;
      subjects: string[];
      from: number;
      to: number;
    };
    gives: number[];
    fails: false;
  };
  extent: {
    takes: {
      nodes: string[];
    };
    gives: Extent | null;
    fails: false;
  };
  fetched: {
    takes: {
      revision: number;
      patch: Patch;
    };
    gives: Synced;
    fails: true;
  };
  formats: {
    takes: None;
    gives: CutFormat[];
    fails: false;
  };
  framing: {
    takes: CameraSubjects;
    gives: Framing;
    fails: false;
  };
  gainAt: {
    takes: {
      levels: Level[];
      frame: number;
    };
    gives: number;
    fails: false;
  };
  ground: {
    takes: {
      x: number;
      z: number;
      leave?: string;
    };
    gives: number | null;
    fails: false;
  };
  guest: {
    takes: {
      tab: string;
      name: string;
      args: unknown;
      alternate?: string;
    };
    gives: Outcome;
    fails: false;
  };
  handles: {
    takes: NodeNamed;
    gives: HandleNow[];
    fails: false;
  };
  held: {
    takes: None;
    gives: {
      [k: string]: string[];
    };
    fails: false;
  };
  homeward: {
    takes: None;
    gives: Done;
    fails: false;
  };
  join: {
    takes: {
      revision: number;
      tab: string;
      person: string;
      mine: Edit[];
      waiting: Edit[];
    };
    gives: Outcome;
    fails: false;
  };
  joinLack: {
    takes: {
      shot: string;
      kind: "dissolve" | "dip" | "travel";
      frames: number;
      align: string;
    };
    gives: Lack | null;
    fails: false;
  };
  keysOf: {
    takes: {
      shot: Shot;
    };
    gives: number[];
    fails: false;
  };
  lasting: {
    takes: {
      camera: string;
      subject: string;
      frame: number;
    };
    gives: Lasting;
    fails: false;
  };
  lines: {
    takes: Stretch;
    gives: Said[];
    fails: false;
  };
  matched: {
    takes: {
      camera: string;
      frame: number;
    };
    gives: Matched | null;
    fails: false;
  };
  missing: {
    takes: None;
    gives: string[];
    fails: false;
  };
  moreDoubts: {
    takes: None;
    gives: DoubtsNow;
    fails: true;
  };
  newID: {
    takes: None;
    gives: string;
    fails: false;
  };
  newLens: {
    takes: {
      focal: number;
    };
    gives: Lens;
    fails: false;
  };
  next: {
    takes: None;
    gives: Edit | null;
    fails: false;
  };
  numbers: {
    takes: {
      camera: string;
    };
    gives: Numbers | null;
    fails: false;
  };
  offered: {
    takes: None;
    gives: Offered;
    fails: false;
  };
  onAir: {
    takes: AtScreen;
    gives: Air;
    fails: false;
  };
  outlines: {
    takes: {
      camera: string;
      frame: number;
      formats: string[];
    };
    gives: Outline[];
    fails: false;
  };
  overshoots: {
    takes: NodeNamed;
    gives: KeyOvershoot[];
    fails: false;
  };
  parseTimecode: {
    takes: {
      clock: "story" | "screen";
      text: string;
    };
    gives: AtFrame;
    fails: true;
  };
  path: {
    takes: {
      form: "straight" | "arc" | "curve" | "rise";
      points: Vec[];
      closed?: boolean;
      id?: string;
    };
    gives: PathLine;
    fails: true;
  };
  pending: {
    takes: None;
    gives: Edit[];
    fails: false;
  };
  planned: {
    takes: Delivering;
    gives: Planned;
    fails: true;
  };
  preview: {
    takes: Operation;
    gives: Previewed;
    fails: false;
  };
  pullTable: {
    takes: Pulling;
    gives: string;
    fails: false;
  };
  pulls: {
    takes: Pulling;
    gives: Pulled;
    fails: false;
  };
  receive: {
    takes: {
      edits: Edit[];
    };
    gives: Outcome;
    fails: false;
  };
  recipeWrong: {
    takes: {
      recipe: Recipe;
    };
    gives: string;
    fails: false;
  };
  refused: {
    takes: {
      id: string;
      why: string;
    };
    gives: Outcome;
    fails: false;
  };
  rhythm: {
    takes: AssemblyNamed;
    gives: Rhythm;
    fails: false;
  };
  run: {
    takes: Operation;
    gives: Outcome;
    fails: true;
  };
  schedule: {
    takes: {
      clock: "story" | "screen";
      from: number;
      to: number;
      least: number;
    };
    gives: Heard[];
    fails: false;
  };
  screenAt: {
    takes: {
      story: number;
      near: number;
      assembly?: string;
    };
    gives: number;
    fails: false;
  };
  sharpZone: {
    takes: {
      focal: number;
      stop: number;
      focus: number;
      /**
       * @minItems 2
       * @maxItems 2
       */
      sensor: [number, number];
    };
    gives: SharpZone;
    fails: false;
  };
  shotAt: {
    takes: {
      shot: string;
      screen: number;
    };
    gives: Playing | null;
    fails: false;
  };
  snap: {
    takes: {
      nodes: string[];
      by: Vec;
      tolerance: number;
      grid: number;
    };
    gives: Snapped;
    fails: false;
  };
  stock: {
    takes: None;
    gives: Stock;
    fails: false;
  };
  strike: {
    takes: {
      from: Vec;
      direction: Vec;
      leave: string[];
    };
    gives: Struck | null;
    fails: false;
  };
  structure: {
    takes: {
      known: number;
    };
    gives: Structure | null;
    fails: false;
  };
  suggest: {
    takes: {
      wish: ComposeWish;
      most: number;
    };
    gives: Suggested;
    fails: true;
  };
  sunAt: {
    takes: {
      clock: SunClock;
    };
    /**
     * @minItems 2
     * @maxItems 2
     */
    gives: [number, number];
    fails: false;
  };
  surfaces: {
    takes: None;
    gives: SurfaceNow[];
    fails: false;
  };
  synced: {
    takes: None;
    gives: Synced;
    fails: false;
  };
  timecode: {
    takes: OnClock;
    gives: string;
    fails: false;
  };
  trade: {
    takes: None;
    gives: Trade;
    fails: false;
  };
  turn: {
    takes: {
      kind: "undo" | "redo";
    };
    gives: Outcome;
    fails: true;
  };
  unused: {
    takes: None;
    gives: NamedThing[];
    fails: false;
  };
  uses: {
    takes: None;
    gives: Use[];
    fails: false;
  };
  usualHeight: {
    takes: {
      path: string;
      frame: number;
    };
    gives: number;
    fails: false;
  };
  usualRecipes: {
    takes: None;
    gives: Recipe[];
    fails: false;
  };
  warm: {
    takes: None;
    gives: Done;
    fails: false;
  };
  way: {
    takes: {
      collection: "actions" | "nodes";
      id: string;
    };
    gives: Way;
    fails: false;
  };
  workIn: {
    takes: {
      alternate: string;
    };
    gives: Worked;
    fails: true;
  };
  writeCut: {
    takes: {
      assembly: string;
      format: string;
      clock: "story" | "screen";
      deliveries: {
        [k: string]: Delivered;
      };
    };
    gives: WrittenCut;
    fails: true;
  };
}
export interface Item {
  what: string;
  alternate?: string;
  otherwise?: string;
  assembly?: string;
  shot?: string;
  number?: string;
  camera?: string;
  cameraNumber?: number;
  cameraName?: string;
  format: string;
  width: number;
  height: number;
  in: number;
  out: number;
  head?: number;
  tail?: number;
  offset?: number;
  fixed?: boolean;
  moment?: string;
  marker?: string;
  pass?: string;
  pace?: number;
}
export interface Air {
  playing: Playing[];
  dip?: string;
}
export interface Playing {
  shot: string;
  camera: string;
  story: number;
  reframe?: Reframe;
  weight: number;
  still?: Still;
  between?: Between;
}
export interface Still {
  blob?: string;
  card?: string;
  video?: string;
  frame?: number;
  rate?: number;
  say?: string;
}
export interface None {}
export interface LayersNow {
  alternates: AlternateNow[];
  shots: ShotLayerNow[];
}
export interface AlternateNow {
  id: string;
  count: number;
  depth: number;
  fault?: string;
  shut?: boolean;
}
export interface ShotLayerNow {
  layer: string;
  alternate: string;
  shot: string;
  count: number;
  here: boolean;
}
export interface RateRead {
  rate: string;
  drops: boolean;
  frames: number;
}
export interface Done {}
export interface BesideNow {
  layer: string;
  here: boolean;
}
export interface Delivering {
  order: Order;
  recipe: Recipe;
}
export interface Order {
  assemblies?: string[];
  shots?: string[];
  formats?: string[];
  alternates?: string[];
  each?: boolean;
  whole?: boolean;
  cameras?: string[];
  stretch?: Range;
  stills?: string[];
  portraits?: boolean;
  marked?: boolean;
  spots?: Spot[];
  /**
   * @minItems 2
   * @maxItems 2
   */
  size?: [number, number];
}
export interface Spot {
  camera?: string;
  frame: number;
}
export interface Previewed {
  error?: string;
  held?: string;
  changed: EntityNow[];
  moved?: string[];
  again?: boolean;
  frames?: number[];
}
export interface EntityNow {
  collection: string;
  id: string;
  value: unknown;
}
export interface AssemblyNamed {
  assembly: string;
}
export interface Selection {
  nodes?: string[];
  paths?: string[];
  shots?: string[];
  boards?: string[];
}
export interface Clipped {
  clip: Document;
}
export interface Told {
  id: string;
  collection: string;
  thing: string;
  name: string;
  owner: string;
  what: "added" | "removed" | "changed";
  fields: Field[];
  rests?: string;
}
export interface Field {
  name: string;
  before: unknown;
  after: unknown;
  moved?: boolean;
}
export interface ComparedSide {
  format: string;
  fault?: string;
}
export interface ComposeWish {
  camera: string;
  subjects: string[];
  over?: string;
  size: string;
  angle: string;
  side?: string;
  focal: number;
  around?: number;
  x?: number;
  headroom?: number;
  room?: number;
  frame: number;
}
export interface Composed {
  position: Vec;
  turn: Vec;
  focal: number;
  focus: number;
  around: number;
  angle: string;
  words: string;
  /**
   * @minItems 2
   * @maxItems 2
   */
  framing: [number, number];
  hfov: number;
  vfov: number;
  /**
   * @minItems 2
   * @maxItems 2
   */
  shift: [number, number];
}
export interface CutNow {
  version: number;
  length: number;
  cut?: Cut;
}
export interface Cut {
  version: number;
  shots: CutShot[];
  assembly: string;
  lane: string;
  spares: SpareLane[];
}
export interface CutShot {
  id: string;
  cue?: Shot;
}
export interface SpareLane {
  id: string;
  shots: CutShot[];
}
export interface ProgramDifference {
  number: string;
  what: string;
  first: string;
  second: string;
  a: string;
  b: string;
  at: number;
}
export interface Doubting {
  order: Order;
  recipe: Recipe;
  lost: string[];
}
export interface DoubtsNow {
  doubts: Doubt[];
  left: number;
}
export interface Doubt {
  text: string;
  assembly?: string;
  shot?: string;
  camera?: string;
  screen: number;
}
export interface Extent {
  min: Vec;
  max: Vec;
}
export interface PatchChange {
  layer?: string;
  collection: string;
  id: string;
  before?: unknown;
  after?: unknown;
}
export interface Synced {
  revision: number;
  waiting: string[];
  undo: Step[];
  redo: Step[];
  lost?: Lost[];
  found?: string[];
  behind?: boolean;
  astray?: boolean;
}
export interface Step {
  id: string;
  label: string;
  revision: number;
  missing?: boolean;
}
export interface Lost {
  edit: Edit;
  why: string;
}
export interface Edit {
  id: string;
  revision?: number;
  base: number;
  kind: "do" | "undo" | "redo" | "restore";
  of?: string;
  label: string;
  operation?: string;
  arguments?: unknown;
  alternate?: string;
  tab?: string;
  person?: string;
  patch?: Patch;
}
export interface CutFormat {
  id: string;
  title: string;
  ending: string;
  media: string;
  reads: boolean;
  lines: boolean;
  stage: boolean;
}
export interface CameraSubjects {
  camera: string;
  subjects: string[];
}
export interface Framing {
  label: string;
  subjects: Framed[];
}
export interface Framed {
  node: string;
  name: string;
  /**
   * @minItems 4
   * @maxItems 4
   */
  box: [number, number, number, number];
  depth: number;
  status: number;
  size?: string;
  focus: boolean;
}
export interface Level {
  at: number;
  gain: number;
}
export interface Outcome {
  error?: string;
  edit?: Edit;
  changed: EntityNow[];
  synced?: Synced;
  left?: string;
}
export interface NodeNamed {
  node: string;
}
export interface HandleNow {
  param: string;
  title: string;
  at: Vec;
  axis: Vec;
  gain: number;
  value: number;
  min: number;
  max: number;
}
export interface Lack {
  out: string;
  in: string;
  tail: number;
  head: number;
  mostBefore: number;
  mostAfter: number;
}
export interface Lasting {
  size: string;
  until: number;
  to: number;
  then: string;
}
export interface Stretch {
  from: number;
  to: number;
  least: number;
}
export interface Said {
  shot: string;
  line: string;
  in: number;
  out: number;
  speed: number;
  cut?: boolean;
}
export interface Matched {
  points: MatchedPoint[];
  error: number;
  trouble: string;
}
export interface MatchedPoint {
  /**
   * @minItems 2
   * @maxItems 2
   */
  in: [number, number];
  off: number;
  behind?: boolean;
}
export interface Lens {
  focal: number;
  hfov: number;
  vfov: number;
  /**
   * @minItems 2
   * @maxItems 2
   */
  shift: [number, number];
}
export interface Numbers {
  height: number;
  subject: string;
  distance: number;
  tilt: number;
  heading: number;
  roll: number;
  near: number;
  far: number;
  hyperfocal: number;
  speed: number;
  panRate: number;
  moves: boolean;
  from: number;
  to: number;
  setsOff: number;
  settles: number;
  travel: number;
  greatest: number;
  greatestAt: number;
  pan: number;
  panAt: number;
  size: string;
  comfortable: number;
  fastestPan: number;
}
export interface Offered {
  rates: string[];
  shapes: Format[];
}
export interface AtScreen {
  screen: number;
}
export interface Outline {
  format: string;
  /**
   * @minItems 8
   * @maxItems 8
   */
  whole: [number, number, number, number, number, number, number, number];
  /**
   * @minItems 8
   * @maxItems 8
   */
  action: [number, number, number, number, number, number, number, number];
  /**
   * @minItems 8
   * @maxItems 8
   */
  title: [number, number, number, number, number, number, number, number];
}
export interface KeyOvershoot {
  channel: string;
  from: number;
  to: number;
  by: number;
}
export interface AtFrame {
  frame: number;
}
export interface PathLine {
  points: number[];
  ticks: number[];
  length: number;
}
export interface Planned {
  files: PlannedFile[];
  count: number;
  frames: number;
  pixels: number;
}
export interface PlannedFile {
  path: string;
  frames: number;
  width: number;
  height: number;
}
export interface Operation {
  name: string;
  args: unknown;
}
export interface Pulling {
  assemblies: string[];
  head: number;
  tail: number;
}
export interface Pulled {
  rate: string;
  cameras: Needs[];
  frames: number;
  throughout: number;
}
export interface Needs {
  camera: string;
  number: number;
  name: string;
  ranges: Range[];
  frames: number;
}
export interface Rhythm {
  beats: Beat[];
  average: number;
  median: number;
  total: number;
  gaps: number;
  over: number;
}
export interface Beat {
  shot: string;
  number: string;
  frames: number;
  off: number;
  far: boolean;
}
export interface Heard {
  sound: string;
  in: number;
  out: number;
  offset: number;
  speed: number;
  levels: Level[];
  muted?: boolean;
  gathered?: boolean;
}
export interface SharpZone {
  near: number;
  far: number;
  hyperfocal: number;
}
export interface Snapped {
  by: Vec;
  hints: Hint[];
}
export interface Hint {
  axis: number;
  value: number;
  node: string;
}
export interface Stock {
  pieces: KitStock[];
  opens: {
    [k: string]: Opening;
  };
  also: {
    [k: string]: string;
  };
  deeds: (
    | "stand"
    | "walk"
    | "run"
    | "ride"
    | "sit"
    | "crouch"
    | "turn"
    | "idle"
    | "clip"
    | "talk"
    | "look"
    | "point"
    | "reach"
    | "wave"
    | "take"
    | "give"
    | "put"
  )[];
  gestures: (
    | "stand"
    | "walk"
    | "run"
    | "ride"
    | "sit"
    | "crouch"
    | "turn"
    | "idle"
    | "clip"
    | "talk"
    | "look"
    | "point"
    | "reach"
    | "wave"
    | "take"
    | "give"
    | "put"
  )[];
  builds: Build[];
  hairStyles: string[];
  skin: string;
}
export interface KitStock {
  id: string;
  title: string;
  group: string;
  kind: string;
  color: string;
  params: Param[];
}
export interface Param {
  name: string;
  title: string;
  unit: string;
  default: number;
  min: number;
  max: number;
}
export interface Opening {
  param: string;
  wide: number;
}
export interface Build {
  name: string;
  hair: string;
}
export interface Struck {
  node: string;
  at: Vec;
  normal: Vec;
  distance: number;
}
export interface Structure {
  version: number;
  nodes: string[];
  instances: Instance[];
  meshes: string[];
  cameras: string[];
  lamps: string[];
  aspect: number;
  shooting: ShownNodes[];
}
export interface Instance {
  node: number;
  mesh: number;
  skin: number;
  dye: number;
  surface?: boolean;
}
export interface ShownNodes {
  node: number;
  hidden: boolean;
  only: string[];
}
export interface Suggested {
  all: Composed[];
}
export interface SurfaceNow {
  node: string;
  blob: string;
  frame: number;
  rate: number;
}
export interface OnClock {
  clock: "story" | "screen";
  frame: number;
}
export interface Trade {
  sensors: Sensor[];
  squeezes: number[];
  stops: number[];
  sizes: Size[];
  angles: string[];
  sides: string[];
  walking: number;
  driving: number;
}
export interface Sensor {
  name: string;
  width: number;
  height: number;
}
export interface Size {
  name: string;
  top: number;
  cut: number;
  headroom: number;
}
export interface NamedThing {
  collection: string;
  id: string;
  name: string;
}
export interface Use {
  in: number;
  out: number;
  times: number;
}
export interface Way {
  length: number;
  seconds: number;
  speed: number;
}
export interface Worked {
  assembly: string;
  alternate: string;
}
export interface Delivered {
  file: string;
  head: number;
  frames: number;
}
export interface WrittenCut {
  text: string;
  notes: string[];
}
export interface Operations {
  actionAdd: ActionAddArgs;
  actionTime: ActionTimeArgs;
  align: ArrangeArgs;
  alternateAdd: AlternateArgs;
  alternateChange: AlternateArgs;
  alternateRemove: AlternateRemoveArgs;
  assemblyAdd: AssemblyArgs;
  assemblyBring: Incoming;
  assemblyDuplicate: AssemblyArgs;
  assemblyRemove: AssemblyArgs;
  assemblySet: AssemblySetArgs;
  attach: AttachArgs;
  boardAdd: BoardArgs;
  boardsDeal: DealArgs;
  cameraAdd: CameraAddArgs;
  cameraAim: CameraAimArgs;
  cameraArchive: CameraArchiveArgs;
  cameraBring: CameraBring;
  cameraCopy: CameraCopyArgs;
  cameraFolder: CameraFolderArgs;
  cameraFrame: CameraFrameArgs;
  cameraLike: CameraLikeArgs;
  cameraMatch: CameraMatchArgs;
  cameraNumber: CameraNumberArgs;
  cameraOnPath: CameraOnPathArgs;
  cameraOrbit: CameraOrbitArgs;
  cameraOrder: CameraOrderArgs;
  cameraSupport: CameraSupportArgs;
  cameraTake: CameraTakeArgs;
  cameraTurn: CameraTurnArgs;
  cardAdd: CardArgs;
  clearUnused: ClearUnusedArgs;
  colorKey: ColorKeyArgs;
  cuesFromShots: CueArgs;
  cutTo: CutToArgs;
  detach: AttachArgs;
  differencesBack: Chosen;
  differencesCopy: CopyArgs;
  differencesDown: Chosen;
  distribute: ArrangeArgs;
  dropDown: ArrangeArgs;
  duplicate: DuplicateArgs;
  fileReplace: FileReplaceArgs;
  focusFollow: FocusFollowArgs;
  focusPick: FocusPickArgs;
  focusPull: FocusPullArgs;
  footageAdd: FootageArgs;
  formatPut: FormatPutArgs;
  formatRemove: FormatRemoveArgs;
  gapClose: GapArgs;
  group: GroupArgs;
  handOver: HandOverArgs;
  keyEase: KeyEaseArgs;
  keyHandle: KeyHandleArgs;
  keyMove: KeyMoveArgs;
  keyPaste: KeyPasteArgs;
  keyRemove: KeyArgs;
  keyScale: KeyScaleArgs;
  keySet: KeySetArgs;
  keyValue: KeyValueArgs;
  kitPut: KitPutArgs;
  laneAdd: LaneArgs;
  laneMove: LaneMoveArgs;
  laneRemove: LaneRemoveArgs;
  laneSet: LaneSetArgs;
  lensChoose: LensChooseArgs;
  lensMove: LensMoveArgs;
  libraryTake: LibraryTakeArgs;
  lineAdd: LineAddArgs;
  linesBring: LinesArgs;
  linesMove: LineMoveArgs;
  markerAdd: MarkerAddArgs;
  mirror: MirrorArgs;
  modelAdd: ModelAddArgs;
  move: MoveArgs;
  moveAmount: MoveAmountArgs;
  moveEase: MoveEaseArgs;
  moveSettle: MoveSettleArgs;
  moveShape: MoveShapeArgs;
  oneFrameEach: StillsArgs;
  paste: PasteArgs;
  pathDraw: PathDrawArgs;
  pathFromKeys: PathFromKeysArgs;
  pathPoint: PathPointArgs;
  pathShape: PathShapeArgs;
  pathShift: PathShiftArgs;
  place: PlaceArgs;
  placeEach: PlaceEachArgs;
  planLay: PlanLayArgs;
  positionLeave: PositionArgs;
  positionOrder: PositionOrderArgs;
  positionRemove: PositionArgs;
  positionRetake: PositionArgs;
  positionSpace: PositionSpaceArgs;
  positionTime: PositionArgs;
  rangeClear: RangeArgs;
  rateChange: RateArgs;
  recipePut: RecipePutArgs;
  reframe: ReframeArgs;
  remove: RemoveArgs;
  roughCut: RoughArgs;
  scatter: ScatterArgs;
  sceneRename: SceneRenameArgs;
  screenShow: ScreenShowArgs;
  set: SetArgs;
  setEach: SetEachArgs;
  setMany: SetManyArgs;
  shotAppend: AssemblyPlaceArgs;
  shotDuplicate: IdsArgs;
  shotFollowOn: IdsArgs;
  shotFreeze: FreezeArgs;
  shotFromMove: FromMoveArgs;
  shotInsert: AssemblyPlaceArgs;
  shotJoin: JoinArgs;
  shotMove: AssemblyMoveArgs;
  shotOverwrite: AssemblyPlaceArgs;
  shotReach: ReachArgs;
  shotRemove: IdsArgs;
  shotRoll: ByArgs;
  shotSet: AssemblyAssemblySetArgs;
  shotSlide: ByArgs;
  shotSlip: SlipArgs;
  shotSpeed: SpeedArgs;
  shotSplit: SplitArgs;
  shotSwap: SwapArgs;
  shotTrim: TrimArgs;
  shotTry: TryArgs;
  shotsAsListed: ListedArgs;
  shotsFromCues: CueArgs;
  soundAdd: SoundArgs;
  soundMove: SoundMoveArgs;
  soundTrim: SoundTrimArgs;
  stockPlace: StockPlaceArgs;
  takeRecord: TakeArgs;
  trackAdd: TrackArgs;
  trackRemove: TrackRemoveArgs;
  trackTie: TrackClockArgs;
  travel: TravelArgs;
  ungroup: GroupArgs;
  value: ValueArgs;
  valueEach: ValueEachArgs;
}
export interface ActionAddArgs {
  cast: string;
  do:
    | "stand"
    | "walk"
    | "run"
    | "ride"
    | "sit"
    | "crouch"
    | "turn"
    | "idle"
    | "clip"
    | "talk"
    | "look"
    | "point"
    | "reach"
    | "wave"
    | "take"
    | "give"
    | "put";
  in: number;
  out: number;
  path?: string;
  start?: number;
  end?: number;
  reverse?: boolean;
  /**
   * @minItems 2
   * @maxItems 2
   */
  ease?: [number, number];
  face?: string;
  on?: string;
  joint?: string;
  with?: string;
  at?: Vec;
  hand?: "left" | "right";
  seat?: number;
  turn?: number;
  clip?: string;
  speed?: number;
  id?: string;
}
export interface ActionTimeArgs {
  ids: string[];
  edge?: string;
  by?: number;
  lasts?: number;
  speed?: number;
}
export interface ArrangeArgs {
  ids: string[];
  frame: number;
  axis?: number;
  to?: string;
  key?: boolean;
}
export interface AlternateArgs {
  id?: string;
  name: string;
  parent?: string;
  format?: string;
  assembly?: string;
  known?: string;
}
export interface AlternateRemoveArgs {
  id: string;
  keep?: boolean;
}
export interface AssemblyArgs {
  id?: string;
  name?: string;
  new?: string;
}
export interface Incoming {
  assembly: Assembly;
  lanes: IncomingLane[];
  markers?: Marker[];
  tracks?: IncomingTrack[];
  id?: string;
}
export interface IncomingLane {
  name: string;
  shots: IncomingShot[];
}
export interface IncomingShot {
  shot: Shot;
  boards?: Board[];
  card?: Card;
}
export interface IncomingTrack {
  track: Track;
  sounds?: Sound[];
}
export interface AssemblySetArgs {
  id: string;
  name?: string;
  target?: number;
  shotTarget?: number;
  cues?: "story" | "screen" | "";
  fixed?: boolean;
}
export interface AttachArgs {
  ids: string[];
  to?: string;
  joint?: string;
  frame: number;
}
export interface BoardArgs {
  shot: string;
  name: string;
  blob: string;
  width: number;
  height: number;
  at?: number;
  id?: string;
}
export interface DealArgs {
  assembly: string;
  frames: number;
  panels: Panel[];
}
export interface Panel {
  name: string;
  blob: string;
  width: number;
  height: number;
}
export interface CameraAddArgs {
  position: Vec;
  turn: Vec;
  name?: string;
  focal: number;
  focus?: number;
  focusOn?: string;
  like?: string;
  id?: string;
  hold?: string;
  on?: string;
  frame?: number;
  /**
   * @minItems 2
   * @maxItems 2
   */
  framing?: [number, number];
}
export interface CameraAimArgs {
  id: string;
  aim: "free" | "along" | "at";
  at?: string;
  frame: number;
}
export interface CameraArchiveArgs {
  id: string;
  archive: boolean;
}
export interface CameraBring {
  cameras: BroughtCamera[];
}
export interface BroughtCamera {
  name: string;
  width?: number;
  stop: number;
  frames: BroughtFrame[];
}
export interface BroughtFrame {
  frame: number;
  position: Vec;
  turn: Vec;
  focal: number;
  focus: number;
}
export interface CameraCopyArgs {
  id: string;
  keys: boolean;
  frame: number;
  as?: string;
}
export interface CameraFolderArgs {
  ids: string[];
  folder: string;
}
export interface CameraFrameArgs {
  id: string;
  /**
   * @minItems 2
   * @maxItems 2
   */
  framing: [number, number];
  frame: number;
  key: boolean;
}
export interface CameraLikeArgs {
  id: string;
  from: string;
  frame: number;
  what: "picture" | "place" | "lens";
  as: "still" | "key" | "position";
}
export interface CameraMatchArgs {
  id: string;
  frame: number;
  key?: boolean;
  match?: Match;
}
export interface CameraNumberArgs {
  id: string;
  number: number;
}
export interface CameraOnPathArgs {
  path: string;
  frame: number;
  speed?: number;
  height?: number;
  at?: string;
  like?: string;
  id?: string;
}
export interface CameraOrbitArgs {
  id: string;
  about: Vec;
  around: number;
  over: number;
  frame: number;
  key: boolean;
}
export interface CameraOrderArgs {
  ids: string[];
}
export interface CameraSupportArgs {
  id: string;
  support: "sticks" | "dolly" | "handheld" | "mounted";
  path?: string;
  on?: string;
  joint?: string;
  frame: number;
}
export interface CameraTakeArgs {
  id: string;
  frame: number;
  position: Vec;
  turn: Vec;
  focal: number;
  focus: number;
  key: boolean;
  hold?: string;
  on?: string;
  /**
   * @minItems 2
   * @maxItems 2
   */
  framing?: [number, number];
}
export interface CameraTurnArgs {
  id: string;
  turn: Vec;
  frame: number;
  key: boolean;
  only?: string;
}
export interface CardArgs {
  name: string;
  title?: string;
  text?: string;
  color: string;
  ink: string;
  blob?: string;
  width?: number;
  height?: number;
  id?: string;
}
export interface ClearUnusedArgs {
  things: Thing[];
}
export interface Thing {
  collection: string;
  id: string;
}
export interface ColorKeyArgs {
  nodes: string[];
  frame: number;
  color: string;
}
export interface CueArgs {
  assembly: string;
  clock: "story" | "screen";
}
export interface CutToArgs {
  assembly: string;
  at: number;
  camera: string;
  before?: string;
}
export interface Chosen {
  ids: string[];
  fields?: string[];
}
export interface CopyArgs {
  ids: string[];
  fields?: string[];
  to: string;
}
export interface DuplicateArgs {
  ids: string[];
  count?: number;
  by?: Vec;
  pan?: number;
  frame: number;
  as?: string[];
}
export interface FileReplaceArgs {
  kind: string;
  blob: string;
  with: {
    blob: string;
    width?: number;
    height?: number;
    frames?: number;
    seconds?: number;
    size?: Vec;
    triangles?: number;
    clips?: Clip[];
  };
}
export interface FocusFollowArgs {
  id: string;
  on: string;
}
export interface FocusPickArgs {
  id: string;
  frame: number;
  node: string;
  at?: Vec;
  pull: boolean;
  key: boolean;
}
export interface FocusPullArgs {
  id: string;
  frame: number;
  on: string;
  focus: number;
}
export interface FootageArgs {
  name: string;
  blob: string;
  width: number;
  height: number;
  frames: number;
  pace?: number;
  rate?: string;
  from?: string;
  id?: string;
}
export interface FormatPutArgs {
  id?: string;
  name: string;
  width: number;
  height: number;
  deliver?: boolean;
}
export interface FormatRemoveArgs {
  id: string;
}
export interface GapArgs {
  assembly: string;
  at: number;
  all?: boolean;
}
export interface GroupArgs {
  ids?: string[];
  name?: string;
  frame?: number;
  id?: string;
}
export interface HandOverArgs {
  from: string;
  to: string;
  thing: string;
  in: number;
  out: number;
}
export interface KeyEaseArgs {
  node?: string;
  channel?: string;
  frames?: number[];
  rows?: {
    [k: string]: number[];
  };
  ease: "hold" | "even" | "soft" | "shaped";
}
export interface KeyHandleArgs {
  node: string;
  channel: string;
  frame: number;
  side: string;
  frames: number;
  value: number;
  free?: boolean;
  alone?: boolean;
}
export interface KeyMoveArgs {
  node?: string;
  channel?: string;
  frames?: number[];
  rows?: {
    [k: string]: number[];
  };
  by: number;
  value?: number;
}
export interface KeyPasteArgs {
  node: string;
  rows: {
    [k: string]: Key[];
  };
  frame: number;
  reverse: boolean;
}
export interface KeyArgs {
  node?: string;
  channel?: string;
  frames?: number[];
  rows?: {
    [k: string]: number[];
  };
}
export interface KeyScaleArgs {
  node?: string;
  channel?: string;
  frames?: number[];
  rows?: {
    [k: string]: number[];
  };
  time: number;
  value: number;
  about?: string;
}
export interface KeySetArgs {
  node: string;
  channels?: string[];
  frame: number;
}
export interface KeyValueArgs {
  node?: string;
  channel?: string;
  frames?: number[];
  rows?: {
    [k: string]: number[];
  };
  value: number;
}
export interface KitPutArgs {
  name: string;
  primes?: number[];
  zooms?: [number, number][];
  squeeze?: number;
  shared?: boolean;
  id?: string;
}
export interface LaneArgs {
  assembly: string;
  name?: string;
}
export interface LaneMoveArgs {
  id: string;
  by: number;
}
export interface LaneRemoveArgs {
  id: string;
}
export interface LaneSetArgs {
  id: string;
  name?: string;
  locked?: boolean;
}
export interface LensChooseArgs {
  id: string;
  focal: number;
  keep: string;
  subject?: string;
  frame: number;
  key: boolean;
}
export interface LensMoveArgs {
  id: string;
  in: number;
  out: number;
  focal: number;
  subject?: string;
}
export interface LibraryTakeArgs {
  kits: {
    [k: string]: Kit;
  };
}
export interface LineAddArgs {
  cast: string;
  text: string;
  in: number;
  out: number;
  gesture?: boolean;
  id?: string;
}
export interface LinesArgs {
  lines: Line[];
}
export interface LineMoveArgs {
  ids: string[];
  by: number;
  with: boolean;
}
export interface MarkerAddArgs {
  clock: "story" | "screen";
  assembly?: string;
  frame: number;
  name?: string;
  color?: string;
  camera?: string;
  frames?: number;
  note?: string;
  id?: string;
}
export interface MirrorArgs {
  ids: string[];
  frame: number;
  axis?: number;
  about?: number;
}
export interface ModelAddArgs {
  name: string;
  blob: string;
  size: Vec;
  triangles: number;
  clips?: Clip[];
  id?: string;
  with?: BroughtAlong;
}
export interface BroughtAlong {
  kind: "set" | "prop" | "vehicle" | "cast" | "camera" | "lamp" | "aim" | "group";
  cameras?: BroughtCamera[];
  lamps?: BroughtLamp[];
}
export interface BroughtLamp {
  name: string;
  color: string;
  position: Vec;
  turn: Vec;
  reach: number;
  spot?: number;
  soft?: number;
}
export interface MoveArgs {
  ids: string[];
  frame?: number;
  by?: Vec;
  axis?: Vec;
  angle?: number;
  scale?: number;
  pivot?: Vec;
  key?: boolean;
}
export interface MoveAmountArgs {
  id: string;
  amount: number;
  about?: string;
}
export interface MoveEaseArgs {
  id: string;
  easeIn: "hold" | "even" | "soft" | "shaped";
  easeOut: "hold" | "even" | "soft" | "shaped";
}
export interface MoveSettleArgs {
  id: string;
  in?: number;
  out?: number;
}
export interface MoveShapeArgs {
  id: string;
  by?: number;
  scale?: number;
  lasts?: number;
  speed?: number;
  reverse?: boolean;
  mirror?: boolean;
}
export interface StillsArgs {
  story: number;
  name?: string;
  id?: string;
}
export interface PasteArgs {
  clip: unknown;
  assembly?: string;
  at?: number;
  onto?: string;
  from?: number;
}
export interface PathDrawArgs {
  form: "straight" | "arc" | "curve" | "rise";
  points: Vec[];
  for?: string;
  in?: number;
  out?: number;
  paced?: boolean;
  loose?: number;
  id?: string;
}
export interface PathFromKeysArgs {
  id: string;
}
export interface PathPointArgs {
  id: string;
  index: number;
  to?: Vec;
  insert?: boolean;
}
export interface PathShapeArgs {
  id: string;
  form?: "straight" | "arc" | "curve" | "rise";
  closed?: boolean;
  reverse?: boolean;
  height?: number;
}
export interface PathShiftArgs {
  id: string;
  by: Vec;
}
export interface PlaceArgs {
  id: string;
  frame: number;
  /**
   * @minItems 3
   * @maxItems 3
   */
  position?: [number | null, number | null, number | null];
  /**
   * @minItems 3
   * @maxItems 3
   */
  turn?: [number | null, number | null, number | null];
  key?: boolean;
}
export interface PlaceEachArgs {
  places: {
    [k: string]: AxesOf;
  };
  frame: number;
  key?: boolean;
}
export interface AxesOf {
  /**
   * @minItems 3
   * @maxItems 3
   */
  position?: [number | null, number | null, number | null];
  /**
   * @minItems 3
   * @maxItems 3
   */
  turn?: [number | null, number | null, number | null];
}
export interface PlanLayArgs {
  picture: Screen;
  metres: number;
  id?: string;
}
export interface PositionArgs {
  id: string;
  index?: number;
  frame?: number;
  position?: Vec;
  turn?: Vec;
  focal?: number;
}
export interface PositionOrderArgs {
  id: string;
  from: number;
  to: number;
}
export interface PositionSpaceArgs {
  id: string;
  in?: number;
  out?: number;
}
export interface RangeArgs {
  assembly: string;
  in: number;
  out: number;
  close: boolean;
}
export interface RateArgs {
  rate: string;
  keep: string;
  drop: boolean;
}
export interface RecipePutArgs {
  name: string;
  pack: "h264" | "vp9" | "prores" | "ffv1" | "png" | "jpeg" | "exr";
  quality: "rough" | "check" | "fine";
  scale?: number;
  rate?: string;
  head?: number;
  tail?: number;
  joined?: boolean;
  sound?: boolean;
  lines?: "picture" | "file";
  slate?: number;
  burns?: Burn[];
  mask?: Mask;
  passes?: ("depth" | "normal" | "facing" | "position" | "matte" | "groups")[];
  names?: NamePart[];
  first?: number;
  byStory?: boolean;
  id?: string;
}
export interface ReframeArgs {
  id: string;
  format: string;
  clear?: boolean;
  /**
   * @minItems 2
   * @maxItems 2
   */
  shift?: [number, number];
  scale?: number;
  lens?: number;
  frame?: number;
  move?: Vec;
  camera?: string;
  within?: boolean;
}
export interface RemoveArgs {
  collection: string;
  ids: string[];
}
export interface RoughArgs {
  from: number;
  to: number;
  speakers: {
    [k: string]: string;
  };
  wide: string;
  lead: number;
  lag: number;
  minimum: number;
  opening: number;
  closing: number;
  name?: string;
  id?: string;
}
export interface ScatterArgs {
  stock: string;
  name: string;
  count: number;
  seed: number;
  /**
   * @minItems 2
   * @maxItems 2
   */
  corner?: [Vec, Vec];
  path?: string;
  width: number;
  vary: number;
  apart: number;
  frame: number;
  group?: string;
}
export interface SceneRenameArgs {
  production?: string;
  title?: string;
}
export interface ScreenShowArgs {
  id: string;
  screen?: Screen;
}
export interface SetArgs {
  collection: string;
  id: string;
  merge: {
    [k: string]: unknown;
  };
  label?: string;
}
export interface SetEachArgs {
  collection: string;
  merges: {
    [k: string]: {
      [k: string]: unknown;
    };
  };
  label?: string;
}
export interface SetManyArgs {
  collection: string;
  ids: string[];
  merge: {
    [k: string]: unknown;
  };
  label?: string;
}
export interface AssemblyPlaceArgs {
  assembly: string;
  lane?: string;
  camera?: string;
  plays?: "board" | "card" | "footage";
  card?: string;
  footage?: string;
  at?: number;
  frames: number;
  storyIn?: number;
  name?: string;
  id?: string;
}
export interface IdsArgs {
  ids: string[];
  close?: boolean;
  spare?: boolean;
}
export interface FreezeArgs {
  assembly: string;
  at: number;
  frames: number;
}
export interface FromMoveArgs {
  assembly: string;
  camera: string;
  id?: string;
}
export interface JoinArgs {
  id: string;
  kind?: "dissolve" | "dip" | "travel";
  frames?: number;
  align?: string;
  color?: string;
  ease?: "hold" | "even" | "soft" | "shaped";
  rest?: number;
  give?: boolean;
}
export interface AssemblyMoveArgs {
  ids: string[];
  by: number;
  lane?: string;
  how?: string;
}
export interface ReachArgs {
  id: string;
  at: number;
  ripple: boolean;
}
export interface ByArgs {
  id: string;
  by: number;
}
export interface AssemblyAssemblySetArgs {
  ids: string[];
  change: ShotChange;
  what?: string;
}
export interface ShotChange {
  number?: string;
  name?: string;
  camera?: string;
  plays?: "board" | "card" | "footage" | "";
  card?: string;
  footage?: string;
  footageIn?: number;
  storyIn?: number;
  head?: number;
  tail?: number;
  locked?: boolean;
  notes?: string;
  status?: "idea" | "blocked" | "agreed";
  exposure?: number;
  tint?: string;
  haze?: number;
  hour?: number;
}
export interface SlipArgs {
  ids: string[];
  by: number;
}
export interface SpeedArgs {
  ids: string[];
  speed: number;
  story: boolean;
}
export interface SplitArgs {
  assembly: string;
  at: number;
}
export interface SwapArgs {
  a: string;
  b: string;
}
export interface TrimArgs {
  id: string;
  edge: string;
  by: number;
  ripple?: boolean;
  along?: boolean;
}
export interface TryArgs {
  id: string;
}
export interface ListedArgs {
  shots: Listed[];
}
export interface Listed {
  id: string;
  name?: string;
  frames?: number;
  status?: "idea" | "blocked" | "agreed" | "";
  notes?: string;
}
export interface SoundArgs {
  track: string;
  name: string;
  blob: string;
  seconds: number;
  in: number;
  out: number;
  from?: number;
  gain: number;
  fadeIn?: number;
  fadeOut?: number;
  id?: string;
}
export interface SoundMoveArgs {
  id: string;
  by: number;
  track?: string;
}
export interface SoundTrimArgs {
  id: string;
  edge: string;
  by: number;
}
export interface StockPlaceArgs {
  kind?: "set" | "prop" | "vehicle" | "cast" | "camera" | "lamp" | "aim" | "group";
  stock?: string;
  model?: string;
  build?: string;
  name?: string;
  position?: Vec;
  turn?: Vec;
  parent?: string;
  id?: string;
}
export interface TakeArgs {
  assembly: string;
  in: number;
  out: number;
  storyIn: number;
  opening: string;
  switches: Switch[];
}
export interface Switch {
  at: number;
  camera: string;
}
export interface TrackArgs {
  name: string;
  clock: "story" | "screen";
  assembly?: string;
  gain: number;
  mute?: boolean;
  solo?: boolean;
  order?: number;
  id?: string;
}
export interface TrackRemoveArgs {
  id: string;
}
export interface TrackClockArgs {
  id: string;
  clock: "story" | "screen";
  assembly: string;
}
export interface TravelArgs {
  node: string;
  path?: string;
  in: number;
  out: number;
  speed?: number;
  easeIn?: boolean;
  easeOut?: boolean;
  reverse?: boolean;
  heading?: boolean;
}
export interface ValueArgs {
  node: string;
  channel: string;
  frame: number;
  value: number;
  key: boolean;
}
export interface ValueEachArgs {
  channel: string;
  values: {
    [k: string]: number;
  };
  frame: number;
  key: boolean;
}
