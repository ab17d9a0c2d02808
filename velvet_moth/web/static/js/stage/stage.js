/** The stage: one form with the graph's shader, seen by an orbiting eye under a sun that can be turned. */
import * as THREE from "three";
import { Backdrop, pixel } from "moth/stage/backdrop.js";
import { formGeometry } from "moth/stage/forms.js";
import { Hands } from "moth/stage/hands.js";
import { Materials, keyOf } from "moth/stage/materials.js";
import { TexturePool } from "moth/stage/pixels.js";
import { Resolution } from "moth/stage/resolution.js";

/** @typedef {import("../types.d.ts").ShaderState} ShaderState */
/** @typedef {import("../types.d.ts").PageSettings} PageSettings */

/** @typedef {{ values: Float32Array, built: import("./materials.js").Built | null }} Shown a null `built` is the shader on the stage */
/** @typedef {Shown & { share: number }} Wipe */

const DEGREES = Math.PI / 180;
/** Written to the canvas as it is: the shaders encode their own colours, and so does this. */
const BACKGROUND = new THREE.Color().setRGB(0x73 / 255, 0x70 / 255, 0x6d / 255, THREE.LinearSRGBColorSpace);

/**
 * @param {number} turn degrees around
 * @param {number} tilt degrees up
 */
const direction = (turn, tilt) =>
  new THREE.Vector3(
    Math.cos(tilt * DEGREES) * Math.sin(turn * DEGREES),
    Math.sin(tilt * DEGREES),
    Math.cos(tilt * DEGREES) * Math.cos(turn * DEGREES),
  );

