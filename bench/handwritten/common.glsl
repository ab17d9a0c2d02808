// Lighting shared by the effects: glTF metallic-roughness under one sun and a filtered environment.
in vec3 v_position; in vec3 v_moved; in vec3 v_object_position; in vec3 v_normal; in vec3 v_object_normal;
in vec4 v_tangent; in vec2 v_uv; in vec4 v_colour;
uniform vec3 camera_position; uniform vec2 screen_size; uniform float time;
uniform vec3 sun_direction; uniform vec3 sun_colour; uniform float rig_turn; uniform float exposure;
uniform sampler2D environment; uniform sampler2D sun_depth;
uniform vec3 around_0; uniform vec3 around_1; uniform vec3 around_2; uniform vec3 around_3; uniform vec3 around_4;
uniform vec3 around_5; uniform vec3 around_6; uniform vec3 around_7; uniform vec3 around_8;
uniform vec3 sun_right; uniform vec3 sun_up; uniform float sun_half; uniform bool sun_pass;
out vec4 picture;

vec3 around(float u, float v, float strip) { return textureLod(environment, vec2(u, (strip + v) * 0.125), 0.0).rgb; }

vec2 place_of(vec3 d) {
  float u = mix(atan(d.x, d.z), 0.0, abs(d.x) + abs(d.z) == 0.0) * 0.15915494 + 0.5 + rig_turn;
  float v = 1.0 - acos(clamp(d.y, -1.0, 1.0)) * 0.31830989;
  return vec2(u, clamp(v, 0.00390625, 0.99609375));
}

vec3 reflection(vec3 d, float rough) {
  vec2 at = place_of(d);
  float strip = rough * 6.0;
  float lower = min(floor(strip), 5.0);
  vec3 a = around(at.x, at.y, lower);
  return a + (around(at.x, at.y, lower + 1.0) - a) * (strip - lower);
}

vec3 unit(vec3 v) { return v * inversesqrt(max(dot(v, v), 1.1754944e-38)); }

// What a rough mirror gathers: its lobe leans towards the normal.
vec3 around_mirror(vec3 n, float n_v, vec3 v, float rough) {
  float away = 1.0 - clamp(n_v, 0.0, 1.0);
  vec3 d = n * (2.0 * n_v) - v;
  return reflection(unit(d + (n - d) * (rough * rough * (1.0 + (1.0 - rough) * away * away * 1.3))), rough);
}

vec3 arriving(vec3 n) {
  float angle = rig_turn * 6.2831855, c = cos(angle), s = sin(angle);
  float x = n.x * c + n.z * s, y = n.y, z = n.z * c - n.x * s;
  vec3 sum = around_0 * 0.282095 + around_1 * (y * 0.488603) + around_2 * (z * 0.488603) + around_3 * (x * 0.488603);
  sum += around_4 * (x * y * 1.092548) + around_5 * (y * z * 1.092548) + around_6 * (z * z * 0.946176 - 0.315392);
  return max(sum + around_7 * (x * z * 1.092548) + around_8 * ((x * x - y * y) * 0.546274), 0.0);
}

vec3 responses(float c, float rough) {
  return around(c * 0.99609375 + 0.001953125, rough * 0.9921875 + 0.00390625, 7.0);
}

float schlick(float f0, float c) {
  float edge = clamp(1.0 - c, 0.0, 1.0);
  float squared = edge * edge;
  return f0 + (1.0 - f0) * (squared * squared * edge);
}

vec3 schlick(vec3 f0, float c) {
  float edge = clamp(1.0 - c, 0.0, 1.0);
  float squared = edge * edge;
  return f0 + (1.0 - f0) * (squared * squared * edge);
}

float ggx(vec3 n, vec3 v, vec3 l, vec3 h, float rough) {
  float n_h = clamp(dot(n, h), 0.0, 1.0), n_v = max(dot(n, v), 1e-4), n_l = clamp(dot(n, l), 0.0, 1.0);
  float a = rough * rough, a2 = a * a;
  float spread = n_h * n_h * (a2 - 1.0) + 1.0;
  float shadow = n_l * sqrt(max(n_v * n_v * (1.0 - a2) + a2, 0.0));
  float mask = n_v * sqrt(max(n_l * n_l * (1.0 - a2) + a2, 0.0));
  return a2 / (3.14159265 * spread * spread) * 0.5 / max(shadow + mask, 1e-5);
}

