/** Pictures copied on the GPU, as they are. */

/** Pixels of a picture, from the left and from below. @typedef {{ left: number, low: number, width: number, height: number }} Part */

/**
 * Copies all colours of one picture, or a part of them, into another one of the same size.
 * @param {import("three").WebGLRenderer} renderer
 * @param {import("three").WebGLRenderTarget} from
 * @param {import("three").WebGLRenderTarget | null} to null for the canvas
 * @param {Part} [part]
 */
export function copied(renderer, from, to, part = { left: 0, low: 0, width: from.width, height: from.height }) {
  const { properties } = /** @type {any} */ (renderer);
  const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
  renderer.setRenderTarget(to);
  // Past the renderer, which forgets that binding its target binds for reading as well.
  gl.bindFramebuffer(gl.READ_FRAMEBUFFER, properties.get(from).__webglFramebuffer);
  const { left, low, width, height } = part;
  const corners = /** @type {const} */ ([left, low, left + width, low + height]);
  const each = from.textures.map((_, at) => gl.COLOR_ATTACHMENT0 + at);
  for (const [at, one] of each.entries()) {
    // A blit reads one picture, and writes it wherever drawing goes.
    gl.readBuffer(one);
    if (each.length > 1) gl.drawBuffers(each.map((_, other) => (other === at ? one : gl.NONE)));
    gl.blitFramebuffer(...corners, ...corners, gl.COLOR_BUFFER_BIT, gl.NEAREST);
  }
  if (each.length > 1) gl.drawBuffers(each);
}
