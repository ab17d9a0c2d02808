// The frame of every vertex shader: `moved_by` is the effect's own.
in vec3 position; in vec3 normal; in vec4 tangent; in vec2 uv; in vec2 second_uv; in vec4 colour;
out vec3 v_position; out vec3 v_moved; out vec3 v_object_position; out vec3 v_normal; out vec3 v_object_normal;
out vec4 v_tangent; out vec2 v_uv; out vec2 v_second_uv; out vec4 v_colour;
uniform mat4 modelMatrix; uniform mat4 viewMatrix; uniform mat4 projectionMatrix; uniform float time;
vec3 moved_by(vec3 place, vec3 outward);

void main() {
  vec3 place = (modelMatrix * vec4(position, 1.0)).xyz;
  mat3 turn = mat3(modelMatrix);
  v_position = place;
  v_moved = place + moved_by(place, turn * normal);
  v_object_position = position;
  v_normal = turn * normal;
  v_object_normal = normal;
  v_tangent = vec4(turn * tangent.xyz, tangent.w);
  v_uv = uv;
  v_second_uv = second_uv;
  v_colour = colour;
  gl_Position = projectionMatrix * viewMatrix * vec4(v_moved, 1.0);
}
