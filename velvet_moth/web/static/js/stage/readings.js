/** What a picture hangs on: whatever its shaders read, as one text to compare with that of the picture there is. */

/** @typedef {import("three").RawShaderMaterial} Material */

/** @param {any} value of a uniform */
const written = (value) => (value?.isTexture ? [value.uuid, value.version] : (value?.toArray?.() ?? value));

/**
 * The names of the uniforms a shader reads, without the matrices of the eye: no others are declared.
 * @param {Material} material
 */
const readOf = ({ vertexShader, fragmentShader, uniforms }) =>
  [...`${vertexShader}\n${fragmentShader}`.matchAll(/^uniform \w+ (\w+)/gm)].flatMap(([, name]) =>
    name in uniforms ? [name] : [],
  );

/** @param {Material[]} materials */
export const areTimed = (materials) => materials.some((material) => readOf(material).includes("time"));

/**
 * @param {Material[]} materials
 * @param {string[]} but what is told otherwise
 * @returns {() => string} what their shaders read at the moment
 */
export function readingsOf(materials, but) {
  const read = materials.flatMap((material) =>
    readOf(material).flatMap((name) => (but.includes(name) ? [] : [material.uniforms[name]])),
  );
  // Most parts share theirs.
  const each = [...new Set(read)];
  return () => JSON.stringify(each.map(({ value }) => written(value)));
}
