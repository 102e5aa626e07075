#include "common.glsl"
in vec3 position;
out vec2 over;

void main() {
    over = position.xy;
    for (int i = 0; i < 8; ++i) gl_ClipDistance[i] = 1.0;
    gl_Position = place(to_clip((view * vec4(position, 1.0)).xyz, 0.0));
}
