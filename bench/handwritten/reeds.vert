uniform vec4 values[12];

vec3 moved_by(vec3 place, vec3 outward) { return wind(place, normalize(outward), colour.r, colour.g); }
