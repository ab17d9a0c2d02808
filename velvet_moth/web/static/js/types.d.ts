/** The types of what the server sends and takes, made by `./moth types`; for the type checker only. */

export type Craft =
  | Join
  | JoinAll
  | InsertNode
  | PullOut
  | SwapInputs
  | Paste
  | Duplicate
  | ShareParameter
  | RenameEverywhere
  | ReplaceTexture
  | MoveKeys
  | ScaleKeys
  | ReverseKeys
  | LineUpKeys
  | EaseKeys
  | PasteKeys;
export type Mark = Frame | Note | Bookmark;
export type Operation =
  | Batch
  | SetTitle
  | SetForm
  | SetMesh
  | SetPose
  | SetRig
  | SetKind
  | SetBackdrop
  | SetEnvironment
  | SetDecals
  | SetBackdropMaterials
  | SetViews
  | SetTags
  | SetRule
  | SetSpread
  | SetEmitter
  | SetSpurt
  | SetTiming
  | PutMarks
  | SetTrack
  | ChangeKeys
  | AddParameter
  | EditParameter
  | OrderParameter
  | RemoveParameter
  | Wire
  | Unwire
  | SetValue
  | SetSetting
  | AddNode
  | RemoveNodes
  | RestoreNodes
  | LabelNode
  | MoveNodes
  | MuteNodes
  | AddVariant
  | RenameVariant
  | DescribeVariant
  | RemoveVariant
  | SetOverride;
export type RuleOperation = SetRulePart | SetRuleName | RuleBatch;
export type StackOperation =
  | StackBatch
  | SetStackName
  | AddOutput
  | RemoveOutput
  | EditOutput
  | AddStep
  | RemoveStep
  | MoveStep
  | SetStepSetting
  | AddStroke
  | RemoveStroke
  | MoveStroke
  | SetStackSize
  | SetLevels
  | SetChannelWeight;
export type Value = number[] | string;

/**
 * Every type by its name.
 */
export interface ScriptTypes {
  AddNode: AddNode;
  AddOutput: AddOutput;
  AddParameter: AddParameter;
  AddStep: AddStep;
  AddStroke: AddStroke;
  AddVariant: AddVariant;
  Aim: Aim;
  Analysis: Analysis;
  AtlasGrid: AtlasGrid;
  Axis: Axis;
  BackdropMaterial: BackdropMaterial;
  BackdropShaders: BackdropShaders;
  BakedFileState: BakedFileState;
  BakedFiles: BakedFiles;
  Batch: Batch;
  BlockFaces: BlockFaces;
  BlockModelInfo: BlockModelInfo;
  BlockModelState: BlockModelState;
  BlockModels: BlockModels;
  BlockMove: BlockMove;
  BlockSettings: BlockSettings;
  BlockStroke: BlockStroke;
  BlockSurface: BlockSurface;
  Bookmark: Bookmark;
  Bounds: Bounds;
  CacheState: CacheState;
  Caches: Caches;
  Camera: Camera;
  CellState: CellState;
  Cells: Cells;
  ChangeKeys: ChangeKeys;
  ChannelFacts: ChannelFacts;
  ChannelLoss: ChannelLoss;
  ChunkState: ChunkState;
  ComingFilmState: ComingFilmState;
  Comparison: Comparison;
  CopiedKeys: CopiedKeys;
  Cost: Cost;
  CostReport: CostReport;
  Craft: Craft;
  Decal: Decal;
  DescribeVariant: DescribeVariant;
  Duplicate: Duplicate;
  EaseKeys: EaseKeys;
  EditOutput: EditOutput;
  EditParameter: EditParameter;
  Emitter: Emitter;
  EmitterSource: EmitterSource;
  EmitterState: EmitterState;
  EntryState: EntryState;
  Error: Error;
  ExportText: ExportText;
  Exposure: Exposure;
  Film: Film;
  FilmFormatState: FilmFormatState;
  FilmFormats: FilmFormats;
  FilmState: FilmState;
  FilmWeight: FilmWeight;
  Films: Films;
  Frame: Frame;
  FramesHere: FramesHere;
  Gone: Gone;
  GraphDocument: GraphDocument;
  GraphMade: GraphMade;
  GraphState: GraphState;
  GraphUser: GraphUser;
  Guess: Guess;
  Happened: Happened;
  History: History;
  Hit: Hit;
  Hits: Hits;
  Id: Id;
  InsertNode: InsertNode;
  InstanceNumber: InstanceNumber;
  InstancePass: InstancePass;
  InstanceSettings: InstanceSettings;
  JobState: JobState;
  Jobs: Jobs;
  Join: Join;
  JoinAll: JoinAll;
  JudgementState: JudgementState;
  Key: Key;
  KeysOf: KeysOf;
  LabelNode: LabelNode;
  Lamp: Lamp;
  LevelRead: LevelRead;
  LevelWanted: LevelWanted;
  LineUpKeys: LineUpKeys;
  Made: Made;
  Mark: Mark;
  MaterialText: MaterialText;
  Measured: Measured;
  Mend: Mend;
  MeshChannel: MeshChannel;
  MeshComing: MeshComing;
  MeshFacts: MeshFacts;
  MeshInfo: MeshInfo;
  MeshLevel: MeshLevel;
  MeshOnly: MeshOnly;
  MeshPart: MeshPart;
  MeshPreview: MeshPreview;
  MeshRead: MeshRead;
  MeshReadingState: MeshReadingState;
  MeshStack: MeshStack;
  MeshStackState: MeshStackState;
  MeshVerdict: MeshVerdict;
  Meshes: Meshes;
  MoveKeys: MoveKeys;
  MoveNodes: MoveNodes;
  MoveStep: MoveStep;
  MoveStroke: MoveStroke;
  MuteNodes: MuteNodes;
  NamedNode: NamedNode;
  NamedRule: NamedRule;
  NamedVariant: NamedVariant;
  News: News;
  NewNode: NewNode;
  GraphNode: GraphNode;
  NodeCost: NodeCost;
  NodeType: NodeType;
  Note: Note;
  Operation: Operation;
  OrderParameter: OrderParameter;
  Outline: Outline;
  OutlinePort: OutlinePort;
  Output: Output;
  OutputPort: OutputPort;
  PageSettings: PageSettings;
  PaletteInfo: PaletteInfo;
  Palettes: Palettes;
  Parameter: Parameter;
  PartSurface: PartSurface;
  Paste: Paste;
  PasteKeys: PasteKeys;
  Pieces: Pieces;
  Pin: Pin;
  Port: Port;
  Pose: Pose;
  Preview: Preview;
  Problem: Problem;
  PullOut: PullOut;
  PutMarks: PutMarks;
  Range: Range;
  Reading: Reading;
  Recipe: Recipe;
  RecipeState: RecipeState;
  RecipeTile: RecipeTile;
  Refusal: Refusal;
  RemoveNodes: RemoveNodes;
  RemoveOutput: RemoveOutput;
  RemoveParameter: RemoveParameter;
  RemoveStep: RemoveStep;
  RemoveStroke: RemoveStroke;
  RemoveVariant: RemoveVariant;
  RenameEverywhere: RenameEverywhere;
  RenameVariant: RenameVariant;
  ReplaceTexture: ReplaceTexture;
  RestoreNodes: RestoreNodes;
  ReverseKeys: ReverseKeys;
  RigState: RigState;
  RuleBatch: RuleBatch;
  RuleCurve: RuleCurve;
  RuleList: RuleList;
  RuleOperation: RuleOperation;
  RulePartState: RulePartState;
  RuleState: RuleState;
  Sampler: Sampler;
  SavedView: SavedView;
  ScaleKeys: ScaleKeys;
  SceneTargetState: SceneTargetState;
  Seen: Seen;
  SetBackdrop: SetBackdrop;
  SetBackdropMaterials: SetBackdropMaterials;
  SetChannelWeight: SetChannelWeight;
  SetDecals: SetDecals;
  SetEmitter: SetEmitter;
  SetEnvironment: SetEnvironment;
  SetForm: SetForm;
  SetKind: SetKind;
  SetLevels: SetLevels;
  SetMesh: SetMesh;
  SetOverride: SetOverride;
  SetPose: SetPose;
  SetRig: SetRig;
  SetRule: SetRule;
  SetRuleName: SetRuleName;
  SetRulePart: SetRulePart;
  SetSetting: SetSetting;
  SetSpread: SetSpread;
  SetSpurt: SetSpurt;
  SetStackName: SetStackName;
  SetStackSize: SetStackSize;
  SetStepSetting: SetStepSetting;
  SetTags: SetTags;
  SetTiming: SetTiming;
  SetTitle: SetTitle;
  SetTrack: SetTrack;
  SetValue: SetValue;
  SetViews: SetViews;
  Setting: Setting;
  ShaderState: ShaderState;
  ShaderText: ShaderText;
  ShaderWithValues: ShaderWithValues;
  ShapeKind: ShapeKind;
  ShareParameter: ShareParameter;
  SheetFrames: SheetFrames;
  Source: Source;
  SplashState: SplashState;
  Splashes: Splashes;
  Spread: Spread;
  SpurtChoice: SpurtChoice;
  SpurtChoices: SpurtChoices;
  SpurtRead: SpurtRead;
  SpurtShader: SpurtShader;
  StackBatch: StackBatch;
  StackInfo: StackInfo;
  StackOperation: StackOperation;
  StackStepState: StackStepState;
  Stacks: Stacks;
  StageSettings: StageSettings;
  Step: Step;
  StepKind: StepKind;
  Steps: Steps;
  Stroke: Stroke;
  StrokeState: StrokeState;
  StrokesOver: StrokesOver;
  StrokesState: StrokesState;
  SunPicture: SunPicture;
  SurfaceChoice: SurfaceChoice;
  SurfaceChoices: SurfaceChoices;
  SwapInputs: SwapInputs;
  Swatch: Swatch;
  TakenFrom: TakenFrom;
  Taker: Taker;
  Takers: Takers;
  TextId: TextId;
  TextureFacts: TextureFacts;
  TextureInfo: TextureInfo;
  TextureOnly: TextureOnly;
  TextureRead: TextureRead;
  Textures: Textures;
  Throw: Throw;
  TileMapInfo: TileMapInfo;
  Timing: Timing;
  ToggleCost: ToggleCost;
  Track: Track;
  TrackState: TrackState;
  Unwire: Unwire;
  Use: Use;
  Uses: Uses;
  Value: Value;
  ValueHeld: ValueHeld;
  ValuesHeld: ValuesHeld;
  Variant: Variant;
  Version: Version;
  VersionWithStamp: VersionWithStamp;
  Vertex: Vertex;
  WayState: WayState;
  WayToWrite: WayToWrite;
  Wire: Wire;
  WirePart: WirePart;
  velvet_moth__core__pictures__inspection__Verdict: VelvetMoth_Core_Pictures_Inspection__Verdict;
  velvet_moth__core__workbench__judging__Verdict: VelvetMoth_Core_Workbench_Judging__Verdict;
}
/**
 * Adds a node, with whatever values, settings and incoming wires it carries.
 */
