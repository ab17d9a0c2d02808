// Four waves: heading, spread, length, height, steepness, speed. xyz the offset, w how near to a crest.
vec4 swell(vec3 p, float heading, float spread, float length, float height, float steepness, float speed) {
  const float lean[4] = float[4](-0.5, 0.1666667, 0.1666667, -0.5);
  const float longs[4] = float[4](1.0, 0.71, 0.5041, 0.357911);
  const float shares[4] = float[4](0.44611, 0.27659, 0.17149, 0.10632);
  vec4 found = vec4(0.0);
  [[unroll]] for (int k = 0; k < 4; k++) {
    float turn = (heading + spread * lean[k]) * 6.2831853;
    vec2 direction = vec2(cos(turn), -sin(turn));
    float number = 6.2831853 / max(length * longs[k], 0.01), a = height * shares[k];
    float f = dot(direction, p.xz) * number - sqrt(number * 9.81) * speed * time + 1.7 * float(k);
    float s = sin(f);
    found.xz += direction * (cos(f) * min(clamp(steepness, 0.0, 1.0) * a, 1.0 / (number * 4.0)));
    found.yw += s * vec2(a, shares[k]);
  }
  return vec4(found.xyz, clamp(found.w * 0.5 + 0.5, 0.0, 1.0));
}
