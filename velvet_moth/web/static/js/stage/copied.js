/** Pictures copied on the GPU, as they are. */

/**
 * Copies the colours of one picture into another one of the same size.
 * @param {import("three").WebGLRenderer} renderer
 * @param {import("three").WebGLRenderTarget} from
 * @param {import("three").WebGLRenderTarget | null} to null for the canvas
 */
export function copied(renderer, from, to) {
  const { properties } = /** @type {any} */ (renderer);
  const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
  renderer.setRenderTarget(to);
  // Past the renderer, which forgets that binding its target binds for reading as well.
  gl.bindFramebuffer(gl.READ_FRAMEBUFFER, properties.get(from).__webglFramebuffer);
  const { width, height } = from;
  gl.blitFramebuffer(0, 0, width, height, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
}
