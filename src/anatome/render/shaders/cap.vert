#include "common.glsl"
in vec3 position;
in vec4 colour;
in float nearer;
in vec4 hatching;   // place in the frame of its hatch, metres; the number of the hatch or -1; unused
in vec2 fading;     // heights between which it fades into the paper, downwards; the same twice: it does not
flat out vec4 fill;
out vec2 place_in_hatch;
out float height;
flat out vec2 fades;
flat out int hatch;

void main() {
    fill = colour;
    place_in_hatch = hatching.xy;
    hatch = int(round(hatching.z));
    height = position.z;
    fades = fading;
    gl_Position = place(to_clip(position, nearer));
}
