/** Shapes of what the server sends; for the type checker only. */

export type Value = number[] | string;

export interface Port {
  key: string;
  name: string;
  type: string;
  default: number[];
  low: number;
  high: number;
  step: number;
  unit: string;
  words: string;
  source: string;
  wirable: boolean;
  /** The texture input whose reading it belongs to. */
  reads: string;
  /** Shown only where it is used or asked for. */
  extra: boolean;
}

export interface Setting {
  key: string;
  name: string;
  default: string | number;
  options: string[];
  low: number;
  high: number;
  words: string;
  reads: string;
}

export interface NodeType {
  key: string;
  role: string;
  name: string;
  group: string;
  hidden: boolean;
  inputs: Port[];
  settings: Setting[];
  outputs: { key: string; name: string; type: string; strands: number; unit: string }[];
  sentence: string;
  formula: string;
  use: string;
}

export interface GraphNode {
  id: string;
  type: string;
  label?: string;
  place?: [number, number];
  values?: Record<string, Value>;
  settings?: Record<string, string | number>;
  muted?: boolean;
  /** By input: node, output, and the part of its value where the wire takes less than all. */
  wires?: Record<string, [string, string, string?]>;
}

export interface Parameter {
  id: string;
  name: string;
  node: string;
  input: string;
  low: number;
  high: number;
  step: number;
  unit: string;
  group: string;
  help: string;
}

export interface Variant {
  /** The variant whose values it takes where it sets none; "" for the graph's defaults. */
  base: string;
  note: string;
  id: string;
  name: string;
  values: Record<string, Value>;
}

export interface Frame {
  kind: "frame";
  id: string;
  title: string;
  nodes: string[];
  tint: string;
  folded: boolean;
}

export interface Note {
  kind: "note";
  id: string;
  text: string;
  place: [number, number];
}

export interface Bookmark {
  kind: "bookmark";
  id: string;
  title: string;
  place: [number, number];
  zoom: number;
}

export type Mark = Frame | Note | Bookmark;

export interface GraphDocument {
  version: number;
  marks: Mark[];
  title: string;
  form: string;
  rig: string;
  backdrop: string;
  decals: Decal[];
  /** The parts of backdrops that have the surfaces of other graphs. */
  backdrop_materials: BackdropMaterial[];
  /** A texture of all directions in the place of the rig's own surroundings. */
  environment: string;
  views: SavedView[];
  kind: string;
  nodes: GraphNode[];
  parameters: Parameter[];
  variants: Variant[];
}

export interface Swatch {
  png: string;
  mean: [number, number, number];
  /** What JSON cannot hold is null. */
  value: (number | null)[];
  low: number | null;
  high: number | null;
}

export type Operation = { op: string; [field: string]: unknown };

export interface Problem {
  code: string;
  severity: "error" | "warning" | "may" | "note";
  node: string;
  input: string;
  what: string;
  where: string;
  /** Each an edit of the graph, or another reading of a texture. */
  mends: { words: string; operation?: Operation; texture?: string; reading?: Record<string, string> }[];
}

export interface Sampler {
  name: string;
  texture: string;
  /** How often the texture has changed. */
  revision: number;
  key: string[];
  wrap: ["repeat" | "clamp" | "mirror", "repeat" | "clamp" | "mirror"];
  filter: "smooth" | "pixels";
}

export interface BackdropMaterial {
  /** The backdrop and its part, as "lock_basin.bed". */
  part: string;
  /** The key of a graph of the project. */
  graph: string;
  variant: string;
}

/** With the graph's name, and what tells its states apart. */
export interface PartSurface extends BackdropMaterial {
  title: string;
  stamp: string;
}

export interface Decal {
  place: [number, number, number];
  /** Where it faces, and how its picture is turned, in degrees. */
  turn: number;
  tilt: number;
  roll: number;
  size: [number, number, number];
  index: number;
  tint: [number, number, number];
}

/** With the axes of its box: right, up, out. */
export interface DecalState extends Decal {
  axes: [number, number, number][];
}

export interface Camera {
  turn: number;
  tilt: number;
  distance: number;
  field: number;
  target: [number, number, number];
}

export interface SavedView {
  name: string;
  camera: Camera;
  light_turn: number;
  light_tilt: number;
}

export interface ShaderState {
  hash: string;
  /** Whether what it draws keeps the sun off what lies behind. */
  casts: boolean;
  /** Whether every sheet of the form adds to the picture, hidden or not. */
  adds: boolean;
  /** Whether it paints onto what lies behind. */
  projected: boolean;
  floats: number;
  slots: [string, string, number, number][];
  samplers: Sampler[];
  fragment?: string;
  vertex?: string;
}

export interface Cost {
  operations: number;
  reads: number;
  classes: Record<string, number>;
}

export interface Range {
  proved: [number | null, number | null];
  seen: [number, number] | null;
  rate: string;
}

export interface Analysis {
  ranges: Record<string, Range>;
  cost: Cost;
  saved: Cost;
}

export interface CostReport {
  vertex: Cost;
  pixel: Cost;
  channels: Record<string, Cost>;
  nodes: { node: string; name: string; cost: Cost }[];
  toggles: { node: string; name: string; input: string; saved: Cost }[];
  bounds: { proved: number[][]; seen: number[][] } | null;
}

