// Glazed tiles: each its own tone and gloss, joints between them.

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 v = normalize(camera_position - v_moved), form = normalize(v_normal) * side();
  vec2 place = v_uv * vec2(4.0, 8.0);
  float course = floor(place.y);
  place.x += fract(course * 0.5);
  vec2 cell = floor(place), inside = place - cell;
  float edge = min(min(inside.x, 1.0 - inside.x), min(inside.y, 1.0 - inside.y));
  float t = clamp((edge - 0.03) / 0.02, 0.0, 1.0), tile = t * t * (3.0 - 2.0 * t);
  float tone = random3(vec3(cell, 3.0)).x, gloss = random3(vec3(cell, 8.0)).x;
  vec3 glaze = vec3(0.05, 0.2, 0.22) + vec3(0.05, 0.16, 0.12) * tone;
  vec3 base = mix(vec3(0.3, 0.28, 0.25), glaze, tile);
  float rough = mix(0.9, mix(0.12, 0.3, gloss), tile);
  picture = vec4(shown(lit(base, 0.0, rough, vec3(0.0, 0.0, 1.0), form, v, arriving(v_moved, form))), 1.0);
}
