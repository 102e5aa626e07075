#include "common.glsl"
in vec3 position;
in vec4 colour;
in float nearer;
flat out vec4 fill;

void main() {
    fill = colour;
    gl_Position = place(to_clip(position, nearer));
}
