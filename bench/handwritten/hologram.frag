// A projection in the air: it only emits, brighter at its rim, in running lines.
uniform sampler2D backdrop;

void main() {
  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }
  vec3 n = normalize(v_normal), v = normalize(camera_position - v_moved);
  float rim = facing_power(clamp(abs(dot(n, v)), 0.0, 1.0), 2.5);
  float along = fract((v_object_position.y + time * 0.1) * 40.0);
  float line = clamp((abs(along - 0.5) - 0.2) / 0.1, 0.0, 1.0);
  line = line * line * (3.0 - 2.0 * line);
  float glow = rim + line * 0.35;
  vec3 light = vec3(0.1, 0.8, 1.0) * glow * 3.0;
  vec3 behind = textureLod(backdrop, gl_FragCoord.xy / screen_size, 0.0).rgb;
  picture = vec4(shown(behind + (light - behind) * clamp(glow, 0.0, 1.0)), 1.0);
}