export interface AddNode {
  node: NewNode;
  op: "add_node";
}
/**
 * One node: its values on unwired inputs, its settings, its incoming wires, and where its card lies.
 *
 * ``place`` is None while the card is laid out by itself; a hand-placed card keeps its place.
 * ``outline`` tells the ports of a type the catalogue does not hold. A ``muted`` node does nothing: what
 * comes in goes out.
 */
export interface NewNode {
  id: string;
  type: string;
  values?: {
    [k: string]: number[] | string;
  };
  settings?: {
    [k: string]: unknown;
  };
  wires?: {
    [k: string]: Source;
  };
  label?: string;
  place?: [number, number] | null;
  outline?: Outline | null;
  muted?: boolean;
}
/**
 * The far end of a wire: an output of a node, and which ``part`` of it the wire takes ("" for all of it).
 */
export interface Source {
  node: string;
  output: string;
  part: string;
}
/**
 * The ports of a node, and what it says of itself.
 */
export interface Outline {
  name: string;
  inputs: OutlinePort[];
  outputs: OutlinePort[];
  sentence: string;
}
/**
 * One input or output: ``type`` is the name of a port type, ``default`` an input's components.
 */
export interface OutlinePort {
  key: string;
  name: string;
  type: string;
  default: number[];
  low: number;
  high: number;
}
/**
 * Has a layer of a step come of the stack. Id, name, depth and place follow where they are not given.
 */
export interface AddOutput {
  step: string;
  layer: string;
  id?: string;
  name?: string;
  depth?: string;
  place?: number;
  op: "add_output";
}
/**
 * Makes an input's value a parameter; ``overrides`` are what variants set on it, by variant.
 *
 * ``tracks`` are its keys, by the variant they belong to ("" for the graph).
 */
export interface AddParameter {
  parameter: Parameter;
  at?: number | null;
  overrides?: {
    [k: string]: number[] | string;
  } | null;
  tracks?: {
    [k: string]: Track;
  } | null;
  op: "add_parameter";
}
/**
 * A value opened for tuning: which input of which node, under what name, range and unit.
 *
 * ``group`` is the heading it stands under; ``help`` says what it does, to whoever tunes it.
 */
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
/**
 * Keys in the order of their times, and what the value is ``before`` the first and ``after`` the last.
 *
 * A colour goes from key to key as linear light, or with the ``path`` ``hue`` around the circle of hues.
 */
export interface Track {
  keys: Key[];
  before: "hold" | "again" | "there_and_back";
  after: "hold" | "again" | "there_and_back";
  path: "light" | "hue";
}
/**
 * What a value is at ``time`` (seconds), and by which ``way`` it goes on to the next key.
 *
 * ``arriving`` and ``leaving`` are its slopes just before and just after, by component and second; they count where the
 * way there or on is drawn by hand, and are 0 where they are not given.
 */
export interface Key {
  time: number;
  value: number[] | string;
  way: string;
  arriving?: number[];
  leaving?: number[];
}
/**
 * Adds a step before the one at ``place`` (0 is the first), or at the end. Without an id it gets a fresh one.
 */
export interface AddStep {
  step: string;
  place?: number;
  id?: string;
  values?: {
    [k: string]: unknown;
  } | null;
  op: "add_step";
}
/**
 * Lays a stroke onto a painted step, before the one at ``place`` (0 is the first), or over all others.
 */
export interface AddStroke {
  step: string;
  stroke: Stroke;
  place?: number;
  op: "add_stroke";
}
/**
 * A stroke with its brush. ``points`` is text that ``points_of`` reads; neighbours are joined by straight lines.
 *
 * ``touches`` are the painted layers that ``value`` (0..1) goes to; of directions it is the speed, and there is one layer. ``softness`` is the share of the radius over which the
 * brush fades. ``side``: only where the surface faces as it does under the brush, or through to the other side. ``held`` to
 * the part or island where it begins; ``fill`` covers a whole one, or the mesh. ``mirror`` lays it on the other side of
 * that axis too.
 */
export interface Stroke {
  points: string;
  touches:
    | ["red" | "green" | "blue" | "alpha"]
    | ["red" | "green" | "blue" | "alpha", "red" | "green" | "blue" | "alpha"]
    | ["red" | "green" | "blue" | "alpha", "red" | "green" | "blue" | "alpha", "red" | "green" | "blue" | "alpha"]
    | [
        "red" | "green" | "blue" | "alpha",
        "red" | "green" | "blue" | "alpha",
        "red" | "green" | "blue" | "alpha",
        "red" | "green" | "blue" | "alpha",
      ];
  mode: "set" | "add" | "take away" | "soften" | "sharpen" | "erase" | "invert" | "comb";
  value: number;
  softness: number;
  side: "this side" | "through";
  held: "" | "part" | "island";
  fill: "" | "mesh" | "part" | "island";
  mirror: "" | "x" | "y" | "z";
}
/**
 * Adds a variant, empty or with values.
 */
export interface AddVariant {
  variant: Variant;
  at?: number | null;
  op: "add_variant";
}
/**
 * A named set of parameter values over those of its ``base``, another variant, or ("") the graph's defaults.
 *
 * Its ``tracks`` stand over its own values, and over the values and tracks of what it is based on.
 */
export interface Variant {
  id: string;
  name: string;
  values: {
    [k: string]: number[] | string;
  };
  base: string;
  note: string;
  tracks?: {
    [k: string]: Track;
  };
}
/**
 * A throw as a hand makes it: seen from ``eye`` along the unit direction ``towards``, at what is met there.
 *
 * It flies along that direction where ``slant`` (degrees, below 90) is 0, and by so much slanted to the unit direction ``aside``.
 */
export interface Aim {
  eye: [number, number, number];
  towards: [number, number, number];
  aside: [number, number, number];
  slant: number;
  strength: number;
  seed: number;
  moment: number;
  tint: [number, number, number];
  numbers: [number, number, number, number];
}
export interface Analysis {
  ranges: {
    [k: string]: Range;
  };
  cost: Cost;
  saved: Cost;
}
export interface Range {
  proved: [number | null, number | null];
  seen: [number | null, number | null] | null;
  rate: string;
}
export interface Cost {
  operations: number;
  reads: number;
  classes: {
    [k: string]: number;
  };
}
/**
 * The grid of a step's tiles; boxes are least u, least v, most u, most v of each cell's inside.
 */
export interface AtlasGrid {
  columns: number;
  rows: number;
  clean: number;
  boxes: [number, number, number, number][];
}
/**
 * What the numbers along one side of a curve are: a name, a unit, and the ends they may have.
 */
export interface Axis {
  name: string;
  unit: string;
  low: number;
  high: number;
}
/**
 * Another graph of the project as the surface of a part of a backdrop, in one of its variants ("" for its defaults).
 *
 * ``part`` is named as ``backdrops.place_of`` has it; ``graph`` is the key it is kept by.
 */
export interface BackdropMaterial {
  part: string;
  graph: string;
  variant: string;
}
export interface BackdropShaders {
  light: ShaderText;
  seen: ShaderText;
}
export interface ShaderText {
  vertex: string;
  fragment: string;
}
/**
 * A baked graph: pixels a side of its textures, what it cannot say, and the mean difference in steps of 255, from each side.
 */
export interface BakedFileState {
  id: string;
  made: string;
  bytes: number;
  side: number;
  variant: string;
  pictures: number;
  words: string[];
  sides: number[];
  mean: number;
}
/**
 * What is kept of a graph.
 */
export interface BakedFiles {
  files: BakedFileState[];
}
/**
 * Several operations as one step: all of them or none.
 */