float mirrored(float f0, vec3 r) {
  float single = f0 * r.x + r.y, mean = f0 + (1.0 - f0) / 21.0, lost = 1.0 - (r.x + r.y);
  return single + single * mean * lost / (1.0 - mean * lost);
}

vec3 mirrored(vec3 f0, vec3 r) {
  vec3 single = f0 * r.x + r.y, mean = f0 + (1.0 - f0) / 21.0;
  float lost = 1.0 - (r.x + r.y);
  return single + single * mean * lost / (1.0 - mean * lost);
}

vec3 turned(vec3 mapped, vec3 form) {
  vec3 tangent = normalize(v_tangent.xyz);
  vec3 along = unit(tangent - form * dot(form, tangent));
  return unit(along * mapped.x + cross(form, along) * v_tangent.w * mapped.y + form * mapped.z);
}

vec3 arriving(vec3 place, vec3 n) {
  float grazing = clamp(1.0 - dot(n, sun_direction), 0.0, 1.0);
  vec3 p = place + n * (grazing * 0.014 + 0.0056);
  vec2 at = vec2(dot(p, sun_right), dot(p, sun_up)) / (sun_half * 2.0) + 0.5;
  float own = dot(p, sun_direction), total = 0.0;
  total += clamp((textureLod(sun_depth, at + vec2(-0.003125, -0.001171875), 0.0).r - own) * 40.0, 0.0, 1.0);
  total += clamp((textureLod(sun_depth, at + vec2(0.001171875, -0.003125), 0.0).r - own) * 40.0, 0.0, 1.0);
  total += clamp((textureLod(sun_depth, at + vec2(0.003125, 0.001171875), 0.0).r - own) * 40.0, 0.0, 1.0);
  total += clamp((textureLod(sun_depth, at + vec2(-0.001171875, 0.003125), 0.0).r - own) * 40.0, 0.0, 1.0);
  return sun_colour * (1.0 - total * 0.25);
}

vec3 lit(vec3 base, float metallic, float roughness, vec3 mapped, vec3 form, vec3 v, vec3 light) {
  base = clamp(base, 0.0, 1.0);
  float metal = clamp(metallic, 0.0, 1.0), rough = max(clamp(roughness, 0.0, 1.0), 0.045);
  vec3 n = turned(mapped, form);
  float n_v = dot(n, v), n_l = clamp(dot(n, sun_direction), 0.0, 1.0);
  vec3 r = responses(clamp(n_v, 0.0, 1.0), rough), h = unit(v + sun_direction);
  float paint = mirrored(0.04, r), whole = 1.0 / max(r.x + r.y, 0.05) - 1.0, c = clamp(dot(h, v), 0.0, 1.0);
  vec3 diffuse = base * (1.0 - metal) * (1.0 - paint);
  float reached = mix(0.0, n_l, 0.0 < dot(form, sun_direction));
  float first = schlick(0.04, c) * (0.04 * whole + 1.0);
  vec3 fresnel = first + (schlick(base, c) * (base * whole + 1.0) - first) * metal;
  vec3 response = paint + (mirrored(base, r) - paint) * metal;
  vec3 sun = (diffuse * 0.31830989 + fresnel * ggx(n, v, sun_direction, h, rough)) * reached;
  vec3 sky = arriving(n) * diffuse;
  return sun * light + sky + around_mirror(n, n_v, v, rough) * response;
}

vec3 coated(vec3 under, float strength, float rough, vec3 n, vec3 v, vec3 light) {
  vec3 h = unit(v + sun_direction);
  float raw = dot(n, v), n_v = clamp(raw, 0.0, 1.0);
  vec3 r = responses(n_v, rough);
  float taken = 0.04 * r.x + r.y;
  vec3 sky = around_mirror(n, raw, v, rough) * taken;
  vec3 sun = vec3(schlick(0.04, clamp(dot(h, v), 0.0, 1.0)) * ggx(n, v, sun_direction, h, rough));
  sun *= clamp(dot(n, sun_direction), 0.0, 1.0) * light;
  return under * (1.0 - taken * strength) + (sky + sun) * strength;
}

