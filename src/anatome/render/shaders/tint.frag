#include "cells.glsl"
in vec3 at;
flat in vec4 shade;
uniform vec4 tint;
out vec4 picture_colour;

void main() {
    cut_away_rest(at);
    picture_colour = vec4(tint.rgb * tint.a, tint.a);
}
