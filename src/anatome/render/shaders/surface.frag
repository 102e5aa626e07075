#include "cells.glsl"
#ifdef CELLS
in vec3 at;
#endif
flat in vec4 shade;
out vec4 picture_colour;

void main() {
#ifdef CELLS
    cut_away_rest(at);
#endif
    picture_colour = shade;
}
