/** What every shader of the stage may read besides its own values: the eye, the light, the form, what lies behind. */
import * as THREE from "three";

/** The diffuse light of the surroundings, by the names the core has for it. */
const harmonics = () =>
  Object.fromEntries(Array.from({ length: 9 }, (_, at) => [`around_${at}`, { value: new THREE.Vector3() }]));

/**
 * @param {Record<string, { value: any }>} uniforms
 * @param {THREE.Texture} around the surroundings
 */
export function surround(uniforms, around) {
  uniforms.texture_environment.value = around;
  for (let at = 0; at < 9; at++) uniforms[`around_${at}`].value.fromArray(around.userData.harmonics, at * 3);
}

/**
 * The lamps of a rig, which turn with its light; where it has fewer, the others are dark.
 * @param {Record<string, { value: any }>} uniforms
 * @param {{ place: number[], colour: number[] }[]} lamps
 * @param {number} turned degrees from where they first hang
 */
export function hangLamps(uniforms, lamps, turned) {
  const up = new THREE.Vector3(0, 1, 0);
  for (const number of [1, 2, 3]) {
    const { place, colour } = lamps[number - 1] ?? { place: [0, 10, 0], colour: [0, 0, 0] };
    uniforms[`lamp_place_${number}`].value.fromArray(place).applyAxisAngle(up, (turned * Math.PI) / 180);
    uniforms[`lamp_colour_${number}`].value.fromArray(colour);
  }
}

/**
 * @param {THREE.Camera} camera
 * @param {import("../types.d.ts").PageSettings} settings
 * @returns {Record<string, { value: any }>}
 */
export const stageUniforms = (camera, settings) => ({
  camera_position: { value: camera.position },
  time: { value: 0 },
  sun_direction: { value: new THREE.Vector3() },
  sun_colour: { value: new THREE.Vector3() },
  lamp_place_1: { value: new THREE.Vector3() },
  lamp_place_2: { value: new THREE.Vector3() },
  lamp_place_3: { value: new THREE.Vector3() },
  lamp_colour_1: { value: new THREE.Vector3() },
  lamp_colour_2: { value: new THREE.Vector3() },
  lamp_colour_3: { value: new THREE.Vector3() },
  ...harmonics(),
  rig_turn: { value: 0 },
  exposure: { value: 1 },
  // Shared by all shaders, so that another rig is another texture and no other shader.
  texture_environment: { value: /** @type {THREE.Texture | null} */ (null) },
  texture_backdrop: { value: /** @type {THREE.Texture | null} */ (null) },
  texture_sun_depth: { value: /** @type {THREE.Texture | null} */ (null) },
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
  instance_data: { value: new THREE.Vector4(...settings.instance) },
  camera_right: { value: new THREE.Vector3() },
  camera_up: { value: new THREE.Vector3() },
  lens: { value: new THREE.Vector2() },
});
