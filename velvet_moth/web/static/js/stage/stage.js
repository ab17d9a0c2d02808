/** The stage: one form with the graph's shader, seen by an orbiting eye under a sun that can be turned. */
import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { Backdrop, pixel } from "moth/stage/backdrop.js";
import { formGeometry } from "moth/stage/forms.js";
import { Materials, keyOf } from "moth/stage/materials.js";
import { TexturePool } from "moth/stage/pixels.js";
import { Resolution } from "moth/stage/resolution.js";

/** @typedef {import("../types.d.ts").ShaderState} ShaderState */
/** @typedef {import("../types.d.ts").PageSettings} PageSettings */

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
    this.materials = new Materials(this.renderer, this.uniforms);
    this.backdrop = new Backdrop(this.renderer, this.uniforms, this.scene);
    this.#standLight();
    this.#control();
    this.resetView();
    new ResizeObserver(() => this.invalidate()).observe(canvas);
    canvas.addEventListener("webglcontextlost", (event) => event.preventDefault());
    canvas.addEventListener("webglcontextrestored", () => this.invalidate());
  }

  #control() {
    this.controls = new OrbitControls(this.camera, this.canvas);
    this.controls.enableDamping = false;
    this.controls.minDistance = 1.5;
    this.controls.maxDistance = 14;
    this.controls.mouseButtons = { LEFT: THREE.MOUSE.ROTATE, MIDDLE: THREE.MOUSE.PAN, RIGHT: null };
    this.controls.addEventListener("change", () => this.moved());
    this.canvas.addEventListener("contextmenu", (event) => event.preventDefault());
    // On the way down, before the orbit sees it: the right button, or any button in light mode, turns the light.
    this.canvas.addEventListener("pointerdown", (event) => this.#lightDrag(event), { capture: true });
    this.canvas.addEventListener("keydown", (event) => this.#key(event));
  }

  /** @param {PointerEvent} event */
  #lightDrag(event) {
    if (event.button !== 2 && !(this.lightMode && event.button === 0)) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    this.canvas.focus();
    this.canvas.setPointerCapture(event.pointerId);
    /** @param {PointerEvent} move */
    const turn = (move) => this.turnLight(move.movementX * 0.6, -move.movementY * 0.4);
    const end = () => {
      this.canvas.removeEventListener("pointermove", turn);
      this.canvas.removeEventListener("pointerup", end);
      this.canvas.removeEventListener("pointercancel", end);
    };
    this.canvas.addEventListener("pointermove", turn);
    this.canvas.addEventListener("pointerup", end);
    this.canvas.addEventListener("pointercancel", end);
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
    const step = steps[/** @type {keyof typeof steps} */ (event.key)];
    if (step && event.shiftKey) this.turnLight(step[0] * 6, step[1] * 4);
    else if (step) this.orbit(step[0] * 6, step[1] * 5, 1);
    else if (event.key === "+" || event.key === "=") this.orbit(0, 0, 0.9);
    else if (event.key === "-") this.orbit(0, 0, 1.1);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /**
   * @param {number} turn degrees
   * @param {number} tilt degrees
   * @param {number} nearer factor on the distance
   */
  orbit(turn, tilt, nearer) {
    const target = this.controls?.target ?? new THREE.Vector3();
    const at = new THREE.Spherical().setFromVector3(this.camera.position.clone().sub(target));
    at.theta += turn * DEGREES;
    at.phi = Math.min(Math.PI - 0.02, Math.max(0.02, at.phi - tilt * DEGREES));
    at.radius = Math.min(14, Math.max(1.5, at.radius * nearer));
    this.camera.position.setFromSpherical(at).add(target);
    this.controls?.update();
    this.moved();
  }

  /** The scene as the core takes it: form, rig, eye, light and moment, in degrees, metres and seconds. */
  get view() {
    const target = this.controls?.target ?? new THREE.Vector3();
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
    this.controls?.target.set(0, 0, 0);
    this.camera.position.copy(direction(turn, tilt).multiplyScalar(distance));
    this.controls?.update();
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
      this.time = (this.time + Math.max(0, now - (this.lastTick ?? now)) / 1000) % 3600;
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
    this.renderer.render(this.scene, this.camera);
    // Pictures of variants are made of the same materials.
    material.wireframe = false;
  }

  /**
   * The picture with other values, from the same eye: RGBA bytes, row 0 at the bottom.
   * @param {number} width
   * @param {number} height
   * @param {Float32Array} [values]
   * @param {import("./materials.js").Built} [other] another shader than the one on the stage
   * @returns {Promise<Uint8Array>}
   */
  async snapshot(width, height, values = this.values.value, other) {
    const shown = this.mesh.material;
    const box = other?.values ?? this.values;
    const target = new THREE.WebGLRenderTarget(width, height, { depthBuffer: true });
    const pixels = new Uint8Array(width * height * 4);
    const kept = box.value;
    const aspect = this.camera.aspect;
    box.value = values;
    if (other) this.mesh.material = other.material;
    this.#aim(width / height);
    this.uniforms.screen_size.value.set(width, height);
    this.backdrop.draw(this.camera, target);
    this.renderer.setRenderTarget(target);
    this.renderer.render(this.scene, this.camera);
    this.renderer.setRenderTarget(null);
    box.value = kept;
    this.mesh.material = shown;
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