export interface GraphState {
  id: number;
  revision: number;
  variant: string;
  shown: string;
  undo: string;
  redo: string;
  changed: string;
  document: GraphDocument;
  types: Record<string, string>;
  input_types: Record<string, string>;
  /** By node. */
  problems: Record<string, Problem[]>;
  shader: ShaderState;
  /** Where decals lie: the graph's own, or the backdrop's places. */
  decals: DecalState[];
  part_surfaces: PartSurface[];
  cost: Cost;
  /** Node types by node id, of nodes that are not in the catalogue: motifs, and types unknown here. */
  kinds: Record<string, NodeType>;
  rates: Record<string, number>;
  /** The type of the nodes that use this graph, where it is a motif. */
  motif: string;
  /** Tells every state of the graph and of its motifs apart. */
  stamp: string;
  swatches: Record<string, Swatch>;
  /** What of each table is no longer there; null where the state is whole. */
  gone: Record<"nodes" | "types" | "input_types" | "rates" | "kinds" | "problems" | "swatches", string[]> | null;
  /** The textures the graph reads, by id. */
  textures: Record<string, TextureRead>;
  /** The mark of this state, by which the server knows what the page has. */
  seen: string;
  /** The nodes that the edit brought. */
  made?: string[] | number;
}

/** A graph has a new revision; `motif` is the type of its uses where it is a motif. Or a texture has one. */
export interface News {
  graph: number;
  revision: number;
  motif: string;
  words: string;
  texture: string;
}

export interface PageSettings {
  nodes: Record<string, NodeType>;
  fits: Record<string, string[]>;
  type_words: Record<string, string>;
  strands: Record<string, number>;
  /** What a wire can take of a value. */
  parts: Record<string, { words: string; given: string[]; made: string }>;
  /** The names of the tints of frames. */
  tints: string[];
  /** How many numbers one stop of a gradient or curve has. */
  stops: Record<string, number>;
  /** From where each form is first seen. */
  views: Record<string, Camera>;
  /** Of how many cells along a side forms may be made, where that can be chosen. */
  cells: Record<string, { low: number; high: number; default: number }>;
  /** From where each backdrop is first seen. */
  backdrops: Record<string, Camera>;
  /** Inputs of the dock that a kind of surface wants to be shown, though they do nothing yet. */
  asked_by_kind: Record<string, string[]>;
  /** The names of each backdrop's parts. */
  backdrop_parts: Record<string, Record<string, string>>;
  /** What somebody sees who stands in a backdrop. */
  standing: Record<string, Camera>;
  /** What else can be looked at, by key. */
  looks: Record<string, string>;
  /** The light rigs as they first stand. */
  rigs: Record<
    string,
    {
      turn: number;
      tilt: number;
      colour: number[];
      exposure: number;
      far: number[];
      lamps: { place: number[]; colour: number[] }[];
    }
  >;
  instance: [number, number, number, number];
  /** The picture that the sun sees: pixels a side, and what stands in it where nothing is met. */
  sun: { size: number; nothing: number };
}

/** A texture as a graph reads it; `revision` counts its changes. */
export interface TextureRead {
  name: string;
  revision: number;
  role: string;
  green: "up" | "down";
  width: number;
  height: number;
}

export interface TextureInfo {
  id: string;
  name: string;
  role: string;
  green: "up" | "down";
  width: number;
  height: number;
  channels: number;
  depth: string;
  format: string;
  revision: number;
  /** The stack that made it, where it was made here. */
  recipe: number | null;
}

export interface TextureFacts {
  texture: TextureInfo;
  channels: {
    name: string;
    low: number;
    high: number;
    mean: number;
    low_clip: number;
    high_clip: number;
    span: [number, number];
    counts: number[];
    constant: boolean;
  }[];
  guess: { reading: { role: string; green: "up" | "down" }; confidence: number; reason: string };
  verdicts: {
    code: string;
    severity: string;
    what: string;
    reading: { role: string; green: "up" | "down" } | null;
    channel: string;
  }[];
  users: { id: number; title: string; motif: string }[];
}

export interface StepSetting {
  key: string;
  name: string;
  kind: "number" | "whole" | "choice" | "colour" | "stops" | "picture" | "tiles";
  words: string;
  low: number;
  high: number;
  unit: string;
  choices: string[];
  optional: boolean;
  /** What each tile has, where the setting is tiles. */
  maps: TileMap[];
  default: unknown;
}

export interface TileMap {
  key: string;
  name: string;
  role: string;
  plain: number[];
}

/** Where a picture comes from: a layer of a step above, or a texture. */
export type PictureFrom = { step?: string; layer?: string; texture?: string };

export interface RecipeTile {
  name: string;
  maps: Record<string, number[] | PictureFrom>;
}

/** The grid that a step lays its tiles on; boxes are least u, least v, most u, most v of each cell's inside. */
export interface AtlasGrid {
  columns: number;
  rows: number;
  clean: number;
  boxes: [number, number, number, number][];
}

export interface StepKind {
  key: string;
  name: string;
  group: string;
  help: string;
  layers: string[];
  begins: boolean;
  settings: StepSetting[];
}

export interface RecipeStep {
  id: string;
  step: string;
  values: Record<string, any>;
}

export interface Recipe {
  name: string;
  size: number[];
  steps: RecipeStep[];
  outputs: { id: string; name: string; step: string; layer: string; depth: string }[];
}
