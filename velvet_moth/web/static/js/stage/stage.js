/** The stage: one form with the graph's shader, seen by an orbiting eye under a sun that can be turned. */
import * as THREE from "three";
import { Backdrop } from "moth/stage/backdrop.js";
import { coarserForms, formGeometry, geometryAddress, kindOf } from "moth/stage/forms.js";
import { Hands } from "moth/stage/hands.js";
import { BY_DISTANCE, asLevel, levelAt, screenSize } from "moth/stage/levels.js";
import { Lighting } from "moth/stage/lighting.js";
import { Instances } from "moth/stage/instances.js";
import { Materials, keyOf } from "moth/stage/materials.js";
import { direction, viewOf } from "moth/stage/eye.js";
import { Picture } from "moth/stage/picture.js";
import { SAMPLES } from "moth/stage/smooth.js";
import { TexturePool } from "moth/stage/pixels.js";
import { Spurt } from "moth/stage/spurt.js";
import { stageUniforms } from "moth/stage/uniforms.js";
import { Resolution } from "moth/stage/resolution.js";

/** @typedef {import("../types.d.ts").ShaderState} ShaderState */
/** @typedef {import("../types.d.ts").StageSettings} StageSettings */

/** @typedef {import("../types.d.ts").MeshRead} MeshRead */
/** @typedef {import("./picture.js").Shown} Shown */
/** @typedef {import("./picture.js").Light} Light */
/** @typedef {import("./picture.js").Wipe} Wipe */
/**
 * What a still shows where it differs from the stage: other values, another shader, whether it is clear where there is nothing
 * instead of grey, and whether edges are smooth, whose pixels are then not what the shader gives there.
 * @typedef {{ values?: Float32Array | null, built?: import("./materials.js").Built | null, light?: Light, isClear?: boolean, isSmooth?: boolean }} Still
 */

/** How fast a turntable goes round, in degrees a second. */
const TURN = 24;
/** So many times as far as usual the eye may go from a mesh with levels of detail, to see them change. */
const FARTHER = 8;
/** How long nothing happens until the picture is drawn at its best, in milliseconds. */
const CALM = 300;
/** And at least so many times as long as a picture takes. */
const PATIENCE = 3;

