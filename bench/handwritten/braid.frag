uniform vec4 values[11]; uniform sampler2D strand_map; uniform sampler2D depth_map; uniform sampler2D numbers; uniform sampler2D flow;

float along(float v, float low, float high) { return clamp((v - low) / (high - low), 0.0, 1.0); }

float strand(vec3 n, vec3 t, vec3 b, vec3 v, vec3 l, vec3 h, float n_l, float rough, float strength) {
  float across = rough * rough, along = mix(across, 1.0, strength * strength), both = across * along;
  vec3 d = vec3(dot(t, h) * across, dot(b, h) * along, clamp(dot(n, h), 0.0, 1.0) * both);
  float w = both / max(dot(d, d), 1e-12), n_v = max(dot(n, v), 1e-4);
  float from = n_l * length(vec3(dot(t, v) * along, dot(b, v) * across, n_v));
  float to = n_v * length(vec3(dot(t, l) * along, dot(b, l) * across, n_l));
  return both * w * w * 0.15915494 / max(from + to, 1e-5);
}

void main() {
  float kept = clamp(read(strand_map, v_uv).a * values[0].x, values[0].y, values[0].z);
  if (kept < 0.5) discard;
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  float deep = read(depth_map, v_uv).r * (1.0 - v_colour.z * values[1].y);
  float open = values[0].w + (values[1].x - values[0].w) * along(deep, values[1].z, values[1].w);
  float root = v_colour.x;
  vec3 hue = mix(values[4].yzw, values[5].yzw, along(root, values[4].x, values[5].x));
  hue = mix(hue, values[6].yzw, along(root, values[5].x, values[6].x));
  float own = values[3].y + (values[3].z - values[3].y) * along(read(numbers, v_uv).r, values[3].w, values[7].x);
  vec3 base = clamp(clamp(hue * exp2(own) * open, values[7].y, values[7].z), 0.0, 1.0);
  float metal = clamp(values[7].w, 0.0, 1.0), rough = max(clamp(values[3].x, 0.0, 1.0), 0.045);
  float open_ = clamp(open, 0.0, 1.0), edge = clamp(open * values[2].x, 0.0, 1.0), f0 = 0.04 * edge;
  float turn = clamp(values[8].x, -1.0, 1.0), strength = abs(turn);

  vec3 v = normalize(camera_position - v_moved), form = normalize(v_normal) * side();
  vec3 n = turned(values[2].yzw, form), h = unit(v + sun_direction);
  vec3 found = read(flow, v_uv).rgb;
  vec2 way = vec2(values[8].y) + (values[8].z - values[8].y) * vec2(along(found.x, values[8].w, values[9].x), along(found.y, values[8].w, values[9].x));
  vec3 tangent = normalize(v_tangent.xyz), flat_ = unit(tangent - n * dot(n, tangent));
  vec3 t = unit(flat_ * way.x + cross(n, flat_) * (way.y * v_tangent.w) + flat_ * 1e-6);
  t = mix(t, cross(n, t), bvec3(turn < 0.0));
  vec3 b = cross(n, t);

  float n_v = dot(n, v), n_l = clamp(dot(n, sun_direction), 0.0, 1.0), c = clamp(dot(h, v), 0.0, 1.0);
  float reached = mix(0.0, n_l, 0.0 < dot(form, sun_direction));
  vec3 r = responses(clamp(n_v, 0.0, 1.0), rough), light = arriving(v_moved, form);
  float short_ = rough * rough, long_ = short_ + (1.0 - short_) * strength * strength;
  float both = pow((pow(short_, 1.6) + pow(long_, 1.6)) * 0.5, 0.625);
  vec3 seen_ = vec3(clamp(n_v, 0.0, 1.0), dot(t, v), dot(b, v) * (short_ / long_));
  vec3 stretched = responses(seen_.x / sqrt(max(dot(seen_, seen_), 1e-6)), sqrt(both));
  float reflected = stretched.x + stretched.y;
  r *= reflected / max(r.x + r.y, 0.05);
  float whole = 1.0 / max(reflected, 0.05) - 1.0;
  float single = f0 * r.x + edge * r.y, mean = f0 + (edge - f0) / 21.0, lost = 1.0 - (r.x + r.y);
  float paint = single + single * mean * lost / (1.0 - mean * lost);
  float grazing = clamp(1.0 - c, 0.0, 1.0), squared = grazing * grazing, fifth = squared * squared * grazing;
  float first = (f0 + (edge - f0) * fifth) * (f0 * whole + 1.0);
  vec3 fresnel = first + ((base + (1.0 - base) * fifth) * (base * whole + 1.0) - first) * metal;
  vec3 sun = fresnel * (strand(n, t, b, v, sun_direction, h, n_l, rough, strength) * reached) * light;
  float away = 1.0 - strength * (1.0 - rough);
  away *= away;
  vec3 bent = unit(cross(cross(b, v), b) + n * 1e-5);
  bent = unit(bent + (n - bent) * (away * away));
  vec3 sky = around_mirror(bent, dot(bent, v), v, rough) * open_ * (paint + (mirrored(base, r) - paint) * metal);
  vec3 diffuse = base * ((1.0 - metal) * (1.0 - paint)) * (light * (reached * 0.31830989) + arriving(n) * open_);

  vec3 wool = clamp(values[9].yzw, 0.0, 1.0);
  float woolly = max(clamp(values[10].x, 0.0, 1.0), 0.07), given = responses(clamp(n_v, 0.0, 1.0), woolly).z;
  float sharp = 1.0 / max(woolly * woolly, 0.001), n_h = clamp(dot(n, h), 0.0, 1.0), seen = max(n_v, 1e-4);
  float lobe = (2.0 + sharp) * pow(max(1.0 - n_h * n_h, 1e-6), sharp * 0.5) * 0.039788735 / max(n_l + seen - n_l * seen, 1e-4);
  vec3 dust = wool * (light * (lobe * n_l) + around_mirror(n, n_v, v, woolly) * (given * open_));
  vec3 under = (sun + sky + diffuse) * (1.0 - max(max(wool.x, wool.y), wool.z) * given);
  picture = vec4(shown(under + dust), 1.0);
}