export interface Batch {
  operations: (
    | Batch
    | SetTitle
    | SetForm
    | SetMesh
    | SetPose
    | SetRig
    | SetKind
    | SetBackdrop
    | SetEnvironment
    | SetDecals
    | SetBackdropMaterials
    | SetViews
    | SetTags
    | SetRule
    | SetSpread
    | SetEmitter
    | SetSpurt
    | SetTiming
    | PutMarks
    | SetTrack
    | ChangeKeys
    | AddParameter
    | EditParameter
    | OrderParameter
    | RemoveParameter
    | Wire
    | Unwire
    | SetValue
    | SetSetting
    | AddNode
    | RemoveNodes
    | RestoreNodes
    | LabelNode
    | MoveNodes
    | MuteNodes
    | AddVariant
    | RenameVariant
    | DescribeVariant
    | RemoveVariant
    | SetOverride
  )[];
  summary?: string;
  op: "batch";
}
/**
 * Sets the title of the graph.
 */
export interface SetTitle {
  value: string;
  op: "set_title";
}
/**
 * Sets the form of the graph.
 */
export interface SetForm {
  value: string;
  op: "set_form";
}
/**
 * Sets the mesh of the graph.
 */
export interface SetMesh {
  value: string;
  op: "set_mesh";
}
/**
 * Sets the pose of the graph.
 */
export interface SetPose {
  value: Pose;
  op: "set_pose";
}
/**
 * ``size`` is a factor along each of the form's own axes (1 for the form as it is made), ``turn`` in degrees.
 */
export interface Pose {
  size: [number, number, number];
  turn: number;
}
/**
 * Sets the rig of the graph.
 */
export interface SetRig {
  value: string;
  op: "set_rig";
}
/**
 * Sets the kind of the graph.
 */
export interface SetKind {
  value: string;
  op: "set_kind";
}
/**
 * Sets the backdrop of the graph.
 */
export interface SetBackdrop {
  value: string;
  op: "set_backdrop";
}
/**
 * Sets the environment of the graph.
 */
export interface SetEnvironment {
  value: string;
  op: "set_environment";
}
/**
 * Sets the decals of the graph.
 */
export interface SetDecals {
  value: Decal[];
  op: "set_decals";
}
/**
 * A box about ``place`` (metres), projecting against the direction it faces (``turn``, ``tilt``, degrees).
 *
 * ``roll`` turns its picture (degrees); ``size`` is its width, height and depth (metres). ``index`` (from 1) and
 * ``tint`` tell it from others of the same graph; later ones lie over earlier ones. ``id`` is what its keys know it by.
 * It begins at ``born`` (seconds) and lives as the graph's spread says; ``seed`` (0 to 65535), ``strength`` (0 to 1) and four
 * free ``numbers`` are for its graph. Faces turned away by the first angle of ``fade`` begin to lose it, by the second have
 * none of it (degrees). ``reach`` limits it in its own plane, in metres for each of ``REACH_DIRECTIONS``; empty for no limit.
 * ``thrown`` is the unit direction in which it came, where it is the first of what was thrown.
 */
export interface Decal {
  place: [number, number, number];
  turn: number;
  tilt: number;
  roll: number;
  size: [number, number, number];
  index: number;
  tint: [number, number, number];
  id?: string;
  born?: number;
  seed?: number;
  strength: number;
  numbers: [number, number, number, number];
  fade: [number, number];
  reach?: number[];
  thrown?: [number, number, number] | null;
}
/**
 * Sets the backdrop materials of the graph.
 */
export interface SetBackdropMaterials {
  value: BackdropMaterial[];
  op: "set_backdrop_materials";
}
/**
 * Sets the views of the graph.
 */
export interface SetViews {
  value: SavedView[];
  op: "set_views";
}
/**
 * An eye and where the light stands (degrees), under a name.
 */
export interface SavedView {
  name: string;
  camera: Camera;
  light_turn: number;
  light_tilt: number;
}
/**
 * An eye on an orbit about ``target`` (metres); angles in degrees, ``field`` the vertical field of view.
 */
export interface Camera {
  turn: number;
  tilt: number;
  distance: number;
  field: number;
  target: [number, number, number];
}
/**
 * Sets the tags of the graph.
 */
export interface SetTags {
  value: string[];
  op: "set_tags";
}
/**
 * Sets the rule of the graph.
 */
export interface SetRule {
  value: string;
  op: "set_rule";
}
/**
 * Sets the spread of the graph.
 */
export interface SetSpread {
  value: Spread;
  op: "set_spread";
}
/**
 * How every decal of a graph lives, from the moment it begins.
 *
 * Its width grows from the ``smallest`` (metres) at ``speed`` (metres a second; 0: at once) by an ``easing`` of
 * ``base/ways.py``; it stays for ``hold`` seconds; then, over so many seconds (``over``), its ``ending`` of ``ENDINGS``.
 */
export interface Spread {
  smallest: number;
  speed: number;
  easing: string;
  hold: number;
  ending: string;
  over: number;
}
/**
 * Sets the emitter of the graph.
 */
export interface SetEmitter {
  value: Emitter;
  op: "set_emitter";
}
/**
 * A source of instances of the graph's form; none where ``rate`` (a second) and ``burst`` (at once) are 0.
 *
 * It emits for ``duration`` seconds (0: all the time). Pairs are from, to, by chance: ``life`` (s), ``speed`` (m/s),
 * ``spin`` (degrees a second), ``size`` (factor on the form). They leave within ``cone`` (degrees, half the angle) about a
 * direction (``turn``, ``tilt``, degrees) from a disc of ``radius`` about ``place`` (metres); ``gravity`` pulls down (m/s²), ``drag``
 * slows them (1/s). ``size_curve`` is a factor by the share of life. A ribbon follows a ``path``: its ``length`` in metres, or
 * behind a moving piece in seconds; spirals have a ``path_radius`` (m), ``turns``, and go round by ``swirl`` (turns a second).
 */
export interface Emitter {
  rate: number;
  burst: number;
  duration: number;
  life: [number, number];
  speed: [number, number];
  cone: number;
  radius: number;
  gravity: number;
  drag: number;
  spin: [number, number];
  size: [number, number];
  size_curve: [number, number][];
  numbers: InstanceNumber[];
  facing: string;
  path: string;
  length: number;
  path_radius: number;
  turns: number;
  swirl: number;
  place: [number, number, number];
  turn: number;
  tilt: number;
  seed: number;
}
/**
 * One of the numbers each instance is given: what it means, and points (share of life, number), straight between them.
 *
 * ``chance`` (0 to 1) is by which share of itself it is less for some instances.
 */
export interface InstanceNumber {
  name: string;
  points: [number, number][];
  chance: number;
}
/**
 * Sets the spurt of the graph.
 */
export interface SetSpurt {
  value: string;
  op: "set_spurt";
}
/**
 * Sets the timing of the graph.
 */
export interface SetTiming {
  value: Timing;
  op: "set_timing";
}
/**
 * How many seconds the time of a graph is long, after which it begins again, and how many frames a second has.
 */
export interface Timing {
  length: number;
  rate: number;
}
/**
 * Sets marks, new ones or in place of those of the same id, and removes others, as one step.
 *
 * A card is in one frame at most: a frame takes its cards out of those that had them.
 */
export interface PutMarks {
  marks?: (Frame | Note | Bookmark)[];
  remove?: string[];
  op: "put_marks";
}
/**
 * A titled area around cards. It grows with its members; ``folded`` it is one line.
 */
export interface Frame {
  id: string;
  title: string;
  nodes: string[];
  tint: string;
  folded: boolean;
  kind: "frame";
}
/**
 * Words at a place of the graph, in the page's pixels at full size.
 */
export interface Note {
  id: string;
  text: string;
  place: [number, number];
  kind: "note";
}
/**
 * A view to come back to: what lies in the middle, and how near.
 */
export interface Bookmark {
  id: string;
  title: string;
  place: [number, number];
  zoom: number;
  kind: "bookmark";
}
/**
 * Sets all keys of a target, of the graph ("") or a variant; None takes them away.
 */
export interface SetTrack {
  target: string;
  track: Track | null;
  variant?: string;
  op: "set_track";
}
/**
 * Removes the keys at some times and puts others, each in the place of one at its time.
 *
 * Where the target has no keys there yet, it gets those that hold otherwise: a variant those of the graph, so that its own
 * track begins as what it was. Without any key left the track is gone.
 */
export interface ChangeKeys {
  target: string;
  put?: Key[];
  remove?: number[];
  variant?: string;
  op: "change_keys";
}
/**
 * Changes a parameter's name, range, step, unit, group or help, not what it opens.
 */
export interface EditParameter {
  parameter: Parameter;
  op: "edit_parameter";
}
/**
 * Moves a parameter to another place in the list, counted from 0.
 */
export interface OrderParameter {
  parameter: string;
  at: number;
  op: "order_parameter";
}
/**
 * Closes a parameter; the default stays as a plain value, variants lose theirs, and its keys go.
 */
export interface RemoveParameter {
  parameter: string;
  op: "remove_parameter";
}
/**
 * Joins an output to an input, in place of what was wired there. A mismatch of types is kept and shown.
 */
export interface Wire {
  node: string;
  input: string;
  from_node: string;
  from_output: string;
  part?: string;
  op: "wire";
}
/**
 * Takes the wire off an input.
 */
export interface Unwire {
  node: string;
  input: string;
  op: "unwire";
}
/**
 * Sets the value that an unwired input carries; None takes it back to the node's own default.
 */
