uniform vec4 values[12];

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 outward = normalize(v_normal), v = normalize(camera_position - v_moved), form = outward * side();
  vec2 place = v_uv * values[0].xy;
  float course = floor(place.y);
  vec2 moved = vec2(place.x + (course - 2.0 * floor(course * 0.5)) * values[0].z, place.y), cell = floor(moved);
  vec2 inside = moved - cell, away = min(inside, 1.0 - inside);
  float soft = max(values[1].x, 1e-4) * 0.5, gap = values[0].w * 0.5;
  float e = clamp((min(away.x, away.y) - (gap - soft)) / (2.0 * soft), 0.0, 1.0), plank = e * e * (3.0 - 2.0 * e);
  float grain = fractal(v_uv * values[1].yz * values[1].w, values[2].x, values[2].y, 4);
  vec3 wood = values[3].xyz + (values[4].xyz - values[3].xyz) * grain;
  float tone = random3(vec3(floor(cell + 0.001), floor(values[2].z))).x;
  wood *= exp((values[2].w + (values[3].w - values[2].w) * tone) * 0.69314718) * plank;
  float d = length(v_uv - values[5].xy) / max(values[5].z, 1e-4) + hills3(v_position * values[6].x, values[6].y) * values[5].w;
  float edge = max(values[6].z, 0.001), s = clamp((d - (1.0 - edge)) / edge, 0.0, 1.0);
  float mask = 1.0 - s * s * (3.0 - 2.0 * s);
  vec3 tint = values[7].xyz + (values[8].xyz - values[7].xyz) * clamp(d, 0.0, 1.0);
  vec3 base = wood + (tint - wood) * mask;
  float w = clamp((mask - values[7].w) / (values[8].w - values[7].w), 0.0, 1.0), wet = w * w * (3.0 - 2.0 * w);
  float rough = values[9].x + (values[9].y - values[9].x) * wet;
  float height = clamp(grain * plank, 0.0, 1.0) * values[9].z + clamp(mask, 0.0, 1.0) * values[9].w;
  height += clamp(values[10].x, 0.0, 1.0) * values[10].y;
  vec3 bumps = to_tangent(moved_normal(outward, outward * (height * values[10].z)), outward);
  picture = vec4(shown(lit(base, values[10].w, rough, bumps, form, v, arriving(v_moved, form))), 1.0);
}
