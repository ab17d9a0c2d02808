/** Draws shaders into float targets and gives back their pixels; for tests, inside a blank page. */
(() => {
  const canvas = document.createElement("canvas");
  const gl = canvas.getContext("webgl2");
  gl.getExtension("EXT_color_buffer_float");
  gl.getExtension("OES_texture_float_linear");
  /** Attributes of a flat grid of cells over the whole target; its corners carry what `grid_inputs` says. */
  function grid(cells) {
    const found = { position: [], normal: [], tangent: [], uv: [], second_uv: [], colour: [], second_colour: [] };
    const corners = [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 0],
      [1, 1],
      [0, 1],
    ];
    for (let row = 0; row < cells; row += 1) {
      for (let column = 0; column < cells; column += 1) {
        for (const [x, y] of corners) {
          const [u, v] = [(column + x) / cells, (row + y) / cells];
          found.position.push(u * 2 - 1, v * 2 - 1, 0);
          found.normal.push(0, 0, 1);
          found.tangent.push(1, 0, 0, 1);
          found.uv.push(u, v);
          found.second_uv.push(1 - v, u);
          found.colour.push(v, u, 1 - v, 1);
          found.second_colour.push(1 - u, v, u, 1 - v);
        }
      }
    }
    return found;
  }
  const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));

  function stage(kind, text) {
    const shader = gl.createShader(kind);
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) + "\n" + text);
    return shader;
  }

  const WRAP = { repeat: gl.REPEAT, clamp: gl.CLAMP_TO_EDGE, mirror: gl.MIRRORED_REPEAT };
  const SMOOTH = [gl.LINEAR_MIPMAP_LINEAR, gl.LINEAR];
  const FILTER = { smooth: SMOOTH, pixels: [gl.NEAREST_MIPMAP_LINEAR, gl.NEAREST] };

  function texture(unit, { levels, exact, wrap, filter }) {
    const made = gl.createTexture();
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, made);
    levels.forEach(({ width, height, data }, level) => {
      const floats = new Float32Array(bytes(data).buffer);
      gl.texImage2D(gl.TEXTURE_2D, level, gl.RGBA32F, width, height, 0, gl.RGBA, gl.FLOAT, floats);
    });
    const filters = exact ? [gl.NEAREST, gl.NEAREST] : FILTER[filter];
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, filters[0]);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, filters[1]);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, WRAP[wrap[0]]);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, WRAP[wrap[1]]);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAX_LEVEL, levels.length - 1);
    return made;
  }

  const linked = (vertex, fragment, captured) => {
    const program = gl.createProgram();
    gl.attachShader(program, stage(gl.VERTEX_SHADER, vertex));
    gl.attachShader(program, stage(gl.FRAGMENT_SHADER, fragment));
    if (captured) gl.transformFeedbackVaryings(program, [captured], gl.SEPARATE_ATTRIBS);
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program));
    gl.useProgram(program);
    return program;
  };

  /** Sets what every draw needs; gives the number of vertices. */
  function prepare(program, { cells, textures, uniforms, values }) {
    const vertices = cells * cells * 6;
    for (const [name, numbers] of Object.entries(grid(cells))) {
      const place = gl.getAttribLocation(program, name);
      if (place < 0) continue;
      gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
      gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(numbers), gl.STATIC_DRAW);
      gl.enableVertexAttribArray(place);
      gl.vertexAttribPointer(place, numbers.length / vertices, gl.FLOAT, false, 0, 0);
    }
    for (const name of ["modelMatrix", "viewMatrix"]) {
      gl.uniformMatrix4fv(gl.getUniformLocation(program, name), false, IDENTITY);
    }
    // Nearer is on top: z of the world points to the eye.
    const flat = [...IDENTITY];
    flat[10] = -0.1;
    gl.uniformMatrix4fv(gl.getUniformLocation(program, "projectionMatrix"), false, flat);
    textures.forEach((t, unit) => {
      texture(unit, t);
      gl.uniform1i(gl.getUniformLocation(program, t.name), unit);
    });
    for (const [name, value] of Object.entries(uniforms)) {
      gl[`uniform${value.length}fv`](gl.getUniformLocation(program, name), value);
    }
    if (values?.length) gl.uniform4fv(gl.getUniformLocation(program, "values"), values);
    return vertices;
  }

  /** Where the vertex shader moves the grid's vertices: x, y, z of each. */
  window.moved = (task) => {
    const program = linked(task.vertex, task.fragment, "v_moved");
    const vertices = prepare(program, task);
    const buffer = gl.createBuffer();
    gl.bindBuffer(gl.TRANSFORM_FEEDBACK_BUFFER, buffer);
    gl.bufferData(gl.TRANSFORM_FEEDBACK_BUFFER, vertices * 12, gl.DYNAMIC_READ);
    gl.bindBuffer(gl.TRANSFORM_FEEDBACK_BUFFER, null);
    gl.bindBufferBase(gl.TRANSFORM_FEEDBACK_BUFFER, 0, buffer);
    gl.enable(gl.RASTERIZER_DISCARD);
    gl.beginTransformFeedback(gl.TRIANGLES);
    gl.drawArrays(gl.TRIANGLES, 0, vertices);
    gl.endTransformFeedback();
    gl.disable(gl.RASTERIZER_DISCARD);
    gl.bindBufferBase(gl.TRANSFORM_FEEDBACK_BUFFER, 0, null);
    const found = new Float32Array(vertices * 3);
    gl.bindBuffer(gl.COPY_READ_BUFFER, buffer);
    gl.getBufferSubData(gl.COPY_READ_BUFFER, 0, found);
    gl.deleteProgram(program);
    return found;
  };

  /** What a draw paints into `size` x `size` floats; the target is the square -1..1 seen from +z. */
  window.draw = (task) => {
    const { size } = task;
    const program = linked(task.vertex, task.fragment, "");
    const target = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, target);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, size, size);
    gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
    gl.viewport(0, 0, size, size);
    const vertices = prepare(program, task);
    gl.drawArrays(gl.TRIANGLES, 0, vertices);
    const pixels = new Float32Array(size * size * 4);
    gl.readPixels(0, 0, size, size, gl.RGBA, gl.FLOAT, pixels);
    gl.deleteProgram(program);
    gl.deleteTexture(target);
    return pixels;
  };
})();