export interface SetValue {
  node: string;
  input: string;
  value: (number[] | string) | null;
  op: "set_value";
}
/**
 * Makes a choice of a node, which rebuilds the shader; None takes it back to the node's own default.
 */
export interface SetSetting {
  node: string;
  setting: string;
  value: string | number | null;
  op: "set_setting";
}
/**
 * Removes nodes with their wires, their parameters, and what variants set on those.
 */
export interface RemoveNodes {
  nodes: string[];
  op: "remove_nodes";
}
/**
 * Brings removed nodes back: the nodes bare, then all their wires, their parameters, the frames they were in.
 */
export interface RestoreNodes {
  nodes: NewNode[];
  wires: Wire[];
  parameters: AddParameter[];
  marks?: (Frame | Note | Bookmark)[];
  op: "restore_nodes";
}
/**
 * Gives a node a name of its own; empty takes it back to its type's name.
 */
export interface LabelNode {
  node: string;
  label: string;
  op: "label_node";
}
/**
 * Puts cards at places by hand; None lets a card be laid out by itself again.
 */
export interface MoveNodes {
  places: {
    [k: string]: [number, number] | null;
  };
  op: "move_nodes";
}
/**
 * Makes nodes do nothing, so that what comes in goes out, or makes them work again.
 */
export interface MuteNodes {
  nodes: string[];
  muted: boolean;
  op: "mute_nodes";
}
/**
 * Renames a variant.
 */
export interface RenameVariant {
  variant: string;
  name: string;
  op: "rename_variant";
}
/**
 * Says what a variant is based on ("" for the graph's defaults), and what is noted about it.
 */
export interface DescribeVariant {
  variant: string;
  base: string;
  note: string;
  op: "describe_variant";
}
/**
 * Removes a variant that no other one is based on.
 */
export interface RemoveVariant {
  variant: string;
  op: "remove_variant";
}
/**
 * Sets a parameter in one variant; None takes it back to the graph's default.
 */
export interface SetOverride {
  variant: string;
  parameter: string;
  value: (number[] | string) | null;
  op: "set_override";
}
/**
 * Faces of four corners each: three numbers of each place, two of each coordinate, four of each direction.
 */
export interface BlockFaces {
  position: number[];
  uv: number[];
  normal: number[];
  tangent: number[];
}
/**
 * A model in the list; ``picture`` tells one state of it from another.
 */
export interface BlockModelInfo {
  id: number;
  name: string;
  revision: number;
  count: number;
  picture: string;
}
/**
 * A block model but its surface. ``stamp`` tells the palette's textures from those of another state; ``view`` sees it whole.
 */
export interface BlockModelState {
  id: number;
  revision: number;
  name: string;
  size: number;
  palette: string;
  stamp: string;
  problem: string;
  entries: EntryState[];
  merged: boolean;
  box: [[number, number, number], [number, number, number]] | null;
  view: Camera;
  count: number;
  mesh: string;
  undo: string;
  redo: string;
}
/**
 * An entry: what it is called, how many blocks have it, whether there ``is_tile`` of it, and what is set on it.
 *
 * ``graph`` shows in place of the tile, as its ``variant`` sets it. What is at the address of its picture changes with ``stamp``.
 */
export interface EntryState {
  number: number;
  name: string;
  uses: number;
  is_tile: boolean;
  see_through: boolean;
  graph: string;
  variant: string;
  stamp: string;
}
export interface BlockModels {
  models: BlockModelInfo[];
}
/**
 * The blocks from ``low`` to ``high`` (both included), put with their lowest corner at ``to``.
 *
 * First mirrored along some axes, then turned by quarters about x, y and z, in this order and anticlockwise seen from the end
 * of each axis. What was there before them is taken away unless it is a ``copy``.
 */
export interface BlockMove {
  low: [number, number, number];
  high: [number, number, number];
  to: [number, number, number];
  turns: [number, number, number];
  mirrored: [boolean, boolean, boolean];
  copy: boolean;
}
/**
 * What the scripts of the blocks know of the core: shapes, ways of drawing, cells along a ``side``, the one at the ``origin``.
 *
 * ``block`` are the faces of one of 1 m in that cell.
 * ``margin``: so many cells of ground are seen about a model; ``entries_by`` are the ways to find entries of a mesh.
 */
export interface BlockSettings {
  views: {
    [k: string]: Camera;
  };
  cells: {
    [k: string]: Cells;
  };
  backdrops: {
    [k: string]: Camera;
  };
  own_backdrops: string[];
  backdrop_parts: {
    [k: string]: {
      [k: string]: string;
    };
  };
  standing: {
    [k: string]: Camera;
  };
  looks: {
    [k: string]: string;
  };
  rigs: {
    [k: string]: RigState;
  };
  instances: InstanceSettings;
  sun: SunPicture;
  lamps: number;
  harmonics: string[];
  decal_buffers: {
    [k: string]: number[];
  };
  shapes: {
    [k: string]: ShapeKind;
  };
  block_ways: {
    [k: string]: string;
  };
  side: number;
  origin: [number, number, number];
  margin: number;
  block: BlockFaces;
  entries_by: {
    [k: string]: string;
  };
  formats: {
    [k: string]: string;
  };
  reads: {
    [k: string]: string;
  };
}
/**
 * How finely a form may be made, in squares along a side: at least, at most, and where nothing is said.
 */
export interface Cells {
  low: number;
  high: number;
  default: number;
}
/**
 * A light rig as it first stands: angles in degrees, linear light.
 */
export interface RigState {
  turn: number;
  tilt: number;
  colour: number[];
  exposure: number;
  far: number[];
  lamps: Lamp[];
}
/**
 * A small light near by: where it hangs (metres) and how bright it is a metre away, without a shadow.
 */
export interface Lamp {
  place: [number, number, number];
  colour: [number, number, number];
}
/**
 * What shaders read of an instance and of its emitter where there is none (``idle``), and the textures that hold what
 *
 * instances know, so many ``across``.
 */
export interface InstanceSettings {
  idle: {
    [k: string]: number[];
  };
  textures: string[];
  across: number;
}
/**
 * The picture that the sun sees: pixels a side, and what stands in it where nothing is met.
 */
export interface SunPicture {
  size: number;
  nothing: number;
}
/**
 * A shape that is drawn: whether it goes from one end to another.
 */
export interface ShapeKind {
  name: string;
  words: string;
  has_ends: boolean;
}
/**
 * A shape from one cell to another, drawn with an entry.
 *
 * ``mirrored`` along x, y, z about planes at ``about`` (cells; 128 is between the cells 127 and 128). Only cells from
 * ``low`` to ``high`` are changed, both included.
 */
export interface BlockStroke {
  shape: string;
  way: string;
  first: [number, number, number];
  last: [number, number, number];
  entry: number;
  mirrored: [boolean, boolean, boolean];
  about: [number, number, number];
  low: [number, number, number];
  high: [number, number, number];
}
/**
 * What comes before the faces in an answer: the model, and the chunks that follow. ``is_whole`` where all others are empty.
 */
export interface BlockSurface {
  state: BlockModelState;
  is_whole: boolean;
  chunks: ChunkState[];
}
/**
 * A chunk of the surface by its place, as many ``faces`` of which follow in the order of the list.
 */
export interface ChunkState {
  at: [number, number, number];
  faces: number;
}
/**
 * Boxes of the moved form, lowest and highest corner.
 */
export interface Bounds {
  proved: number[][];
  seen: number[][];
}
/**
 * How full a cache is: ``holds`` of at most ``most`` of a ``unit``.
 */
export interface CacheState {
  name: string;
  holds: number;
  most: number;
  unit: string;
}
export interface Caches {
  caches: CacheState[];
}
export interface CellState {
  entry: number;
}
export interface ChannelFacts {
  name: string;
  low: number | null;
  high: number | null;
  mean: number | null;
  low_clip: number;
  high_clip: number;
  span: number[];
  counts: number[];
  constant: boolean;
}
/**
 * How far a channel of a level is off; ``words`` is empty where that is not worth a sentence, ``mend`` where a blur does not halve it.
 */
export interface ChannelLoss {
  channel: string;
  rms: number;
  most: number;
  words: string;
  mend: string;
}
/**
 * A film whose frames are awaited.
 */
export interface ComingFilmState {
  key: string;
  frames: number;
}
export interface Comparison {
  version: VersionWithStamp;
  stamp: string;
  added: string[];
  removed: NamedNode[];
  changed: {
    [k: string]: string[];
  };
  elsewhere: string[];
}
export interface VersionWithStamp {
  id: number;
  name: string;
  revision: number;
  made: string;
  stamp: string;
}
export interface NamedNode {
  node: string;
  name: string;
}
/**
 * Keys of a target as they were copied.
 */
export interface CopiedKeys {
  target: string;
  keys: Key[];
}
export interface CostReport {
  vertex: Cost;
  pixel: Cost;
  channels: {
    [k: string]: Cost;
  };
  nodes: NodeCost[];
  toggles: ToggleCost[];
  bounds: Bounds | null;
}
export interface NodeCost {
  node: string;
  name: string;
  cost: Cost;
}
export interface ToggleCost {
  node: string;
  name: string;
  input: string;
  saved: Cost;
}
/**
 * Wires an output to an input; takes a part of the value where the whole does not fit.
 *
 * ``taken_from`` is the (node, input) that gives the wire away, when an end is moved; ``added`` a node that
 * comes with the wire.
 */
