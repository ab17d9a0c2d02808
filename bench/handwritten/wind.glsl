// A lean with the wind, gusts and flutter; values 0 and 1 hold heading, strength, speed, gusts, size, flutter, seed.
vec3 wind(vec3 place, vec3 outward, float mask, float phase) {
  float turn = values[0].x * 6.2831853, speed = values[0].z, size = values[1].x;
  vec3 direction = vec3(cos(turn), 0.0, -sin(turn));
  float gust = clamp(hills3((place - direction * (time * speed * size)) / max(size, 0.01), values[1].z) + 0.5, 0.0, 1.0);
  float swing = 0.6 + 0.4 * sin((time * speed + phase) * 6.2831853);
  float lean = values[0].y * (1.0 - values[0].w + values[0].w * gust) * swing;
  float tremble = sin((time * speed * 7.0 + phase * 3.0) * 6.2831853) * values[1].y * mask;
  return (direction * lean - vec3(0.0, 0.5, 0.0) * (lean * lean)) * (mask * mask) + outward * tremble;
}