export class Stage extends EventTarget {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {PageSettings} settings
   */
  constructor(canvas, settings) {
    super();
    this.canvas = canvas;
    this.form = Object.keys(settings.views)[0];
    this.settings = settings;
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: "high-performance" });
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.renderer.setClearColor(BACKGROUND, 1);
    this.scene = new THREE.Scene();
    this.camera = new THREE.PerspectiveCamera(30, 1, 0.05, 60);
    this.mesh = new THREE.Mesh();
    this.mesh.visible = false;
    this.mesh.frustumCulled = false;
    this.scene.add(this.mesh);
    this.pool = new TexturePool();
    this.resolution = new Resolution(() => this.invalidate());
    this.rig = Object.keys(settings.rigs)[0];
    this.wantedRig = this.rig;
    this.light = { turn: 0, tilt: 0 };
    this.time = 0;
    this.isPlaying = false;
    this.lightMode = false;
    this.isWireframe = false;
    /** Another picture left of an edge at a share of the width. @type {Wipe | null} */
    this.wipe = null;
    /** What was shown before the last edit. @type {Shown | null} */
    this.previous = null;
    /** How fast time runs, and after how many seconds it begins again. */
    this.speed = 1;
    this.loop = 60;
    this.isDirty = false;
    this.isBusy = false;
    this.frameTime = 0;
    this.key = "";
    /** The newest shader asked for; a slower, older build must not replace it. */
    this.wanted = "";
    this.uniforms = {
      camera_position: { value: this.camera.position },
      time: { value: 0 },
      sun_direction: { value: direction(this.light.turn, this.light.tilt) },
      sun_colour: { value: new THREE.Vector3() },
      rig_turn: { value: 0 },
      exposure: { value: 1 },
      // Shared by all shaders, so that another rig is another texture and no other shader.
      texture_environment: { value: /** @type {THREE.Texture | null} */ (null) },
      texture_backdrop: { value: /** @type {THREE.Texture | null} */ (null) },
      // Nothing casts shadows here yet: the sun reaches everything.
      texture_sun_reach: { value: pixel([1, 1, 1, 1]) },
      screen_size: { value: new THREE.Vector2(1, 1) },
      form_low: { value: new THREE.Vector3() },
      form_high: { value: new THREE.Vector3() },
      instance_data: { value: new THREE.Vector4(...settings.instance) },
      camera_right: { value: new THREE.Vector3() },
      camera_up: { value: new THREE.Vector3() },
      lens: { value: new THREE.Vector2() },
    };
    this.values = { value: /** @type {Float32Array} */ (new Float32Array(0)) };
    /** The values of the last state, while others are being dragged. @type {Float32Array | undefined} */
    this.settled = undefined;
    this.materials = new Materials(this.renderer, this.uniforms);
    this.backdrop = new Backdrop(this.renderer, this.uniforms, this.scene);
    this.#standLight();
    this.hands = new Hands(this);
    this.controls = this.hands.controls;
    this.resetView();
    new ResizeObserver(() => this.invalidate()).observe(canvas);
    canvas.addEventListener("webglcontextlost", (event) => event.preventDefault());
    canvas.addEventListener("webglcontextrestored", () => this.invalidate());
  }

  /** The scene as the core takes it: form, rig, eye, light and moment, in degrees, metres and seconds. */
  get view() {
    const target = this.controls.target;
    const at = this.camera.position.clone().sub(target);
    const distance = at.length();
    return {
      form: this.form,
      rig: this.rig,
      backdrop: this.backdrop.key,
      turn: (Math.atan2(at.x, at.z) / DEGREES).toFixed(4),
      tilt: (Math.asin(at.y / distance) / DEGREES).toFixed(4),
      distance: distance.toFixed(5),
      field: String(this.camera.fov),
      target_x: target.x.toFixed(5),
      target_y: target.y.toFixed(5),
      target_z: target.z.toFixed(5),
      light_turn: this.light.turn.toFixed(3),
      light_tilt: this.light.tilt.toFixed(3),
      time: String(this.time),
    };
  }

  /**
   * Where a place in the world is seen, in pixels of the page from the canvas's upper left corner; null behind the eye.
   * @param {number[]} place
   */
  seenAt([x, y, z]) {
    const at = new THREE.Vector3(x, y, z).project(this.camera);
    if (at.z > 1) return null;
    const { clientWidth: width, clientHeight: height } = this.canvas;
    return { x: (at.x * 0.5 + 0.5) * width, y: (0.5 - at.y * 0.5) * height };
  }

  resetView() {
    const { turn, tilt, distance, field } =
      this.settings.backdrops[this.backdrop.key] ?? this.settings.views[this.form];
    this.camera.fov = field;
    this.controls.target.set(0, 0, 0);
    this.camera.position.copy(direction(turn, tilt).multiplyScalar(distance));
    this.controls.update();
    this.#standLight();
  }

  /** The light of the rig as it first stands. */
  #standLight() {
    const { turn, tilt, colour, exposure, far } = this.settings.rigs[this.rig];
    this.backdrop.setFar(far);
    Object.assign(this.light, { turn, tilt });
    this.uniforms.sun_colour.value.fromArray(colour);
    this.uniforms.exposure.value = exposure;
    this.turnLight(0, 0);
  }

  /**
   * Another light, with its surroundings; the old one stays until they have come.
   * @param {string} key
   */
  async setRig(key) {
    this.wantedRig = key;
    const found = await this.pool.surroundings(key);
    // Meanwhile yet another may have been asked for.
    if (this.wantedRig !== key) return;
    const isOther = key !== this.rig;
    this.rig = key;
    this.uniforms.texture_environment.value = found;
    if (isOther) this.#standLight();
    this.invalidate();
  }

  /** @param {string} key what lies behind; empty for nothing */
  async setBackdrop(key) {
    if (key === this.backdrop.key) return;
    await this.backdrop.set(key);
    this.resetView();
    this.invalidate();
  }

  /**
   * @param {number} turn degrees
   * @param {number} tilt degrees
   */
  turnLight(turn, tilt) {
    this.light.turn = (this.light.turn + turn + 360) % 360;
    this.light.tilt = Math.min(89, Math.max(-10, this.light.tilt + tilt));
    this.uniforms.sun_direction.value.copy(direction(this.light.turn, this.light.tilt));
    this.uniforms.rig_turn.value = (((this.settings.rigs[this.rig].turn - this.light.turn) / 360) % 1) + 1;
    this.uniforms.rig_turn.value %= 1;
    this.moved();
  }

  /** @param {string} key */
  async setForm(key) {
    const isOther = key !== this.form;
    this.form = key;
    if (isOther) this.resetView();
    this.mesh.geometry = await formGeometry(key);
    const { boundingBox } = this.mesh.geometry;
    if (boundingBox) {
      this.uniforms.form_low.value.copy(boundingBox.min);
      this.uniforms.form_high.value.copy(boundingBox.max);
    }
    this.mesh.visible = this.mesh.material instanceof THREE.RawShaderMaterial;
    this.invalidate();
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
    if (!this.uniforms.texture_environment.value) await this.setRig(this.wantedRig);
    return this.materials.get(shader, textures, this.mesh.geometry, this.camera, [this.key, this.wanted]);
  }

  /** Keeps what is shown now, to be compared with what an edit makes of it. */
  rememberShown() {
    const material = this.mesh.material;
    if (!(material instanceof THREE.RawShaderMaterial)) return;
    this.previous = { values: this.settled ?? this.values.value, built: { material, values: this.values } };
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
      this.dispatchEvent(new Event("failed"));
      return;
    }
    this.mesh.material = built.material;
    this.mesh.visible = this.mesh.geometry.hasAttribute("position");
    this.values = built.values;
    this.key = key;
    this.settled = values;
    this.setValues(values);
  }

  /** @param {Float32Array} values */
  setValues(values) {
    this.values.value = values;
    this.invalidate();
  }

  /** A value is being dragged: as a move, so that the picture keeps up. */
  moved() {
    this.resolution.moved();
    this.invalidate();
  }

  /** Asks for a frame. One is drawn at a time: the GPU is never given more than it has finished. */
  invalidate() {
    this.isDirty = true;
    if (!this.isBusy) {
      this.isBusy = true;
      requestAnimationFrame((now) => this.#draw(now));
    }
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
    if (this.isPlaying) {
      this.time = (this.time + (Math.max(0, now - (this.lastTick ?? now)) / 1000) * this.speed) % this.loop;
      this.lastTick = now;
      this.resolution.moved();
    }
    const started = performance.now();
    const at = this.resolution.current;
    this.#render();
    const gl = /** @type {WebGL2RenderingContext} */ (this.renderer.getContext());
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    const check = () => {
      const isDone = !fence || gl.isContextLost() || gl.getSyncParameter(fence, gl.SYNC_STATUS) === gl.SIGNALED;
      if (!isDone) return void setTimeout(check, 3);
      gl.deleteSync(fence);
      this.#drawn(performance.now() - started, at);
    };
    setTimeout(check);
  }

  /**
   * @param {number} spent ms
   * @param {number} at the resolution it was drawn at
   */
  #drawn(spent, at) {
    this.isBusy = false;
    this.frameTime = spent;
    this.resolution.drew(spent, at);
    this.dispatchEvent(new Event("drawn"));
    if (this.isDirty || this.isPlaying) this.invalidate();
  }

  /** What shaders need to know of the eye and the moment. @param {number} aspect width over height */
  #aim(aspect) {
    const { camera, uniforms } = this;
    camera.aspect = aspect;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    camera.matrixWorld.extractBasis(uniforms.camera_right.value, uniforms.camera_up.value, new THREE.Vector3());
    const reach = Math.tan((camera.fov * DEGREES) / 2);
    uniforms.lens.value.set(reach * aspect, reach);
    uniforms.time.value = this.time;
  }

  #render() {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    if (!width || !height) return;
    const ratio = Math.min(devicePixelRatio, 2) * this.resolution.current;
    const size = this.renderer.getSize(new THREE.Vector2());
    if (this.renderer.getPixelRatio() !== ratio || size.x !== width || size.y !== height) {
      this.renderer.setPixelRatio(ratio);
      this.renderer.setSize(width, height, false);
    }
    this.#aim(width / height);
    this.renderer.getDrawingBufferSize(this.uniforms.screen_size.value);
    const material = /** @type {THREE.RawShaderMaterial} */ (this.mesh.material);
    material.wireframe = this.isWireframe;
    this.backdrop.draw(this.camera, null);
    if (this.wipe) this.#renderParted(this.wipe, width, height);
    else this.renderer.render(this.scene, this.camera);
    // Pictures of variants are made of the same materials.
    material.wireframe = false;
  }

  /**
   * @param {Wipe} wipe
   * @param {number} width
   * @param {number} height
   */
  #renderParted(wipe, width, height) {
    const { renderer } = this;
    const left = Math.round(width * wipe.share);
    renderer.setScissorTest(true);
    renderer.setScissor(0, 0, left, height);
    this.#with(wipe, () => renderer.render(this.scene, this.camera));
    renderer.setScissor(left, 0, width - left, height);
    renderer.render(this.scene, this.camera);
    renderer.setScissorTest(false);
  }

  /**
   * Draws with other values, and another shader where one is given.
   * @param {Shown} shown
   * @param {() => void} draw
   */
  #with({ values, built }, draw) {
    const material = this.mesh.material;
    const box = built?.values ?? this.values;
    const kept = box.value;
    box.value = values;
    if (built) this.mesh.material = built.material;
    draw();
    box.value = kept;
    this.mesh.material = material;
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
    this.moved();
    this.dispatchEvent(new Event("time"));
  }

  /**
   * The picture with other values, from the same eye: RGBA bytes, row 0 at the bottom.
   * @param {number} width
   * @param {number} height
   * @param {Float32Array} [values]
   * @param {import("./materials.js").Built} [other] another shader than the one on the stage
   * @param {boolean} [isClear] whether it is clear where there is nothing, instead of grey
   * @returns {Promise<Uint8Array>}
   */
  async snapshot(width, height, values = this.values.value, other, isClear = false) {
    const target = new THREE.WebGLRenderTarget(width, height, { depthBuffer: true });
    const pixels = new Uint8Array(width * height * 4);
    const aspect = this.camera.aspect;
    this.#aim(width / height);
    this.uniforms.screen_size.value.set(width, height);
    this.backdrop.draw(this.camera, target);
    this.renderer.setRenderTarget(target);
    if (isClear) this.renderer.setClearColor(0x000000, 0);
    this.#with({ values, built: other ?? null }, () => this.renderer.render(this.scene, this.camera));
    this.renderer.setClearColor(BACKGROUND, 1);
    this.renderer.setRenderTarget(null);
    this.#aim(aspect);
    try {
      await this.renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels);
    } finally {
      target.dispose();
    }
    return pixels;
  }

  /** Whether the newest shader asked for is the one being shown. */
  get isReady() {
    return this.key !== "" && this.key === this.wanted && this.mesh.visible;
  }
}