export interface Join {
  node: string;
  input: string;
  from_node: string;
  from_output: string;
  taken_from?: [string, string] | null;
  added?: NewNode | null;
  craft: "join";
}
/**
 * Wires several nodes to one: the first output of each to the next input that takes it, from ``input`` on.
 */
export interface JoinAll {
  nodes: string[];
  node: string;
  input?: string;
  craft: "join_all";
}
/**
 * Puts a node, a new one or one of the graph, into the wire that arrives at ``into``, joined on both sides.
 */
export interface InsertNode {
  into: string;
  input: string;
  node?: NewNode | null;
  existing?: string;
  craft: "insert_node";
}
/**
 * Takes nodes out of their wires so that their neighbours join; with ``remove`` they leave the graph too.
 */
export interface PullOut {
  nodes: string[];
  remove?: boolean;
  craft: "pull_out";
}
/**
 * Swaps what two inputs of a node carry: wires, values and parameters.
 */
export interface SwapInputs {
  node: string;
  first: string;
  second: string;
  craft: "swap_inputs";
}
/**
 * Puts cards from a copied text into the graph; ``keep_wires`` where they come from this very graph.
 */
export interface Paste {
  text: string;
  keep_wires?: boolean;
  shift?: [number, number];
  craft: "paste";
}
/**
 * A second branch: chosen nodes with their parameters, what variants set, and names changed by find and replace.
 */
export interface Duplicate {
  nodes: string[];
  find?: string;
  replace_with?: string;
  keep_wires?: boolean;
  craft: "duplicate";
}
/**
 * Lets a parameter feed one more input; where it opened an input itself, a value card takes its place first.
 *
 * With no ``node`` only the value card is made, at ``place``.
 */
export interface ShareParameter {
  parameter: string;
  node?: string;
  input?: string;
  place?: [number, number] | null;
  craft: "share_parameter";
}
/**
 * Replaces ``find`` in the names of cards, parameters, groups, frames, bookmarks and variants, and in notes.
 */
export interface RenameEverywhere {
  find: string;
  replace_with: string;
  craft: "rename_everywhere";
}
/**
 * Chooses the texture ``new`` wherever ``old`` is chosen: on cards, in variants, by keys, and around the stage.
 */
export interface ReplaceTexture {
  old: string;
  new: string;
  craft: "replace_texture";
}
/**
 * Moves keys by some seconds, none to before the start; with ``snap`` each to the nearest frame.
 */
export interface MoveKeys {
  chosen: KeysOf[];
  by: number;
  variant?: string;
  snap?: boolean;
  craft: "move_keys";
}
/**
 * Some keys of a target, by their times.
 */
export interface KeysOf {
  target: string;
  times: number[];
}
/**
 * Brings keys nearer to a time or farther from it, by a factor; slopes drawn by hand follow.
 */
export interface ScaleKeys {
  chosen: KeysOf[];
  about: number;
  factor: number;
  variant?: string;
  snap?: boolean;
  craft: "scale_keys";
}
/**
 * Turns keys round in time, between the first and the last of them, and each way between two of them too.
 */
export interface ReverseKeys {
  chosen: KeysOf[];
  variant?: string;
  craft: "reverse_keys";
}
/**
 * Moves the chosen keys of each target so that their first is at a time.
 */
export interface LineUpKeys {
  chosen: KeysOf[];
  time: number;
  variant?: string;
  craft: "line_up_keys";
}
/**
 * Has values go on from the chosen keys another way. By hand they begin with the curve there is.
 */
export interface EaseKeys {
  chosen: KeysOf[];
  way: string;
  variant?: string;
  craft: "ease_keys";
}
/**
 * Puts copied keys where the first of them comes to stand at a time; ``onto`` is another target than theirs.
 */
export interface PasteKeys {
  copied: CopiedKeys[];
  time: number;
  onto?: string | null;
  variant?: string;
  craft: "paste_keys";
}
/**
 * Names what comes of a stack, and chooses its depth.
 */
export interface EditOutput {
  id: string;
  name: string;
  depth: string;
  op: "edit_output";
}
/**
 * Where instances come from: a place, the unit direction they leave in, when it begins (s), a seed, a factor on their speed.
 */
export interface EmitterSource {
  place: [number, number, number];
  way: [number, number, number];
  born: number;
  seed: number;
  strength: number;
}
/**
 * What the stage draws of an emitter: its instances of each source, what its passes read, its curves over life as pixels
 *
 * (float32 RGBA in base64, ``width`` by ``height``), where they come from, how far from the origin they are at most (m), and the
 * eye that sees them whole.
 */
export interface EmitterState {
  passes: InstancePass[];
  slots: number;
  inputs: {
    [k: string]: number[];
  };
  curves: string;
  width: number;
  height: number;
  sources: EmitterSource[];
  reach: number;
  view: Camera;
}
/**
 * The shaders that paint some numbers of each instance, and the textures they go to.
 */
export interface InstancePass {
  vertex: string;
  fragment: string;
  textures: string[];
}
/**
 * ``code`` is a stable word for programs; the others are sentences for people.
 */
export interface Error {
  code: string;
  what: string;
  where: string;
  mend: string;
}
/**
 * The text of a graph, the name of its file, how much an engine binds, what was run to prove it, and what to know as sentences.
 *
 * ``nodes`` are the ids of the nodes that lines hold, by the numbers of the lines from 1; ``names`` what those nodes are called.
 */
export interface ExportText {
  text: string;
  file: string;
  values: number;
  switches: number;
  textures: number;
  floats: number;
  operations: number;
  proof: string;
  words: string[];
  nodes: {
    [k: string]: string[];
  };
  names: {
    [k: string]: string;
  };
}
export interface Exposure {
  exposure: number | null;
}
/**
 * What is filmed: frames ``first`` to ``last`` (left out) at ``rate`` a second, ``width`` x ``height`` for each variant.
 *
 * Several variants stand side by side in rows of ``across``. ``is_clear``: nothing stands behind the form. ``columns`` is how
 * many frames of a sheet stand side by side. ``camera`` and ``light`` (turn and tilt, degrees) are where eye and light are, where
 * they are not keyed and not where they first stand.
 */
export interface Film {
  format: string;
  width: number;
  height: number;
  first: number;
  last: number;
  rate: number;
  variants: string[];
  is_clear: boolean;
  columns: number;
  camera: Camera | null;
  light: [number, number] | null;
}
/**
 * A way to keep a film. ``is_even``: its sides are even numbers of pixels; ``holds_light``: only the reference draws it.
 */
export interface FilmFormatState {
  key: string;
  name: string;
  words: string;
  keeps_clear: boolean;
  holds_light: boolean;
  is_even: boolean;
  is_sheet: boolean;
}
export interface FilmFormats {
  formats: FilmFormatState[];
}
/**
 * A film that is kept. ``words`` say whether it repeats without a seam; ``size`` are its bytes.
 */
export interface FilmState {
  id: string;
  name: string;
  format: string;
  words: string;
  size: number;
  made: string;
  frames: number;
  rate: number;
  width: number;
  height: number;
  columns: number;
}
/**
 * What a film will be: about so many bytes, its frames, and the pixels of one; and why it cannot be.
 */
export interface FilmWeight {
  bytes: number;
  frames: number;
  width: number;
  height: number;
  wrong: string;
}
export interface Films {
  films: FilmState[];
}
/**
 * How many frames have come.
 */
export interface FramesHere {
  frames: number;
}
/**
 * What of each table is no longer there.
 */
export interface Gone {
  nodes: string[];
  types: string[];
  input_types: string[];
  rates: string[];
  kinds: string[];
  problems: string[];
  swatches: string[];
  names: string[];
}
/**
 * The document of a graph as a graph file has it.
 */
export interface GraphDocument {
  format: string;
  version: number;
  title: string;
  form: string;
  mesh: string;
  pose: Pose;
  rig: string;
  kind: string;
  backdrop: string;
  environment: string;
  decals: Decal[];
  rule: string;
  spread: Spread;
  emitter: Emitter;
  spurt: string;
  backdrop_materials: BackdropMaterial[];
  views: SavedView[];
  tags: string[];
  timing: Timing;
  nodes: GraphNode[];
  parameters: Parameter[];
  tracks: {
    [k: string]: Track;
  };
  variants: Variant[];
  marks: (Frame | Note | Bookmark)[];
}
/**
 * One node: its values on unwired inputs, its settings, its incoming wires, and where its card lies.
 *
 * ``place`` is None while the card is laid out by itself; a hand-placed card keeps its place.
 * ``outline`` tells the ports of a type the catalogue does not hold. A ``muted`` node does nothing: what
 * comes in goes out.
 */
export interface GraphNode {
  id: string;
  type: string;
  values?: {
    [k: string]: number[] | string;
  };
  settings?: {
    [k: string]: unknown;
  };
  wires?: {
    [k: string]: string[];
  };
  label?: string;
  place?: [number, number] | null;
  outline?: Outline | null;
  muted?: boolean;
}
export interface GraphMade {
  id: number;
}
/**
 * Everything the workbench shows; of each table only what differs from the state the page had.
 *
 * ``inherited`` is what each variant takes from those it is based on, by parameter; ``track_owners`` whose track holds for
 * each variant ("" for the defaults), by target, where that is not as for the defaults. ``kinds`` are the node types, by node, of nodes that are not in the catalogue: motifs, and types unknown here.
 * ``motif`` is the type of the nodes that use this graph, where it is a motif. ``stamp`` tells every state of the graph
 * and of what it uses apart. ``seen`` is the mark of this state, by which the server knows what the page has; ``gone`` is
 * null where the state is whole. ``spread_inputs`` is what shaders read of how decals live. ``sources`` are
 * where something spurts, once per throw that is kept. ``first_moment``: when there is
 * something to see (s). ``made`` are the nodes that the edit brought, or the id of the new motif.
 */
