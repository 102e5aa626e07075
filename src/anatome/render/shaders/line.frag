#include "cells.glsl"
#ifdef CELLS
in vec3 at;
#endif
flat in float strength;
uniform vec4 ink;
uniform float dotted;   // pixels of half a dash and its gap; 0: a whole line
uniform float dash;     // the share of that which is drawn
#ifndef THIN
noperspective in vec2 here;
flat in vec2 from;
flat in vec2 to;
flat in float broad;
#endif
out vec4 picture_colour;

void main() {
#ifdef CELLS
    cut_away_rest(at);
#endif
#ifndef THIN
    if (broad > 1.5) {
        // Round ends make the corners of an outline close without notches or spikes.
        vec2 line = to - from, arm = here - from;
        float t = clamp(dot(arm, line) / max(dot(line, line), 1e-9), 0.0, 1.0);
        if (distance(arm, line * t) > 0.5 * broad) discard;
    }
#endif
#ifndef THIN
    if (dotted > 0.0 && fract(distance(here, from) / (2.0 * dotted)) > dash) discard;
#endif
    picture_colour = vec4(ink.rgb, 1.0) * (ink.a * strength);
}
