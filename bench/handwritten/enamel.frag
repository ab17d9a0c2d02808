uniform vec4 values[9]; uniform sampler2D flake_map; uniform sampler2D flake_height;

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 outward = normalize(v_normal), v = normalize(camera_position - v_moved), form = outward * side();
  float facing = clamp(abs(dot(outward, v)), 0.0, 1.0);
  vec2 at = v_uv * values[3].xy;
  vec3 two = values[0].xyz + (values[1].xyz - values[0].xyz) * facing_power(facing, values[0].w);
  vec3 three = two + (values[2].xyz - two) * facing_power(facing, values[1].w);
  vec3 texel = read(flake_map, at).rgb * 2.0 - 1.0;
  vec3 bumps = unit(vec3(texel.xy * values[2].w, max(texel.z, 0.001)));
  float t = clamp((read(flake_height, at).r - values[3].z) / (values[3].w - values[3].z), 0.0, 1.0);
  float flakes = t * t * (3.0 - 2.0 * t) * (1.0 - facing_power(facing, values[4].x));
  float gloss = clamp(facing_power(facing, values[4].y) * values[4].z, values[4].w, values[5].x);
  float rough = gloss + (values[5].y - gloss) * flakes;
  vec3 flat_normal = values[6].xyz;
  vec3 normal = unit(flat_normal + (bumps - flat_normal) * flakes);
  vec3 base = two + (three - two) * flakes;
  float metal = values[5].z + (values[5].w - values[5].z) * flakes;
  float coat = values[7].x * (1.0 - flakes), coat_rough = values[7].y + (values[7].z - values[7].y) * flakes;
  vec3 sun = arriving(v_moved, form);
  vec3 light = lit(base, metal, rough, normal, form, v, sun);
  light = coated(light, clamp(coat, 0.0, 1.0), max(clamp(coat_rough, 0.0, 1.0), 0.045), form, v, sun);
  picture = vec4(shown(light), 1.0);
}