export interface GraphState {
  id: number;
  revision: number;
  seen: string;
  stamp: string;
  motif: string;
  variant: string;
  shown: string;
  undo: string;
  redo: string;
  undo_edit: number;
  redo_edit: number;
  changed: string;
  document: GraphDocument;
  inherited: {
    [k: string]: {
      [k: string]: number[] | string;
    };
  };
  tracks: TrackState[];
  track_owners: {
    [k: string]: {
      [k: string]: string;
    };
  };
  shader: ShaderState;
  cost: Cost;
  types: {
    [k: string]: string;
  };
  input_types: {
    [k: string]: string;
  };
  rates: {
    [k: string]: number;
  };
  kinds: {
    [k: string]: NodeType;
  };
  problems: {
    [k: string]: Problem[];
  };
  swatches: {
    [k: string]: Swatch;
  };
  names: {
    [k: string]: string;
  };
  textures: {
    [k: string]: TextureRead;
  };
  gone: Gone | null;
  part_surfaces: PartSurface[];
  decals: Decal[];
  spread_inputs: {
    [k: string]: number[];
  };
  emitter: EmitterState | null;
  sources: EmitterSource[];
  spurt: SpurtRead | null;
  first_moment: number;
  mesh: MeshRead | null;
  made?: string[] | number;
}
/**
 * Keys of a target, of the graph ("") or of a variant, as the polynomial pieces that are played.
 *
 * ``parts`` name the numbers of its value; ``in_steps``: there is nothing between two of its values; ``is_colour``: it may go
 * around the circle of hues.
 */
export interface TrackState {
  variant: string;
  target: string;
  name: string;
  parts: string[];
  in_steps: boolean;
  is_colour: boolean;
  pieces: Pieces;
}
/**
 * A value over time: from each of ``times`` (seconds) on, a cubic of the seconds since then for each component.
 *
 * The last piece stands for the end, and is constant. Outside of the first and last time the value is as ``before`` and
 * ``after`` say. Texts have no cubics: ``texts`` holds one for each time. ``stop`` is the width of a stop.
 */
export interface Pieces {
  times: number[];
  cubics: [number, number, number, number][][];
  texts: string[];
  before: "hold" | "again" | "there_and_back";
  after: "hold" | "again" | "there_and_back";
  reading: "plain" | "light" | "hue" | "stops";
  stop: number;
}
/**
 * A shader with where its values and textures go; its text where the page does not have it.
 *
 * ``casts``: whether what it draws keeps the sun off what lies behind; ``adds``: whether every sheet of the form adds to
 * the picture, hidden or not; ``projected``: whether it paints onto what lies behind, and ``buffered``
 * whether into decal buffers. ``slots`` are node, input, offset and width.
 */
export interface ShaderState {
  hash: string;
  casts: boolean;
  adds: boolean;
  projected: boolean;
  buffered: boolean;
  floats: number;
  slots: [string, string, number, number][];
  samplers: Sampler[];
  fragment?: string;
  vertex?: string;
}
/**
 * ``revision`` counts the changes of the texture; ``missing`` is the texture that is read as long as no other is chosen.
 */
export interface Sampler {
  name: string;
  texture: string;
  missing: string;
  revision: number;
  key: string[];
  wrap: ("repeat" | "clamp" | "mirror")[];
  filter: "smooth" | "pixels";
}
export interface NodeType {
  key: string;
  role: string;
  name: string;
  group: string;
  hidden: boolean;
  inputs: Port[];
  settings: Setting[];
  outputs: OutputPort[];
  sentence: string;
  formula: string;
  use: string;
}
/**
 * An input of a node type. ``reads`` names the texture input whose reading it belongs to; an ``extra`` one is
 * shown only where it is used or asked for. Another value of one that ``reshapes`` is another shader, or another texture in it;
 * there is nothing between two values of one that goes ``in_steps``.
 */
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
  reads: string;
  extra: boolean;
  fills: boolean;
  reshapes: boolean;
  in_steps: boolean;
}
/**
 * Something to set on a node or a step. ``maps`` are what each tile has, where the setting is tiles.
 */
export interface Setting {
  key: string;
  name: string;
  kind:
    | "number"
    | "whole"
    | "choice"
    | "colour"
    | "stops"
    | "picture"
    | "values"
    | "directions"
    | "texture"
    | "part"
    | "tiles"
    | "text"
    | "strokes";
  words: string;
  low: number;
  high: number;
  unit: string;
  choices: string[];
  optional: boolean;
  maps: TileMapInfo[];
  reads: string;
  default: unknown;
}
export interface TileMapInfo {
  key: string;
  name: string;
  role: ("colour" | "data" | "normal" | "flow" | "height") | "";
  plain: number[];
}
export interface OutputPort {
  key: string;
  name: string;
  type: string;
  strands: number;
  unit: string;
}
export interface Problem {
  code: string;
  severity: "error" | "warning" | "may" | "note";
  node: string;
  input: string;
  what: string;
  where: string;
  mends: Mend[];
}
/**
 * An edit of the graph, or another reading of a texture.
 */
export interface Mend {
  words: string;
  operation?: {
    [k: string]: unknown;
  };
  texture?: string;
  reading?: Reading;
}
/**
 * The role of a picture and, for normal and flow maps, which way its green points.
 */
export interface Reading {
  role: "colour" | "data" | "normal" | "flow" | "height";
  green: "up" | "down";
}
export interface Swatch {
  png: string;
  mean: number[];
  value: (number | null)[];
  low: number | null;
  high: number | null;
}
/**
 * A texture as a graph reads it; ``revision`` counts its changes, ``signed`` ones hold directions.
 */
export interface TextureRead {
  name: string;
  revision: number;
  role: "colour" | "data" | "normal" | "flow" | "height";
  green: "up" | "down";
  signed: boolean;
  width: number;
  height: number;
}
/**
 * A part of the backdrop with the surface of another graph: its name, and what tells its states apart.
 */
export interface PartSurface {
  part: string;
  graph: string;
  variant: string;
  title: string;
  stamp: string;
}
/**
 * The graph that spurts where this one's decals are thrown, and what tells its states apart.
 */
export interface SpurtRead {
  graph: string;
  title: string;
  stamp: string;
}
/**
 * The mesh that a graph stands on; ``drawn`` is what tells its geometry from any other, ``view`` sees it whole.
 *
 * ``diameter`` is that of a ball about it, metres; ``levels`` are simpler ones for larger distances, the nearest first.
 */
export interface MeshRead {
  id: string;
  name: string;
  drawn: string;
  view: Camera;
  diameter: number;
  levels: LevelRead[];
}
/**
 * A level of detail: what tells its geometry from any other, and below which size on screen it is shown, 0 to 1.
 */
export interface LevelRead {
  drawn: string;
  screen: number;
  triangles: number;
}
export interface GraphUser {
  id: number;
  title: string;
  motif: string;
}
/**
 * What kind of map a picture seems to be: how sure (0..1), and why.
 */
export interface Guess {
  reading: Reading;
  confidence: number;
  reason: string;
}
export interface Happened {
  number: number;
  words: string;
  operation: {
    [k: string]: unknown;
  };
}
export interface History {
  steps: Step[];
  versions: Version[];
}
export interface Step {
  number: number;
  words: string;
  made: string;
  done: boolean;
}
export interface Version {
  id: number;
  name: string;
  revision: number;
  made: string;
}
/**
 * A node type that was found, and why; a motif of the project brings its name and ports.
 */
export interface Hit {
  key: string;
  why: string;
  name?: string;
  kind?: NodeType;
}
export interface Hits {
  hits: Hit[];
}
export interface Id {
  id: number;
}
/**
 * A job as pages show it. ``left`` is how long it will likely take yet, in seconds, where that is known; ``words`` why it failed.
 */
export interface JobState {
  id: number;
  kind: string;
  title: string;
  subject: string;
  state: string;
  share: number;
  left: number | null;
  words: string;
}
export interface Jobs {
  jobs: JobState[];
}
/**
 * What many throws have shown. ``throws`` are those of the sheet, row by row from the upper left, ``columns`` in a row.
 */
export interface JudgementState {
  id: string;
  verdicts: VelvetMoth_Core_Workbench_Judging__Verdict[];
  throws: Throw[];
  measured: Measured[];
  columns: number;
  tile: number;
  rule: string;
}
/**
 * One thing that is found: in a sentence, whether it is well, and how to mend it where it is not.
 */
export interface VelvetMoth_Core_Workbench_Judging__Verdict {
  key: string;
  is_good: boolean;
  what: string;
  mend: string;
}
/**
 * From ``start`` (metres) in the unit direction ``way``.
 */
export interface Throw {
  start: [number, number, number];
  way: [number, number, number];
  strength: number;
  seed: number;
  moment: number;
  tint: [number, number, number];
  numbers: [number, number, number, number];
}
/**
 * Of one throw: which shares of its area hang in the air, go through a surface, and were cut off by its reach; with how much
 *
 * of its outline the throw most like it agrees; its area (m²); and where most of what is wrong is (metres).
 */
