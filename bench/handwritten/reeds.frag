void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 outward = normalize(v_normal), v = normalize(camera_position - v_moved);
  float front = gl_FrontFacing ? 1.0 : 0.0;
  vec3 form = moved_normal(outward, wind(v_position, outward, v_colour.r, v_colour.g)) * side();
  vec3 along = values[2].yzw;
  along += (values[3].yzw - along) * clamp((v_colour.r - values[2].x) / max(values[3].x - values[2].x, 1e-5), 0.0, 1.0);
  along += (values[4].yzw - along) * clamp((v_colour.r - values[3].x) / max(values[4].x - values[3].x, 1e-5), 0.0, 1.0);
  along += (values[5].yzw - along) * clamp((v_colour.r - values[4].x) / max(values[5].x - values[4].x, 1e-5), 0.0, 1.0);
  vec2 blade = vec2(v_colour.g * values[1].w, values[6].x);
  float tone = random3(vec3(floor(blade + 0.001), floor(values[6].y))).x;
  vec3 toned = along * exp(clamp((values[6].z + (values[6].w - values[6].z) * tone) * 0.69314718, -87.0, 87.0));
  vec3 screen = 1.0 - (1.0 - toned) * (1.0 - values[7].xyz);
  vec3 paler = toned + (screen - toned) * values[7].w, base = paler + (toned - paler) * front;
  float t = clamp((v_colour.r - values[8].x) / (values[8].y - values[8].x), 0.0, 1.0);
  float thin = values[8].z + (values[8].w - values[8].z) * t;
  vec3 through = unit(sun_direction + outward * values[9].x);
  float seen = clamp(-dot(v, through), 0.0, 1.0);
  vec3 glow = toned * sun_colour * (pow(max(seen, 1.1754944e-38), values[9].y) * clamp(thin, 0.0, 1.0));
  float d = abs(fract(v_uv.x * values[9].z) - 0.5), half_width = values[9].w * 0.5, soft = max(values[10].x * 0.5, 1e-4);
  float s = clamp((d - (half_width - soft)) / (2.0 * soft), 0.0, 1.0), rib = 1.0 - s * s * (3.0 - 2.0 * s);
  vec3 bumps = to_tangent(moved_normal(outward, outward * (rib * values[10].y)), outward);
  picture = vec4(shown(lit(base, values[10].z, values[10].w, bumps, form, v, arriving(v_moved, form)) + max(glow, vec3(0.0))), 1.0);
}