vec3 shown(vec3 light) {
  vec3 x = max(light * exposure, vec3(0.0));
  x = clamp(x * (x * 2.51 + 0.03) / (x * (x * 2.43 + 0.59) + 0.14), 0.0, 1.0);
  vec3 curved = 1.055 * pow(x, vec3(1.0 / 2.4)) - 0.055, straight = x * 12.92;
  return mix(straight, curved, greaterThan(x, vec3(0.0031308)));
}

float level(sampler2D t, vec2 uv) {
  vec2 size = vec2(textureSize(t, 0)), x = dFdx(uv) * size, y = dFdy(uv) * size;
  return max(log(max(max(dot(x, x), dot(y, y)), 1.1754944e-38)) * 0.72134752, 0.0);
}

vec4 read(sampler2D t, vec2 uv) { return textureLod(t, uv, level(t, uv)); }

float facing_power(float facing, float power) {
  return pow(max(1.0 - facing, 1.1754944e-38), power);
}

vec3 random3(vec3 p) {
  uvec3 v = uvec3(ivec3(p)) * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return vec3(v >> 8u) * 5.9604644775390625e-8;
}

float hills(vec2 p, float seed) {
  vec2 cell = floor(p), f = p - cell, t = f * f * f * (f * (f * 6.0 - 15.0) + 10.0);
  vec2 c = cell + vec2(1, 0), d = cell + vec2(0, 1), e = cell + 1.0;
  float s = floor(seed);
  float h0 = dot(random3(vec3(cell, s)).xy * 2.0 - 1.0, f), h1 = dot(random3(vec3(c, s)).xy * 2.0 - 1.0, p - c);
  float h2 = dot(random3(vec3(d, s)).xy * 2.0 - 1.0, p - d), h3 = dot(random3(vec3(e, s)).xy * 2.0 - 1.0, p - e);
  float low = h0 + (h1 - h0) * t.x;
  return low + (h2 + (h3 - h2) * t.x - low) * t.y;
}

float corner3(vec3 p, vec3 c, vec3 seed) { return dot(random3(c + seed) * 2.0 - 1.0, p - c); }

float hills3(vec3 p, float seed) {
  vec3 cell = floor(p), f = p - cell, t = f * f * f * (f * (f * 6.0 - 15.0) + 10.0);
  vec3 s = floor(seed) * vec3(1013.0, 2477.0, 3581.0);
  float a = corner3(p, cell, s), b = corner3(p, cell + vec3(1, 0, 0), s);
  float c = corner3(p, cell + vec3(0, 1, 0), s), d = corner3(p, cell + vec3(1, 1, 0), s);
  float e = corner3(p, cell + vec3(0, 0, 1), s), g = corner3(p, cell + vec3(1, 0, 1), s);
  float h = corner3(p, cell + vec3(0, 1, 1), s), i = corner3(p, cell + 1.0, s);
  a += (b - a) * t.x; c += (d - c) * t.x; e += (g - e) * t.x; h += (i - h) * t.x;
  a += (c - a) * t.y; e += (h - e) * t.y;
  return a + (e - a) * t.z;
}

float fractal(vec2 p, float gain, float seed, int layers) {
  float total = 0.0, weight = 0.0, strength = 1.0;
  [[unroll]] for (int i = 0; i < layers; i++) {
    total += hills(p, seed + float(i * 17)) * strength;
    weight += strength;
    p *= 2.0;
    strength *= gain;
  }
  return clamp(total / weight * 0.5 + 0.5, 0.0, 1.0);
}

// The normal of position + offset, by how it changes over the screen (M. Mikkelsen, 2010).
vec3 moved_normal(vec3 n, vec3 offset) {
  vec3 x = dFdx(v_position), y = dFdy(v_position), r1 = cross(y, n), r2 = cross(n, x);
  float scale = 1.0 / dot(x, r1);
  vec3 tangent = normalize(v_tangent.xyz), t = unit(tangent - n * dot(n, tangent)), b = cross(n, t);
  vec3 ox = dFdx(offset), oy = dFdy(offset);
  return unit(cross(t + (ox * dot(r1, t) + oy * dot(r2, t)) * scale, b + (ox * dot(r1, b) + oy * dot(r2, b)) * scale));
}

vec3 to_tangent(vec3 d, vec3 n) {
  vec3 tangent = normalize(v_tangent.xyz), t = unit(tangent - n * dot(n, tangent));
  return vec3(dot(d, t), dot(d, cross(n, t) * v_tangent.w), dot(d, n));
}

float side() { return gl_FrontFacing ? 1.0 : -1.0; }
