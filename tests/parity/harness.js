/** Draws shaders into float targets and gives back their pixels; for tests, inside a blank page. */
(() => {
  const canvas = document.createElement("canvas");
  const gl = canvas.getContext("webgl2");
  gl.getExtension("EXT_color_buffer_float");
  gl.getExtension("OES_texture_float_linear");
  const VERTEX = `#version 300 es
in vec2 corner;
out vec2 v_uv; out vec3 v_position; out vec3 v_object_position; out vec3 v_normal; out vec4 v_tangent;
void main() {
  v_uv = corner * 0.5 + 0.5;
  v_position = v_object_position = vec3(corner, 0.0);
  v_normal = vec3(0.0, 0.0, 1.0);
  v_tangent = vec4(1.0, 0.0, 0.0, 1.0);
  gl_Position = vec4(corner, 0.0, 1.0);
}`;

  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));

  function stage(kind, text) {
    const shader = gl.createShader(kind);
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) + "\n" + text);
    return shader;
  }

  function texture(unit, { levels, exact, wrap }) {
    const made = gl.createTexture();
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, made);
    levels.forEach(({ width, height, data }, level) => {
      const floats = new Float32Array(bytes(data).buffer);
      gl.texImage2D(gl.TEXTURE_2D, level, gl.RGBA32F, width, height, 0, gl.RGBA, gl.FLOAT, floats);
    });
    const filters = exact ? [gl.NEAREST, gl.NEAREST] : [gl.LINEAR_MIPMAP_LINEAR, gl.LINEAR];
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, filters[0]);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, filters[1]);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, wrap[0] === "repeat" ? gl.REPEAT : gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, wrap[1] === "repeat" ? gl.REPEAT : gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAX_LEVEL, levels.length - 1);
    return made;
  }

  window.draw = ({ fragment, size, textures, uniforms }) => {
    const program = gl.createProgram();
    gl.attachShader(program, stage(gl.VERTEX_SHADER, VERTEX));
    gl.attachShader(program, stage(gl.FRAGMENT_SHADER, fragment));
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program));
    gl.useProgram(program);
    const target = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, target);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, size, size);
    gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
    gl.viewport(0, 0, size, size);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW);
    const corner = gl.getAttribLocation(program, "corner");
    gl.enableVertexAttribArray(corner);
    gl.vertexAttribPointer(corner, 2, gl.FLOAT, false, 0, 0);
    textures.forEach((t, unit) => {
      texture(unit, t);
      gl.uniform1i(gl.getUniformLocation(program, t.name), unit);
    });
    for (const [name, value] of Object.entries(uniforms)) {
      gl[`uniform${value.length}fv`](gl.getUniformLocation(program, name), value);
    }
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    const pixels = new Float32Array(size * size * 4);
    gl.readPixels(0, 0, size, size, gl.RGBA, gl.FLOAT, pixels);
    gl.deleteProgram(program);
    gl.deleteTexture(target);
    return [...pixels];
  };
})();
