#include "cells.glsl"
in vec3 at;
flat in vec4 shade;
out vec4 picture_colour;

void main() {
    cut_away_rest(at);
    picture_colour = vec4(min(shade.rgb, vec3(1.0)) * shade.a, shade.a);
}
