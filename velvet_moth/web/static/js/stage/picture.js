/** The stage's picture: what the sun sees, what lies behind, decals on it, and the form before it, in this order. */
import * as THREE from "three";
import { copied } from "moth/stage/copied.js";
import { Decals } from "moth/stage/decals.js";
import { SAMPLES, SmoothPicture } from "moth/stage/smooth.js";
import { SunPicture } from "moth/stage/sun_picture.js";

/** @typedef {import("./materials.js").Built} Built */
/** A rig with its surroundings. @typedef {{ key: string, around: THREE.Texture }} Light */
/**
 * Null `values` are those on the stage, whatever they become; a null `built` is the shader on the stage.
 * @typedef {{ values: Float32Array | null, built: Built | null, light?: Light }} Shown
 */
/** What stands left and right of an edge at a share of the width; null for the stage as it is. @typedef {{ left: Shown | null, right: Shown | null, share: number }} Wipe */

const DEGREES = Math.PI / 180;
/** Written to the canvas as it is: the shaders encode their own colours, and so does this. */
const BACKGROUND = new THREE.Color().setRGB(0x73 / 255, 0x70 / 255, 0x6d / 255, THREE.LinearSRGBColorSpace);

/**
 * Where a pixel is clear in part, its mean was taken with the black of nothing; a file tells colour and alpha apart.
 * @param {Uint8Array} pixels RGBA
 */
function undarken(pixels) {
  for (let at = 0; at < pixels.length; at += 4) {
    const alpha = pixels[at + 3];
    if (alpha === 0 || alpha === 255) continue;
    for (let part = at; part < at + 3; part += 1)
      pixels[part] = Math.min(255, Math.round((pixels[part] * 255) / alpha));
  }
}

export class Picture {
  /** @param {import("./stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    const { renderer, uniforms, settings } = stage;
    this.sun = new SunPicture(renderer, uniforms, settings.sun);
    this.decals = new Decals(renderer, uniforms, settings.decal_buffers);
    this.smooth = new SmoothPicture(renderer);
    renderer.setClearColor(BACKGROUND, 1);
  }

  /** Nothing of what was drawn is there any more. */
  restart() {
    this.sun.shown = "";
    this.stage.backdrop.spoil();
    this.stage.instances.spoil();
    this.stage.spurt.instances.spoil();
  }

  /**
   * What shaders need to know of the eye and the moment.
   * @param {number} aspect width over height
   * @param {boolean} [isMoving] whether forms may be coarser than they are
   */
  aim(aspect, isMoving = false) {
    const { camera, uniforms, time } = this.stage;
    camera.aspect = aspect;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    camera.matrixWorld.extractBasis(uniforms.camera_right.value, uniforms.camera_up.value, new THREE.Vector3());
    const reach = Math.tan((camera.fov * DEGREES) / 2);
    uniforms.lens.value.set(reach * aspect, reach);
    uniforms.time.value = time;
    this.stage.instances.at(time, isMoving);
    this.stage.spurt.instances.at(time, isMoving);
  }

