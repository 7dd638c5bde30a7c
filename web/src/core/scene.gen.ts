/* Made from api/scene.schema.json by scripts/generate.sh. */

/**
 * @minItems 3
 * @maxItems 3
 */
export type Vec = [number, number, number];

export interface ProscenScene {
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
export interface Cast {
  height: number;
  coat: string;
  legs: string;
  build?: "average" | "slim" | "broad" | "child";
  hair?: string;
  skin?: string;
}
export interface Camera {
  number: number;
  color: string;
  archived?: boolean;
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
export interface Lamp {
  color: string;
  strength: number;
  reach: number;
  spot?: number;
  soft?: number;
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
  ease: string;
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
  cues?: string;
  fixed?: boolean;
  order?: number;
}
export interface Lane {
  assembly: string;
  main?: boolean;
  name: string;
  order?: number;
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
}
export interface Join {
  kind: "dissolve" | "dip" | "travel";
  before: number;
  after: number;
  color?: string;
  ease?: "even" | "soft";
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
export interface Footage {
  name: string;
  blob: string;
  width: number;
  height: number;
  frames: number;
  pace?: number;
  rate?: string;
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