export interface Measured {
  hanging: number;
  through: number;
  cut: number;
  alike: number;
  area: number;
  where: [number, number, number];
}
/**
 * A level of detail as it is asked for: the share of the triangles, and the size on screen below which it is shown.
 *
 * The size is that of the bounds beside the height of the picture; 0 finds it by the error.
 */
export interface LevelWanted {
  share: number;
  screen: number;
}
/**
 * What a part of the rule made: ``up`` of ``across``, in the units of its curve.
 */
export interface Made {
  part: string;
  across: number;
  up: number;
}
/**
 * A document of MaterialX, the name of its file, how many nodes it has, and what it cannot say.
 */
export interface MaterialText {
  text: string;
  file: string;
  nodes: number;
  words: string[];
}
/**
 * One number at the vertices, over all of them; ``values`` is how many different ones there are.
 */
export interface MeshChannel {
  name: string;
  low: number;
  high: number;
  mean: number;
  values: number;
}
/**
 * A mesh that has come in, or the job that reads its files: one of them is there. The job's subject is the mesh in the end.
 */
export interface MeshComing {
  mesh: MeshInfo | null;
  job: JobState | null;
}
/**
 * A mesh as lists show it; sizes in metres.
 */
export interface MeshInfo {
  id: string;
  name: string;
  drawn: string;
  view: Camera;
  diameter: number;
  levels: LevelRead[];
  revision: number;
  format: string;
  vertices: number;
  triangles: number;
  size: number[];
}
/**
 * A mesh with what was found out about it, in words too, and the graphs that stand on it.
 */
export interface MeshFacts {
  mesh: MeshInfo;
  reading: MeshReadingState;
  notes: string[];
  files: string[];
  has_uvs: boolean;
  depth: string;
  carried: {
    [k: string]: string;
  };
  places: number;
  pieces: number;
  area: number;
  low: number[];
  high: number[];
  parts: MeshPart[];
  channels: MeshChannel[];
  verdicts: MeshVerdict[];
  levels: MeshLevel[];
  users: GraphUser[];
}
/**
 * How its file is read: the axis that is up, the unit, and below which angle (degrees) missing normals are smooth.
 */
export interface MeshReadingState {
  up: "x" | "y" | "z";
  unit: "m" | "cm" | "mm" | "in" | "ft";
  smooth_below: number;
}
export interface MeshPart {
  name: string;
  triangles: number;
}
/**
 * A sentence about a mesh, or one channel of it; ``mend`` says what one press does about it, where anything can be done.
 */
export interface MeshVerdict {
  key: string;
  severity: string;
  words: string;
  channel: string;
  mend: string;
}
/**
 * A level of detail as it was made: ``error`` in metres, ``screen`` the size below which it is shown.
 */
export interface MeshLevel {
  vertices: number;
  triangles: number;
  share: number;
  error: number;
  screen: number;
  losses: ChannelLoss[];
}
export interface MeshOnly {
  mesh: MeshInfo;
}
/**
 * A step as it was looked at. ``geometry`` and ``values`` are names to fetch them by; ``values`` is empty for a form.
 *
 * Of directions they are three numbers at a vertex: along U, along V, and the speed, which the range is of.
 *
 * ``is_rough``: with no more ``rays`` at a vertex, and some step asks for more.
 */
export interface MeshPreview {
  problems: {
    [k: string]: string;
  };
  small: {
    [k: string]: string;
  };
  geometry: string;
  values: string;
  is_directions: boolean;
  is_rough: boolean;
  rays: number;
  vertices: number;
  triangles: number;
  low: number;
  high: number;
  mean: number;
}
/**
 * A stack on a mesh. Its outputs are channels: their ids are places, their names what they mean.
 */
export interface MeshStack {
  name: string;
  steps: StackStepState[];
  outputs: Output[];
  levels: LevelWanted[];
  weights: {
    [k: string]: number;
  };
}
export interface StackStepState {
  id: string;
  step: string;
  values: {
    [k: string]: unknown;
  };
}
/**
 * What comes of a stack: which layer of which step, under what name, in what depth.
 */
export interface Output {
  id: string;
  name: string;
  step: string;
  layer: string;
  depth: string;
}
/**
 * A stack as it is edited; ``is_made`` says whether the mesh is as it would make it now.
 */
export interface MeshStackState {
  id: number;
  revision: number;
  stack: MeshStack;
  is_made: boolean;
  undo: string;
  redo: string;
}
export interface Meshes {
  meshes: MeshInfo[];
}
/**
 * Moves a step to another place, the first being 0.
 */
export interface MoveStep {
  id: string;
  place: number;
  op: "move_step";
}
/**
 * Moves a stroke to another place, of another painted step too.
 */
export interface MoveStroke {
  step: string;
  place: number;
  to: string;
  to_place?: number;
  op: "move_stroke";
}
export interface NamedRule {
  id: number;
  name: string;
}
export interface NamedVariant {
  id: string;
  name: string;
}
/**
 * A graph has a new revision; ``motif`` is the type of its uses where it is a motif. Or a texture, mesh, stack, rule or block model has one.
 */
export interface News {
  graph: number;
  revision: number;
  motif: string;
  words: string;
  texture: string;
  stack: number;
  mesh: string;
  mesh_stack: number;
  job: number;
  rule: number;
  blocks: number;
}
/**
 * What the scripts of the workbench know of the core.
 *
 * ``fits``: how well a type flows into another, 3 as it is, 2 widened, 1 a part of it, 0 not at all; ``stops``: how many
 * numbers one stop of a gradient or curve has; ``asked_by_kind``: inputs of the dock that a kind of surface wants to be
 * shown, though they do nothing yet, ``idle_by_kind`` those that it makes no use of; ``brush_steps``: the steps on
 * meshes that a brush draws on; ``ways``: the ways from one key to the next; ``scene_targets`` and ``decal_parts``: what of the
 * scene, and of each decal, takes keys; ``rule_parts``: the parts of a rule of placing, ``curve_ways`` how their curves go;
 * ``easings`` are the ways by which decals spread, ``decal_endings`` what becomes of them, ``most_decals`` how many a graph keeps;
 * ``emitter_paths`` and ``emitter_facings``: how instances run and where they turn, ``most_instance_numbers`` how many each is given.
 */
export interface PageSettings {
  views: {
    [k: string]: Camera;
  };
  cells: {
    [k: string]: Cells;
  };
  backdrops: {
    [k: string]: Camera;
  };
  own_backdrops: string[];
  backdrop_parts: {
    [k: string]: {
      [k: string]: string;
    };
  };
  standing: {
    [k: string]: Camera;
  };
  looks: {
    [k: string]: string;
  };
  rigs: {
    [k: string]: RigState;
  };
  instances: InstanceSettings;
  sun: SunPicture;
  lamps: number;
  harmonics: string[];
  decal_buffers: {
    [k: string]: number[];
  };
  nodes: {
    [k: string]: NodeType;
  };
  fits: {
    [k: string]: {
      [k: string]: number;
    };
  };
  type_words: {
    [k: string]: string;
  };
  strands: {
    [k: string]: number;
  };
  parts: {
    [k: string]: WirePart;
  };
  tints: string[];
  stops: {
    [k: string]: number;
  };
  asked_by_kind: {
    [k: string]: string[];
  };
  idle_by_kind: {
    [k: string]: string[];
  };
  brush_steps: StepKind[];
  ways: {
    [k: string]: WayState;
  };
  scene_targets: {
    [k: string]: SceneTargetState;
  };
  decal_parts: {
    [k: string]: SceneTargetState;
  };
  rule_parts: {
    [k: string]: RulePartState;
  };
  curve_ways: {
    [k: string]: WayState;
  };
  easings: string[];
  decal_endings: {
    [k: string]: string;
  };
  most_decals: number;
  emitter_paths: {
    [k: string]: string;
  };
  emitter_facings: {
    [k: string]: string;
  };
  most_instance_numbers: number;
}
/**
 * What a wire can take of a value: of which types, and what comes out.
 */
export interface WirePart {
  words: string;
  given: string[];
  made: string;
}
export interface StepKind {
  key: string;
  name: string;
  group: string;
  help: string;
  layers: string[];
  gives: {
    [k: string]: string;
  };
  reshapes: boolean;
  begins: boolean;
  settings: Setting[];
}
/**
 * A way from one key to the next, by its name and in words.
 */
export interface WayState {
  name: string;
  words: string;
}
/**
 * A part of the scene that takes keys: its name, and those of its numbers with the ends they may have.
 */
export interface SceneTargetState {
  name: string;
  parts: {
    [k: string]: [number, number];
  };
}
/**
 * A part of every rule; the heights of a ``fixed`` one stay as they are.
 */
export interface RulePartState {
  name: string;
  words: string;
  across: Axis;
  up: Axis;
  first: RuleCurve;
  fixed: boolean;
}
/**
 * Points (x, y) in the units of a part of a rule, x rising; before the first and after the last the ends hold.
 */
export interface RuleCurve {
  points: [number, number][];
  between: string;
}
/**
 * A stack that makes a palette; what is at the address of a swatch changes with its ``stamp``.
 */
