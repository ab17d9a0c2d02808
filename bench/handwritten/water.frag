uniform vec4 values[12]; uniform sampler2D ripples; uniform sampler2D backdrop;

vec2 ripple(vec2 uv, float c, float s, float scale, vec2 shift, float drift) {
  vec2 at = vec2(uv.x * c - uv.y * s, uv.x * s + uv.y * c) * scale + shift;
  at.x += drift;
  vec2 slope = read(ripples, at).rg * 2.0 - 1.0;
  return vec2(slope.x * c + slope.y * s, slope.y * c - slope.x * s) * 0.57735027;
}

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 outward = normalize(v_normal), v = normalize(camera_position - v_moved);
  vec4 wave = swell(v_position, values[0].x, values[0].y, values[0].z, values[0].w, values[1].x, values[1].y);
  vec3 form = moved_normal(outward, wave.xyz) * side();
  float tiling = values[1].z, run = time * values[1].w;
  vec2 slope = ripple(v_uv, 1.0, 0.0, tiling, vec2(0.0), run);
  slope += ripple(v_uv, -0.73736888, 0.67549029, tiling * 1.37, vec2(0.31, 0.17), run * 1.21);
  slope += ripple(v_uv, 0.087425725, -0.99617104, tiling * 1.8769, vec2(0.62, 0.34), run * 1.4641);
  vec3 normal = unit(vec3(slope * values[2].x, 1.0));
  vec2 screen = gl_FragCoord.xy / screen_size;
  float away = length(camera_position - v_moved);
  vec3 bed = textureLod(backdrop, screen + normal.xy * values[2].y, 0.0).rgb;
  float depth = max(textureLod(backdrop, screen + values[6].yz, 0.0).a - away, 0.0);
  float clear = clamp(exp(clamp(depth * values[2].z, -87.0, 87.0)), values[2].w, values[6].x);
  vec3 seen = values[3].xyz + (bed - values[3].xyz) * clear;
  float grain = fractal(v_uv * values[3].w, values[4].w, values[5].w, 3);
  float shallow = clamp(max(textureLod(backdrop, screen, 0.0).a - away, 0.0) / max(values[6].w, 0.001), 0.0, 1.0);
  float s = clamp((grain - shallow) / max(values[7].x, 0.001), 0.0, 1.0), shore = s * s * (3.0 - 2.0 * s);
  float c = clamp((wave.w - values[7].y) / (values[7].z - values[7].y), 0.0, 1.0), crest = c * c * (3.0 - 2.0 * c);
  float foam = max(shore, crest * grain);
  vec3 base = values[3].xyz + (values[4].xyz - values[3].xyz) * foam;
  vec3 through = seen + (values[5].xyz - seen) * foam;
  float rough = values[7].w + (values[8].x - values[7].w) * foam;
  picture = vec4(shown(lit(base, values[8].y, rough, normal, form, v, arriving(v_moved, form)) + max(through, vec3(0.0))), 1.0);
}
