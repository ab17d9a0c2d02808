// Black water: nothing is scattered, so of the light only what is mirrored is worked out.
uniform sampler2D ripples;

vec2 ripple(vec2 uv, float c, float s, float scale, vec2 shift, float drift) {
  vec2 at = vec2(uv.x * c - uv.y * s, uv.x * s + uv.y * c) * scale + shift;
  at.x += drift;
  vec2 slope = read(ripples, at).rg * 2.0 - 1.0;
  return vec2(slope.x * c + slope.y * s, slope.y * c - slope.x * s) * 0.70710678;
}

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 v = normalize(camera_position - v_moved), form = normalize(v_normal) * side();
  float run = time * 0.03, rough = 0.08;
  vec2 slope = ripple(v_uv, 1.0, 0.0, 2.5, vec2(0.0), run);
  slope += ripple(v_uv, -0.73736888, 0.67549029, 3.425, vec2(0.31, 0.17), run * 1.21);
  vec3 n = turned(unit(vec3(slope * 0.4, 1.0)), form);
  float n_v = dot(n, v), n_l = clamp(dot(n, sun_direction), 0.0, 1.0);
  vec3 r = responses(clamp(n_v, 0.0, 1.0), rough), h = unit(v + sun_direction);
  float whole = 1.0 / max(r.x + r.y, 0.05) - 1.0;
  float fresnel = schlick(0.04, clamp(dot(h, v), 0.0, 1.0)) * (0.04 * whole + 1.0);
  float reached = mix(0.0, n_l, 0.0 < dot(form, sun_direction));
  vec3 sun = arriving(v_moved, form) * (fresnel * ggx(n, v, sun_direction, h, rough) * reached);
  picture = vec4(shown(sun + around_mirror(n, n_v, v, rough) * mirrored(0.04, r)), 1.0);
}
