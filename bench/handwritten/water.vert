uniform vec4 values[12];

vec3 moved_by(vec3 place, vec3 outward) {
  return swell(place, values[0].x, values[0].y, values[0].z, values[0].w, values[1].x, values[1].y).xyz;
}
