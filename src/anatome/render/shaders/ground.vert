#include "common.glsl"
in vec3 position;
in float darkness;
out float dark;

void main() {
    dark = darkness;
    gl_Position = place(to_clip(position, 0.0));
}
