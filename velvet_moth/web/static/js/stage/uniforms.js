/** What every shader of the stage may read besides its own values: the eye, the light, the form, what lies behind. */
import * as THREE from "three";

/** @param {string[]} names */
const vectors = (names) => Object.fromEntries(names.map((name) => [name, { value: new THREE.Vector3() }]));

/** @typedef {import("../types.d.ts").StageSettings} StageSettings */

/** The numbers of the lamps a rig may have. @param {StageSettings} settings */
const numbers = ({ lamps }) => Array.from({ length: lamps }, (_, at) => at + 1);

/**
 * @param {Record<string, { value: any }>} uniforms
 * @param {StageSettings} settings
 * @param {THREE.Texture} around the environment
 */
export function surround(uniforms, { harmonics }, around) {
  uniforms.texture_environment.value = around;
  harmonics.forEach((name, at) => uniforms[name].value.fromArray(around.userData.harmonics, at * 3));
}

/**
 * The lamps of a rig, which turn with its light; where it has fewer, the others are dark.
 * @param {Record<string, { value: any }>} uniforms
 * @param {StageSettings} settings
 * @param {{ place: number[], colour: number[] }[]} lamps
 * @param {number} turned degrees from where they are first
 */
export function placeLamps(uniforms, settings, lamps, turned) {
  const up = new THREE.Vector3(0, 1, 0);
  for (const number of numbers(settings)) {
    const { place, colour } = lamps[number - 1] ?? { place: [0, 10, 0], colour: [0, 0, 0] };
    uniforms[`lamp_place_${number}`].value.fromArray(place).applyAxisAngle(up, (turned * Math.PI) / 180);
    uniforms[`lamp_colour_${number}`].value.fromArray(colour);
  }
}

/**
 * @param {THREE.Camera} camera
 * @param {StageSettings} settings
 * @returns {Record<string, { value: any }>}
 */
export const stageUniforms = (camera, settings) => ({
  camera_position: { value: camera.position },
  time: { value: 0 },
  sun_direction: { value: new THREE.Vector3() },
  sun_colour: { value: new THREE.Vector3() },
  ...vectors(numbers(settings).flatMap((number) => [`lamp_place_${number}`, `lamp_colour_${number}`])),
  ...vectors(settings.harmonics),
  rig_turn: { value: 0 },
  exposure: { value: 1 },
  // Shared by all shaders, so that another rig is another texture and no other shader.
  texture_environment: { value: /** @type {THREE.Texture | null} */ (null) },
  texture_backdrop: { value: /** @type {THREE.Texture | null} */ (null) },
  texture_sun_depth: { value: /** @type {THREE.Texture | null} */ (null) },
  ...Object.fromEntries(
    Object.keys(settings.decal_buffers).map((key) => [
      `texture_${key}`,
      { value: /** @type {THREE.Texture | null} */ (null) },
    ]),
  ),
  sun_right: { value: new THREE.Vector3() },
  sun_up: { value: new THREE.Vector3() },
  sun_half: { value: 1 },
  /** Whether the sun's own picture is drawn. */
  sun_pass: { value: false },
  screen_size: { value: new THREE.Vector2(1, 1) },
  form_low: { value: new THREE.Vector3() },
  form_high: { value: new THREE.Vector3() },
  decal_place: { value: new THREE.Vector3() },
  decal_right: { value: new THREE.Vector3(1, 0, 0) },
  decal_up: { value: new THREE.Vector3(0, 1, 0) },
  decal_half: { value: new THREE.Vector3(0.5, 0.5, 0.2) },
  decal_index: { value: 1 },
  decal_tint: { value: new THREE.Vector3(1, 1, 1) },
  decal_born: { value: 0 },
  decal_seed: { value: 0 },
  decal_strength: { value: 1 },
  decal_numbers: { value: new THREE.Vector4() },
  decal_fade: { value: new THREE.Vector2(0.5, 0.25) },
  texture_decal_reach: { value: /** @type {THREE.Texture | null} */ (null) },
  spread_times: { value: new THREE.Vector4(0, 0, 0, 1) },
  spread_way: { value: new THREE.Vector3(1, 0, 0) },
  spread_ending: { value: new THREE.Vector2() },
  camera_right: { value: new THREE.Vector3() },
  camera_up: { value: new THREE.Vector3() },
  lens: { value: new THREE.Vector2() },
});
