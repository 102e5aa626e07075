#include "cells.glsl"
in vec3 at;
noperspective in vec2 here;
flat in vec2 from;
flat in vec2 to;
flat in float strength;
uniform vec4 ink;
uniform float width;
uniform bool cut_lines;
out vec4 picture_colour;

void main() {
    if (!cut_lines) cut_away_rest(at);
    if (width > 1.5) {
        // Round ends make the corners of an outline close without notches or spikes.
        vec2 line = to - from, arm = here - from;
        float t = clamp(dot(arm, line) / max(dot(line, line), 1e-9), 0.0, 1.0);
        if (distance(arm, line * t) > 0.5 * width) discard;
    }
    picture_colour = vec4(ink.rgb, 1.0) * (ink.a * strength);
}