export class Stage extends EventTarget {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {StageSettings} settings
   */
  constructor(canvas, settings) {
    super();
    this.canvas = canvas;
    this.form = Object.keys(settings.views)[0];
    /** The mesh in the place of the form. @type {(MeshRead & { address?: string }) | null} */
    this.brought = null;
    /** The level of detail that is drawn of it. @type {number | typeof BY_DISTANCE} */
    this.level = 0;
    /** The number of the level that is drawn now. */
    this.levelDrawn = 0;
    /** Whether the form is drawn with what is the same all over each triangle. */
    this.hasFaces = false;
    /** How many forms are on their way. */
    this.fetching = 0;
    this.settings = settings;
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: "high-performance" });
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.scene = new THREE.Scene();
    this.camera = new THREE.PerspectiveCamera(30, 1, 0.05, 60);
    this.mesh = new THREE.Mesh();
    this.mesh.visible = false;
    this.mesh.frustumCulled = false;
    /** What helps the hand on the canvas, and is on no picture that is kept. */
    this.aids = new THREE.Group();
    this.aids.visible = false;
    this.scene.add(this.mesh, this.aids);
    this.pool = new TexturePool();
    this.resolution = new Resolution(() => this.invalidate());
    this.time = 0;
    this.isPlaying = false;
    /** What goes round by itself. @type {"" | "eye" | "light"} */
    this.turntable = "";
    this.lightMode = false;
    this.isWireframe = false;
    /** Two pictures, parted by an edge. @type {Wipe | null} */
    this.wipe = null;
    /** The same picture by a faster shader, while no value is changed. @type {Shown | null} */
    this.resting = null;
    /** What was shown before the last edit. @type {Shown | null} */
    this.previous = null;
    /** How fast time runs, and the stretch of it (seconds) that repeats. */
    this.speed = 1;
    this.stretch = { from: 0, to: 60 };
    /** Called with each moment before it is drawn, so that what is keyed can follow. @type {((time: number) => void) | null} */
    this.onTime = null;
    this.isDirty = false;
    this.isBusy = false;
    /** Of how many samples a pixel the picture is the mean; -1 while it is the plain one. */
    this.samples = -1;
    this.calming = 0;
    this.frameTime = 0;
    this.key = "";
    /** The newest shader asked for; a slower, older build must not replace it. */
    this.wanted = "";
    this.uniforms = stageUniforms(this.camera, settings);
    this.instances = new Instances(this.renderer, settings, this.uniforms, this.mesh);
    Object.assign(this.uniforms, this.instances.read);
    this.values = { value: /** @type {Float32Array} */ (new Float32Array(0)) };
    /** The values of the last state, while others are being dragged. @type {Float32Array | undefined} */
    this.settled = undefined;
    this.materials = new Materials(this.renderer, this.uniforms);
    /** The shader on the stage. @type {import("./materials.js").Built | null} */
    this.shown = null;
    this.picture = new Picture(this);
    this.spurt = new Spurt(this);
    const { backdrop_parts: parts, own_backdrops: own } = settings;
    this.backdrop = new Backdrop(this.renderer, this.uniforms, this.scene, this.pool, parts, own);
    /** The graphs whose surfaces the backdrop's parts have. @type {import("../types.d.ts").PartSurface[]} */
    this.partSurfaces = [];
    /** Whether what lies behind is drawn as decals leave it. */
    this.hasDecals = false;
    this.lighting = new Lighting(this);
    this.lighting.reset();
    this.hands = new Hands(this);
    this.controls = this.hands.controls;
    this.resetView();
    new ResizeObserver(() => this.invalidate()).observe(canvas);
    canvas.addEventListener("webglcontextlost", (event) => event.preventDefault());
    canvas.addEventListener("webglcontextrestored", () => {
      this.picture.restart();
      this.invalidate();
    });
  }

  /** The scene as the core takes it. */
  get view() {
    return viewOf(this);
  }

  /** From where what stands there is first seen. */
  get firstView() {
    const own = this.instances.emitter?.view ?? this.brought?.view ?? this.settings.views[kindOf(this.form)];
    return this.settings.backdrops[this.backdrop.key] ?? own;
  }

  resetView() {
    const view = this.firstView;
    this.#reach();
    this.look({ ...view, distance: view.distance * this.largest });
    this.lighting.reset();
  }

  /** How near and how far the eye goes, which is another matter for every mesh. */
  #reach() {
    const isOfAnySize = this.brought || this.instances.emitter;
    const distance = isOfAnySize ? this.firstView.distance * this.largest : 0;
    this.hands.reach(distance, this.brought?.levels.length ? FARTHER : 1);
  }

  /** The largest factor of the form's size, and at least 1: so much farther away it is seen whole. */
  get largest() {
    return Math.max(1, ...this.mesh.scale.toArray());
  }

  /** @param {import("../types.d.ts").Camera} camera */
  look({ turn, tilt, distance, field, target }) {
    this.camera.fov = field;
    this.controls.target.fromArray(target);
    this.camera.position.copy(direction(turn, tilt).multiplyScalar(distance)).add(this.controls.target);
    this.controls.update();
    this.moved();
  }

  /** Goes nearer to what is looked at, or farther from it. @param {number} distance metres */
  goTo(distance) {
    const { target } = this.controls;
    this.camera.position.sub(target).setLength(distance).add(target);
    this.controls.update();
    this.moved();
  }

  /** Turns about another place, from as far away. @param {number[]} place */
  focus(place) {
    const by = new THREE.Vector3(...place).sub(this.controls.target);
    this.controls.target.add(by);
    this.camera.position.add(by);
    this.controls.update();
    this.moved();
  }

  /** @param {"" | "eye" | "light"} what goes round by itself */
  setTurntable(what) {
    this.turntable = what;
    this.lastTick = performance.now();
    this.moved();
  }

  /**
   * @param {string} key what lies behind; empty for nothing
   * @param {import("../types.d.ts").PartSurface[]} [surfaces] the graphs whose surfaces its parts have
   * @param {boolean} [hasDecals] whether it is drawn as decals leave it
   */
  async setBackdrop(key, surfaces = this.partSurfaces, hasDecals = this.hasDecals) {
    this.partSurfaces = surfaces;
    this.hasDecals = hasDecals;
    const isOther = key !== this.backdrop.key;
    const lit = { lamps: this.lighting.lampsBehind, decals: hasDecals };
    const { form, brought, mesh } = this;
    const address = brought ? geometryAddress(asLevel(brought, 0)) : undefined;
    this.backdrop.form = {
      name: `${form} ${brought?.drawn}`,
      fetch: (hasFaces) => formGeometry(form, hasFaces, address),
      mesh,
      largest: () => this.largest,
    };
    if (!isOther && this.backdrop.wanted === this.backdrop.nameOf(key, lit, surfaces)) return;
    await this.backdrop.set(key, lit, surfaces);
    if (isOther) this.resetView();
    this.invalidate();
  }

  /** @param {import("../types.d.ts").EmitterState | null} emitter what draws the form many times */
  setEmitter(emitter) {
    const before = this.instances.emitter;
    if (!emitter && !before) return;
    this.instances.set(emitter);
    if (!!emitter !== !!before) this.resetView();
    else this.#reach();
    this.invalidate();
  }

  /** Moves the emitter's own source. @param {Partial<import("../types.d.ts").EmitterSource>} change */
  setSource(change) {
    const { emitter } = this.instances;
    if (!emitter) return;
    this.instances.set({ ...emitter, sources: emitter.sources.map((source) => ({ ...source, ...change })) });
  }

  /** How far from the origin what casts shadows is, in metres. */
  get reach() {
    const own = this.instances.emitter?.reach ?? (this.mesh.geometry.userData.reach ?? 1) * this.largest;
    return Math.max(own, this.backdrop.reach);
  }

  /** How decals live. @param {Record<string, number[]>} inputs */
  setSpread(inputs) {
    this.picture.decals.setSpread(inputs);
    this.invalidate();
  }

  /**
   * What is thrown and not kept yet lies on top of all decals.
   * @param {import("../types.d.ts").Decal[]} decals
   * @param {import("../types.d.ts").EmitterSource[]} sources
   */
  setThrown(decals, sources) {
    this.picture.decals.thrown = decals;
    this.spurt.setSources(1, sources);
    this.invalidate();
  }

  /** @param {import("../types.d.ts").Decal[]} decals in the order they lie on each other */
  setDecals(decals) {
    this.picture.decals.list = decals;
    this.invalidate();
  }

  /**
   * @param {string} key
   * @param {(MeshRead & { address?: string }) | null} [brought] a mesh in its place
   */
  async setForm(key, brought = null) {
    const isOther = kindOf(key) !== kindOf(this.form) || brought?.id !== this.brought?.id;
    [this.form, this.brought] = [key, brought];
    if (isOther) this.resetView();
    else this.#reach();
    await this.#fetchGeometry();
  }

  async #fetchGeometry() {
    const { form, brought, hasFaces } = this;
    const level = (this.levelDrawn = this.#levelNow());
    const address = brought ? geometryAddress(asLevel(brought, level)) : undefined;
    this.fetching += 1;
    const geometry = await formGeometry(form, hasFaces, address).finally(() => (this.fetching -= 1));
    // Meanwhile another may have been asked for.
    if (this.form !== form || this.brought?.drawn !== brought?.drawn || this.hasFaces !== hasFaces) return;
    if (this.levelDrawn !== level) return;
    this.place(geometry, brought ? undefined : coarserForms(form, this.settings, hasFaces));
  }

  /**
   * Stands a form on the stage.
   * @param {THREE.BufferGeometry} geometry
   * @param {import("./instances.js").Coarser} [coarser] forms in its place while many of it move
   */
  place(geometry, coarser) {
    this.instances.setForm(geometry, coarser);
    const { boundingBox } = geometry;
    if (boundingBox) {
      this.uniforms.form_low.value.copy(boundingBox.min);
      this.uniforms.form_high.value.copy(boundingBox.max);
    }
    this.mesh.visible = this.mesh.material instanceof THREE.RawShaderMaterial;
    this.invalidate();
  }

  /** Which level of detail is drawn: one by its number, 0 being the full mesh, or by the distance. @param {Stage["level"]} level */
  async setLevel(level) {
    this.level = level;
    if (this.#levelNow() !== this.levelDrawn) await this.#fetchGeometry();
  }

  /** The size of the mesh beside the height of the picture. */
  get sizeOnScreen() {
    const distance = this.camera.position.distanceTo(this.controls.target);
    return screenSize((this.brought?.diameter ?? 0) * this.largest, distance, this.camera.fov);
  }

  #levelNow() {
    // What is fetched from an address of its own has no levels.
    const levels = this.brought?.address ? [] : (this.brought?.levels ?? []);
    return this.level === BY_DISTANCE ? levelAt(levels, this.sizeOnScreen) : Math.min(this.level, levels.length);
  }

  /** How large the form is along its own axes, and how it is turned. @param {import("../types.d.ts").Pose} pose */
  setPose({ size, turn }) {
    const { scale, rotation } = this.mesh;
    const angle = (turn * Math.PI) / 180;
    if (scale.toArray().every((part, i) => part === size[i]) && rotation.y === angle) return;
    scale.fromArray(size);
    rotation.set(0, angle, 0);
    this.moved();
  }

  /**
   * The material of a shader with its textures, built if need be; null where it cannot be built.
   * @param {ShaderState} shader
   * @returns {Promise<import("./materials.js").Built | null>}
   */
  async prepare(shader) {
    const own = shader.samplers.filter(({ name }) => !(name in this.uniforms));
    const bound = await Promise.all(own.map((s) => this.pool.get(s)));
    const textures = Object.fromEntries(own.map((s, i) => [s.name, { value: bound[i] }]));
    if (!this.uniforms.texture_environment.value) await this.lighting.set(this.lighting.wantedRig);
    const built = await this.materials.get(shader, textures, this.mesh.geometry, this.camera, [this.key, this.wanted]);
    if (built?.readsFaces && !this.hasFaces) {
      this.hasFaces = true;
      await this.#fetchGeometry();
    }
    return built;
  }

  /** Keeps what is shown now, to be compared with what an edit makes of it. */
  rememberShown() {
    if (this.shown) this.previous = { values: this.settled ?? this.values.value, built: this.shown };
  }

  /**
   * Builds a shader aside and shows it once it is ready; the old picture stays until then.
   * @param {ShaderState} shader
   * @param {Float32Array} values
   */
  async setShader(shader, values) {
    const key = keyOf(shader);
    this.wanted = key;
    const built = await this.prepare(shader);
    if (this.wanted !== key) return;
    if (!built) {
      this.wanted = this.key;
      this.dispatchEvent(new CustomEvent("failed", { detail: this.materials.fault }));
      return;
    }
    this.mesh.material = built.material;
    this.mesh.visible = this.mesh.geometry.hasAttribute("position");
    this.values = built.values;
    this.key = key;
    this.shown = built;
    this.settled = values;
    this.setValues(values);
  }

  /** @param {Shown | null} shown a faster shader for as long as no value is changed */
  setResting(shown) {
    this.resting = shown;
  }

  /** @param {Float32Array} values */
  setValues(values) {
    this.resting = null;
    this.animate(values);
    this.invalidate();
  }

  /** The values of the moment that is drawn next. @param {Float32Array} values */
  animate(values) {
    this.values.value = values;
  }

  /** A value is being dragged: as a move, so that the picture keeps up. */
  moved() {
    this.resolution.moved();
    this.invalidate();
  }

  /** Something is to be seen otherwise. */
  invalidate() {
    clearTimeout(this.calming);
    this.samples = -1;
    this.#ask();
  }

  /** Asks for a frame. One is drawn at a time: the GPU is never given more than it has finished. */
  #ask() {
    this.isDirty = true;
    if (!this.isBusy) {
      this.isBusy = true;
      requestAnimationFrame((now) => this.#draw(now));
    }
  }

  /** Whether the picture changes by itself. */
  get isMoving() {
    return this.isPlaying || this.turntable !== "";
  }

  /** @param {boolean} playing */
  setPlaying(playing) {
    this.isPlaying = playing;
    this.lastTick = performance.now();
    this.invalidate();
  }

  /** @param {number} now */
  #draw(now) {
    this.isDirty = false;
    const passed = Math.max(0, now - (this.lastTick ?? now)) / 1000;
    if (this.isMoving) this.lastTick = now;
    if (this.turntable === "eye") this.hands.orbit(TURN * passed, 0, 1);
    else if (this.turntable === "light") this.lighting.turn(TURN * passed, 0);
    if (this.isPlaying) {
      const { from, to } = this.stretch;
      const time = this.time + passed * this.speed;
      this.time = time < to ? time : from + ((time - from) % (to - from));
      this.onTime?.(this.time);
      this.resolution.moved();
    }
    if (this.level === BY_DISTANCE && this.#levelNow() !== this.levelDrawn) void this.#fetchGeometry();
    const started = performance.now();
    const at = this.resolution.current;
    const isPlain = this.samples < 0;
    this.picture.draw(isPlain ? -1 : this.samples++);
    const gl = /** @type {WebGL2RenderingContext} */ (this.renderer.getContext());
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    const check = () => {
      const isDone = !fence || gl.isContextLost() || gl.getSyncParameter(fence, gl.SYNC_STATUS) === gl.SIGNALED;
      if (!isDone) return void setTimeout(check, 3);
      gl.deleteSync(fence);
      this.#drawn(performance.now() - started, isPlain ? at : 0);
    };
    setTimeout(check);
  }

  /**
   * @param {number} spent ms
   * @param {number} at the resolution it was drawn at; 0 for one at its best, which tells nothing of how fast one is
   */
  #drawn(spent, at) {
    this.isBusy = false;
    this.frameTime = spent;
    if (at) this.resolution.drew(spent, at);
    this.dispatchEvent(new Event("drawn"));
    if (this.isDirty || this.isMoving) this.#ask();
    else if (this.isAtBest || this.resolution.isMoving) return;
    else if (this.samples >= 0) this.#ask();
    // Where a picture takes long, a hand that comes back would have to wait for it: it is likely to come soon.
    else this.calming = window.setTimeout(() => this.finish(), Math.max(CALM, PATIENCE * spent));
  }

  /** Draws the picture at its best. It does so by itself once nothing has happened for a while: then there is time for smooth edges. */
  finish() {
    clearTimeout(this.calming);
    this.samples = 0;
    this.#ask();
  }

  /** Whether nothing will make the picture better. What adds up sheet by sheet is counted, and has no mean. */
  get isAtBest() {
    return !!this.shown?.adds || this.samples === SAMPLES.length;
  }

  /** @param {Wipe | null} wipe */
  setWipe(wipe) {
    this.wipe = wipe;
    this.invalidate();
  }

  /** @param {boolean} isOn */
  setWireframe(isOn) {
    this.isWireframe = isOn;
    this.invalidate();
  }

  /** @param {number} seconds */
  setTime(seconds) {
    this.time = seconds;
    this.onTime?.(seconds);
    this.moved();
    this.dispatchEvent(new Event("time"));
  }

  /**
   * The picture from the same eye: RGBA bytes, row 0 at the bottom.
   * @param {number} width
   * @param {number} height
   * @param {Still} [still]
   * @returns {Promise<Uint8Array>}
   */
  snapshot(width, height, still = {}) {
    return this.picture.snapshot(width, height, still);
  }

  /** Whether the newest shader and form asked for are those being shown. */
  get isReady() {
    return this.key !== "" && this.key === this.wanted && this.mesh.visible && !this.fetching;
  }
}
