#include "common.glsl"
in vec3 position;
in vec4 colour;
in float nearer;
flat out vec4 fill;

void main() {
    vec3 seen = (view * vec4(position, 1.0)).xyz;
    fill = colour;
    for (int i = 0; i < 8; ++i) gl_ClipDistance[i] = 1.0;
    gl_Position = place(to_clip(seen, nearer));
}