  /**
   * Draws as seen a fraction of a pixel beside: the eye turns by so much.
   * @param {number[]} by pixels to the right and up
   * @param {number} height of the picture, in pixels
   * @param {() => void} draw
   */
  #beside([right, up], height, draw) {
    const { camera, uniforms } = this.stage;
    const kept = camera.quaternion.clone();
    const pixel = (2 * uniforms.lens.value.y) / height;
    camera.rotateY(-right * pixel);
    camera.rotateX(up * pixel);
    this.aim(camera.aspect);
    draw();
    camera.quaternion.copy(kept);
    this.aim(camera.aspect);
  }

  /**
   * Draws the canvas, at the resolution that keeps up.
   * @param {number} sample how many pictures there are already of which it is to show the mean; -1 for the plain one
   */
  draw(sample) {
    const { canvas, renderer, uniforms, resolution } = this.stage;
    const { clientWidth: width, clientHeight: height } = canvas;
    if (!width || !height) return;
    const ratio = Math.min(devicePixelRatio, 2) * resolution.current;
    const size = renderer.getSize(new THREE.Vector2());
    if (renderer.getPixelRatio() !== ratio || size.x !== width || size.y !== height) {
      renderer.setPixelRatio(ratio);
      renderer.setSize(width, height, false);
    }
    this.aim(width / height, resolution.isMoving && sample < 0);
    renderer.getDrawingBufferSize(uniforms.screen_size.value);
    const { x: across, y: up } = uniforms.screen_size.value;
    if (sample <= 0) this.smooth.begin(across, up);
    const { target } = this.smooth;
    // The plain picture goes there too: many a GPU builds a shader anew for each kind of target.
    if (sample < 0) {
      this.#parted(target);
      return copied(renderer, target, null);
    }
    this.#beside(SAMPLES[sample], up, () => this.#parted(target));
    this.smooth.add();
    this.smooth.show(null);
  }

  /** The picture, with another left of the edge where there is one. @param {THREE.WebGLRenderTarget} target */
  #parted(target) {
    const { wipe, resting, isWireframe, uniforms } = this.stage;
    const { x: across, y: up } = uniforms.screen_size.value;
    if (!wipe) return this.#with(resting, () => this.#whole(target, isWireframe, true));
    const edge = Math.round(across * wipe.share);
    const draw = () => this.#whole(target, isWireframe, true);
    this.#within(target, 0, edge, up);
    this.#with(wipe.left, draw);
    this.#within(target, edge, across - edge, up);
    this.#with(wipe.right, draw);
    this.#within(target, 0, 0, 0);
  }

  /**
   * Has a picture drawn in one part only, in its pixels; in all of it where the part is empty.
   * @param {THREE.WebGLRenderTarget} target
   * @param {number} left
   * @param {number} width
   * @param {number} height
   */
  #within(target, left, width, height) {
    target.scissorTest = width > 0;
    target.scissor.set(left, 0, width, height);
  }

  /**
   * @param {THREE.WebGLRenderTarget} target
   * @param {boolean} [isWireframe]
   * @param {boolean} [isOnCanvas] whether it is what is worked on, and no picture of it
   */
  #whole(target, isWireframe = false, isOnCanvas = false) {
    const { renderer, scene, camera, backdrop, mesh, shown } = this.stage;
    const material = /** @type {THREE.RawShaderMaterial} */ (mesh.material);
    const wasSeen = mesh.visible;
    mesh.visible = wasSeen && !!shown?.casts;
    backdrop.show(false);
    this.stage.spurt.during(false, () => this.#drawSun(target));
    mesh.visible = wasSeen && !shown?.isProjected;
    backdrop.draw(camera, this.sun.shown, target);
    if (shown?.isProjected && wasSeen && backdrop.loaded) this.#drawDecals(shown, target);
    material.wireframe = isWireframe;
    renderer.setRenderTarget(target);
    // What is added up begins from black, with nothing behind.
    if (shown?.adds) renderer.setClearColor(0x000000, 1);
    backdrop.show(!shown?.adds);
    this.stage.aids.visible = isOnCanvas;
    this.stage.spurt.during(!!shown?.isProjected, () => renderer.render(scene, camera));
    this.stage.aids.visible = false;
    if (shown?.adds) renderer.setClearColor(BACKGROUND, 1);
    // Pictures of variants are made of the same materials.
    material.wireframe = false;
    mesh.visible = wasSeen;
  }

  /**
   * What lies behind with decals on it, for what is drawn next.
   * @param {Built} shown the shader of the decals
   * @param {THREE.WebGLRenderTarget} next where the scene in front goes
   */
  #drawDecals({ material, isBuffered }, next) {
    const { renderer, camera, backdrop, uniforms } = this.stage;
    const { decals } = this;
    if (isBuffered) {
      decals.fillBuffers(material, camera, backdrop.target);
      backdrop.drawUnderDecals(camera, next);
      decals.read(decals.unchanged);
    } else {
      const copy = backdrop.sized(backdrop.withDecals);
      renderer.initRenderTarget(copy);
      copied(renderer, backdrop.target, copy);
      decals.paintLight(material, camera, copy);
      renderer.setRenderTarget(next);
    }
    uniforms.texture_backdrop.value = backdrop.withDecals.texture;
  }

  /** What the sun sees, where that has changed. @param {THREE.WebGLRenderTarget} next */
  #drawSun(next) {
    const { backdrop, lighting, uniforms, mesh, values, time, scene } = this.stage;
    uniforms.sun_half.value = this.stage.reach;
    const material = /** @type {THREE.Material} */ (mesh.material);
    const pose = [...mesh.scale.toArray(), mesh.rotation.y];
    // Instances may turn to the eye, and are elsewhere with every change of their emitter.
    const { emitter, changes } = this.stage.instances;
    const many = emitter ? [...this.stage.camera.position, changes] : [];
    const form = mesh.visible ? [mesh.geometry.uuid, ...pose, material.uuid, values.value.join(), time, ...many] : [];
    const { loaded } = backdrop;
    const behind = loaded ? [loaded.seen.uuid, loaded.isTimed ? time : 0, ...(backdrop.isOwn ? pose : [])] : [];
    backdrop.pose();
    const place = [uniforms.sun_half.value, lighting.angles.turn, lighting.angles.tilt];
    this.sun.draw([scene, backdrop.scene], [...place, ...form, ...behind].join(" "), next);
  }

  /**
   * Draws with other values, and another shader where one is given; as it is without any.
   * @param {Shown | null} other
   * @param {() => void} draw
   */
  #with(other, draw) {
    if (!other) return draw();
    const { values, built, light } = other;
    if (light) return this.stage.lighting.under(light, () => this.#with({ values, built }, draw));
    const { stage } = this;
    const { shown, values: box } = stage;
    const { material } = stage.mesh;
    if (built) {
      stage.shown = built;
      stage.values = built.values;
      stage.mesh.material = built.material;
    }
    const kept = stage.values.value;
    if (values) stage.values.value = values;
    draw();
    stage.values.value = kept;
    stage.shown = shown;
    stage.values = box;
    stage.mesh.material = material;
  }

  /**
   * The picture from the same eye: RGBA bytes, row 0 at the bottom.
   * @param {number} width
   * @param {number} height
   * @param {import("./stage.js").Still} still
   * @returns {Promise<Uint8Array>}
   */
  async snapshot(width, height, { values, built = null, light, isClear = false, isSmooth = false }) {
    const { renderer, uniforms, camera } = this.stage;
    const smooth = isSmooth && !(built ?? this.stage.shown)?.adds ? new SmoothPicture(renderer) : null;
    const target = new THREE.WebGLRenderTarget(width, height, { depthBuffer: !smooth });
    const pixels = new Uint8Array(width * height * 4);
    const aspect = camera.aspect;
    this.aim(width / height);
    uniforms.screen_size.value.set(width, height);
    if (isClear) renderer.setClearColor(0x000000, 0);
    this.#with({ values: values ?? this.stage.values.value, built, light }, () => {
      if (!smooth) return this.#whole(target);
      smooth.begin(width, height);
      for (const by of SAMPLES) {
        this.#beside(by, height, () => this.#whole(smooth.target));
        smooth.add();
      }
      smooth.show(target);
    });
    renderer.setClearColor(BACKGROUND, 1);
    renderer.setRenderTarget(null);
    this.aim(aspect);
    try {
      await renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels);
    } finally {
      target.dispose();
      smooth?.dispose();
    }
    if (smooth && isClear) undarken(pixels);
    return pixels;
  }
}