export interface PaletteInfo {
  id: string;
  name: string;
}
export interface Palettes {
  palettes: PaletteInfo[];
}
export interface Pin {
  place: (number | null)[];
  light: (number | null)[];
  shown: (number | null)[];
  values: {
    [k: string]: (number | null)[];
  };
}
export interface Preview {
  problems: {
    [k: string]: string;
  };
  small: {
    [k: string]: string;
  };
  picture: string;
  alpha: string;
  role: ("colour" | "data" | "normal" | "flow" | "height") | "";
  size: number[];
  atlas: AtlasGrid | null;
}
export interface Recipe {
  name: string;
  size: number[];
  steps: StackStepState[];
  outputs: Output[];
}
/**
 * A stack as it is edited. ``textures`` are those it has made, by output; ``is_made`` says whether they are as it is now.
 */
export interface RecipeState {
  id: number;
  revision: number;
  stack: Recipe;
  textures: {
    [k: string]: string;
  };
  is_made: boolean;
  undo: string;
  redo: string;
}
export interface RecipeTile {
  name: string;
  maps: {
    [k: string]: number[] | TakenFrom;
  };
}
/**
 * Where a step takes something from: a layer of a step above, or a texture.
 */
export interface TakenFrom {
  step?: string;
  layer?: string;
  texture?: string;
}
/**
 * What every refusal and failure says; a stale revision also says what happened since.
 */
export interface Refusal {
  error: Error;
  revision?: number;
  since?: Happened[];
}
/**
 * Has something come of the stack no longer. What was made already stays as it is.
 */
export interface RemoveOutput {
  id: string;
  op: "remove_output";
}
/**
 * Takes a step away, with what comes of it; what was taken from it no longer is.
 */
export interface RemoveStep {
  id: string;
  op: "remove_step";
}
/**
 * Takes the stroke at ``place`` away, the first being 0.
 */
export interface RemoveStroke {
  step: string;
  place: number;
  op: "remove_stroke";
}
/**
 * Several operations as one step: all of them or none.
 */
export interface RuleBatch {
  operations: (SetRulePart | SetRuleName | RuleBatch)[];
  summary?: string;
  op: "batch";
}
/**
 * Gives a part another curve; None for the one it has at first.
 */
export interface SetRulePart {
  part: string;
  curve?: RuleCurve | null;
  op: "set_rule_part";
}
/**
 * Renames the rule.
 */
export interface SetRuleName {
  name: string;
  op: "set_rule_name";
}
export interface RuleList {
  rules: NamedRule[];
}
/**
 * A rule with the curve of every part; ``changed_parts`` differ from the first rule.
 */
export interface RuleState {
  id: number;
  revision: number;
  name: string;
  curves: {
    [k: string]: RuleCurve;
  };
  changed_parts: string[];
  undo: string;
  redo: string;
}
/**
 * A distance that was found: a line from a place to another (metres), and what is at its end.
 */
export interface Seen {
  start: [number, number, number];
  end: [number, number, number];
  what: string;
}
/**
 * Sets how much a channel counts in what is given up for a level, 1 being usual.
 */
export interface SetChannelWeight {
  channel: string;
  weight: number;
  op: "set_channel_weight";
}
/**
 * Sets the levels of detail, the nearest first.
 */
export interface SetLevels {
  levels: LevelWanted[];
  op: "set_levels";
}
/**
 * Gives the stack another name.
 */
export interface SetStackName {
  name: string;
  op: "set_stack_name";
}
/**
 * Gives the textures another size in pixels.
 */
export interface SetStackSize {
  columns: number;
  rows: number;
  op: "set_stack_size";
}
/**
 * Sets something on a step, as plain data; None takes it back to the step's own default.
 */
export interface SetStepSetting {
  step: string;
  setting: string;
  value: unknown;
  op: "set_step_setting";
}
export interface ShaderWithValues {
  shader: ShaderState;
  values: number[];
}
/**
 * How many columns and rows of frames a sheet has, and how many are played a second.
 */
export interface SheetFrames {
  columns: number;
  rows: number;
  rate: number;
}
/**
 * What came of a throw: its decals, where something spurts, and how they were found.
 */
export interface SplashState {
  throw: Throw;
  decals: Decal[];
  sources: EmitterSource[];
  made: Made[];
  seen: Seen[];
  words: string[];
}
export interface Splashes {
  splashes: SplashState[];
}
export interface SpurtChoice {
  graph: string;
  title: string;
}
export interface SpurtChoices {
  graphs: SpurtChoice[];
}
/**
 * What the stage draws where something spurts: shader, values, emitter, and the form.
 */
export interface SpurtShader {
  shader: ShaderState;
  values: number[];
  emitter: EmitterState;
  form: string;
}
/**
 * Several operations as one step: all of them or none.
 */
export interface StackBatch {
  operations: (
    | StackBatch
    | SetStackName
    | AddOutput
    | RemoveOutput
    | EditOutput
    | AddStep
    | RemoveStep
    | MoveStep
    | SetStepSetting
    | AddStroke
    | RemoveStroke
    | MoveStroke
    | SetStackSize
    | SetLevels
    | SetChannelWeight
  )[];
  summary?: string;
  op: "batch";
}
/**
 * A stack in a list; ``has_textures`` says whether it has made any that are there.
 */
export interface StackInfo {
  id: number;
  name: string;
  steps: number;
  has_textures: boolean;
}
export interface Stacks {
  stacks: StackInfo[];
}
/**
 * What the scripts of the stage know of the core.
 *
 * ``views`` and ``backdrops``: from where each form and backdrop is first seen, ``standing`` what somebody sees who
 * stands in a backdrop, ``own_backdrops``: those that are the graph's form or mesh; ``cells``: of how many cells along a side forms may be made, where that can be chosen;
 * ``looks``: what else can be looked at, by key; ``lamps``: the most a rig has; ``harmonics``: the names of those of the environment's diffuse light; ``decal_buffers``: what those hold where
 * there is no decal.
 */
export interface StageSettings {
  views: {
    [k: string]: Camera;
  };
  cells: {
    [k: string]: Cells;
  };
  backdrops: {
    [k: string]: Camera;
  };
  own_backdrops: string[];
  backdrop_parts: {
    [k: string]: {
      [k: string]: string;
    };
  };
  standing: {
    [k: string]: Camera;
  };
  looks: {
    [k: string]: string;
  };
  rigs: {
    [k: string]: RigState;
  };
  instances: InstanceSettings;
  sun: SunPicture;
  lamps: number;
  harmonics: string[];
  decal_buffers: {
    [k: string]: number[];
  };
}
export interface Steps {
  steps: Step[];
}
/**
 * A stroke as lists show it: so many ``points``, the ``first`` in metres; ``misses``: it meets no surface.
 */
export interface StrokeState {
  mode: "set" | "add" | "take away" | "soften" | "sharpen" | "erase" | "invert" | "comb";
  touches: ("red" | "green" | "blue" | "alpha")[];
  value: number;
  fill: "" | "mesh" | "part" | "island";
  points: number;
  first: number[];
  misses: boolean;
}
/**
 * The numbers of strokes that go over a place, the last one first.
 */
export interface StrokesOver {
  strokes: number[];
}
/**
 * ``channels``: which of the four numbers that a brush shows each channel keeps, by the channel's place.
 */
export interface StrokesState {
  channels: {
    [k: string]: number;
  };
  strokes: StrokeState[];
}
export interface SurfaceChoice {
  graph: string;
  title: string;
  variants: NamedVariant[];
}
export interface SurfaceChoices {
  graphs: SurfaceChoice[];
}
/**
 * An input that a wire from an output can go to; ``fit`` says how well, as ``parts.fit``.
 */
export interface Taker {
  output: string;
  node: string;
  input: string;
  fit: number;
}
export interface Takers {
  takers: Taker[];
}
export interface TextId {
  id: string;
}
export interface TextureFacts {
  texture: TextureInfo;
  channels: ChannelFacts[];
  guess: Guess;
  verdicts: VelvetMoth_Core_Pictures_Inspection__Verdict[];
  users: GraphUser[];
}
/**
 * ``recipe`` is the stack that made it, ``mesh`` the id of the mesh that it was baked of and follows, ``frames`` what a sheet of
 *
 * frames holds; null for others.
 */
export interface TextureInfo {
  id: string;
  name: string;
  role: "colour" | "data" | "normal" | "flow" | "height";
  green: "up" | "down";
  width: number;
  height: number;
  channels: number;
  depth: string;
  format: string;
  revision: number;
  recipe: number | null;
  mesh: string | null;
  frames: SheetFrames | null;
}
/**
 * Something about a picture that is worth knowing: ``severity`` is ``warning`` or ``note``.
 *
 * ``reading`` is a better one that one press takes, where there is one; ``channel`` the one it is about.
 */
export interface VelvetMoth_Core_Pictures_Inspection__Verdict {
  code: string;
  severity: "warning" | "note";
  what: string;
  reading: Reading | null;
  channel: string;
}
export interface TextureOnly {
  texture: TextureInfo;
  note?: string;
  why?: string;
}
export interface Textures {
  textures: TextureInfo[];
}
export interface Use {
  id: number;
  title: string;
}
export interface Uses {
  uses: Use[];
}
export interface ValueHeld {
  value: number[] | string;
  where: string;
  made: string;
}
export interface ValuesHeld {
  values: ValueHeld[];
}
/**
 * A vertex with what it holds (metres, y up; four or eight numbers), and the triangle and part that were looked at.
 */
export interface Vertex {
  index: number;
  face: number;
  part: string;
  place: number[];
  normal: number[];
  uv: number[];
  colours: number[];
}
/**
 * A format that meshes can be saved in, and what of one it keeps.
 */
export interface WayToWrite {
  key: string;
  name: string;
  keeps: string;
}
