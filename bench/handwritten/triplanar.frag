uniform vec4 values[4]; uniform sampler2D stone; uniform sampler2D moss;

vec4 three(sampler2D t, vec3 p, vec3 w) { return read(t, p.zy) * w.x + read(t, p.xz) * w.y + read(t, p.xy) * w.z; }

vec3 weights(vec3 n, float sharp) {
  vec3 w = pow(max(abs(n), vec3(1.1754944e-38)), vec3(max(sharp, 0.0)));
  return w / max(w.x + w.y + w.z, 1e-6);
}

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 outward = normalize(v_normal), v = normalize(camera_position - v_moved), form = outward * side();
  vec3 n = normalize(v_object_normal);
  vec4 a = three(stone, v_object_position * values[0].x, weights(n, values[0].y));
  vec4 b = three(moss, v_object_position * values[0].z, weights(n, values[0].w));
  float s = clamp((normalize(outward).y - values[1].x) / (values[1].y - values[1].x), 0.0, 1.0);
  float amount = s * s * (3.0 - 2.0 * s);
  float soft = clamp((b.a + amount - (a.a + 1.0 - amount)) / max((1.0 - values[1].z) * 2.0, 0.01) + 0.5, 0.0, 1.0);
  float mask = soft + (amount - soft) * clamp(abs(amount * 2.0 - 1.0) * 8.0 - 7.0, 0.0, 1.0);
  vec3 base = a.rgb + (b.rgb - a.rgb) * mask;
  float rough = values[1].w + (values[2].x - values[1].w) * mask;
  picture = vec4(shown(lit(base, values[2].y, rough, values[3].xyz, form, v, arriving(v_moved, form))), 1.0);
}
