/** The stage's picture: what the sun sees, what lies behind, decals on it, and the form before it, in this order. */
import * as THREE from "three";
import { Decals } from "moth/stage/decals.js";
import { SmoothPicture, smoothTarget } from "moth/stage/smooth.js";
import { SunPicture } from "moth/stage/sun_picture.js";

/** @typedef {import("./materials.js").Built} Built */
/** @typedef {{ values: Float32Array, built: Built | null }} Shown a null `built` is the shader on the stage */
/** @typedef {Shown & { share: number }} Wipe */

const DEGREES = Math.PI / 180;
/** Written to the canvas as it is: the shaders encode their own colours, and so does this. */
const BACKGROUND = new THREE.Color().setRGB(0x73 / 255, 0x70 / 255, 0x6d / 255, THREE.LinearSRGBColorSpace);

export class Picture {
  /** @param {import("./stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    const { renderer, uniforms, settings } = stage;
    this.sun = new SunPicture(renderer, uniforms, settings.sun);
    this.decals = new Decals(renderer, uniforms);
    this.smooth = new SmoothPicture(renderer);
    renderer.setClearColor(BACKGROUND, 1);
  }

  /** What shaders need to know of the eye and the moment. @param {number} aspect width over height */
  aim(aspect) {
    const { camera, uniforms, time } = this.stage;
    camera.aspect = aspect;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    camera.matrixWorld.extractBasis(uniforms.camera_right.value, uniforms.camera_up.value, new THREE.Vector3());
    const reach = Math.tan((camera.fov * DEGREES) / 2);
    uniforms.lens.value.set(reach * aspect, reach);
    uniforms.time.value = time;
  }

  /** Draws the canvas, at the resolution that keeps up. */
  draw() {
    const { canvas, renderer, uniforms, resolution, wipe, isWireframe } = this.stage;
    const { clientWidth: width, clientHeight: height } = canvas;
    if (!width || !height) return;
    const ratio = Math.min(devicePixelRatio, 2) * resolution.current;
    const size = renderer.getSize(new THREE.Vector2());
    if (renderer.getPixelRatio() !== ratio || size.x !== width || size.y !== height) {
      renderer.setPixelRatio(ratio);
      renderer.setSize(width, height, false);
    }
    this.aim(width / height);
    renderer.getDrawingBufferSize(uniforms.screen_size.value);
    const { x: across, y: up } = uniforms.screen_size.value;
    // Coarse while something moves; once it is calm, edges are smooth too.
    const isSmooth = this.stage.isCalm && !this.stage.shown?.adds;
    const target = isSmooth ? this.smooth.of(across, up) : null;
    const left = wipe ? Math.round(across * wipe.share) : 0;
    if (wipe) {
      this.#within(target, 0, left, up);
      this.#with(wipe, () => this.#whole(target, isWireframe));
      this.#within(target, left, across - left, up);
    }
    this.#whole(target, isWireframe);
    if (wipe) this.#within(target, 0, 0, 0);
    if (target) this.smooth.show();
  }

  /**
   * Draws in one part only, in pixels of the picture; in all of it where the part is empty.
   * @param {THREE.WebGLRenderTarget | null} target
   * @param {number} left
   * @param {number} width
   * @param {number} height
   */
  #within(target, left, width, height) {
    const { renderer } = this.stage;
    if (target) {
      target.scissorTest = width > 0;
      target.scissor.set(left, 0, width, height);
      return;
    }
    const ratio = renderer.getPixelRatio();
    renderer.setScissorTest(width > 0);
    renderer.setScissor(left / ratio, 0, width / ratio, height / ratio);
  }

  /**
   * @param {THREE.WebGLRenderTarget | null} target
   * @param {boolean} [isWireframe]
   */
  #whole(target, isWireframe = false) {
    const { renderer, scene, camera, backdrop, mesh, shown, uniforms } = this.stage;
    const material = /** @type {THREE.RawShaderMaterial} */ (mesh.material);
    const wasSeen = mesh.visible;
    mesh.visible = wasSeen && !!shown?.casts;
    this.#drawSun(target);
    mesh.visible = wasSeen && !shown?.isProjected;
    backdrop.draw(camera, target);
    if (shown?.isProjected && wasSeen && backdrop.loaded) this.decals.paint(material, camera, backdrop.target, target);
    material.wireframe = isWireframe;
    uniforms.smooth_edges.value = !!target?.samples;
    renderer.setRenderTarget(target);
    // What is added up begins from black, with nothing behind.
    if (shown?.adds) renderer.setClearColor(0x000000, 1);
    backdrop.show(!shown?.adds);
    renderer.render(scene, camera);
    if (shown?.adds) renderer.setClearColor(BACKGROUND, 1);
    uniforms.smooth_edges.value = false;
    // Pictures of variants are made of the same materials.
    material.wireframe = false;
    mesh.visible = wasSeen;
  }

  /** What the sun sees, where that has changed. @param {THREE.WebGLRenderTarget | null} next */
  #drawSun(next) {
    const { backdrop, light, uniforms, mesh, values, time, scene } = this.stage;
    uniforms.sun_half.value = Math.max(mesh.geometry.userData.reach ?? 1, backdrop.reach);
    const material = /** @type {THREE.Material} */ (mesh.material);
    const place = [mesh.geometry.uuid, mesh.visible, backdrop.key, !!backdrop.loaded, light.turn, light.tilt];
    this.sun.draw(scene, [...place, material.uuid, values.value.join(), time].join(" "), next);
  }

  /**
   * Draws with other values, and another shader where one is given.
   * @param {Shown} other
   * @param {() => void} draw
   */
  #with({ values, built }, draw) {
    const { stage } = this;
    const { shown, values: box } = stage;
    const { material } = stage.mesh;
    if (built) {
      stage.shown = built;
      stage.values = built.values;
      stage.mesh.material = built.material;
    }
    const kept = stage.values.value;
    stage.values.value = values;
    draw();
    stage.values.value = kept;
    stage.shown = shown;
    stage.values = box;
    stage.mesh.material = material;
  }

  /**
   * The picture with other values, from the same eye: RGBA bytes, row 0 at the bottom.
   * @param {number} width
   * @param {number} height
   * @param {Float32Array} values
   * @param {Built} [other] another shader than the one on the stage
   * @param {boolean} [isClear] whether it is clear where there is nothing, instead of grey
   * @param {boolean} [isSmooth] whether edges are smooth: no pixel of one is then what the shader gives there
   * @returns {Promise<Uint8Array>}
   */
  async snapshot(width, height, values, other, isClear = false, isSmooth = false) {
    const { renderer, uniforms, camera } = this.stage;
    const target = isSmooth
      ? smoothTarget(width, height)
      : new THREE.WebGLRenderTarget(width, height, { depthBuffer: true });
    const pixels = new Uint8Array(width * height * 4);
    const aspect = camera.aspect;
    this.aim(width / height);
    uniforms.screen_size.value.set(width, height);
    if (isClear) renderer.setClearColor(0x000000, 0);
    this.#with({ values, built: other ?? null }, () => this.#whole(target));
    renderer.setClearColor(BACKGROUND, 1);
    renderer.setRenderTarget(null);
    this.aim(aspect);
    try {
      await renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels);
    } finally {
      target.dispose();
    }
    return pixels;
  }
}
