// The fill of a cut face: a colour, and over it lines in families, each line as wide as it is on paper.
#include "hatching.glsl"
flat in vec4 fill;
in vec2 place_in_hatch;
in float height;
flat in vec2 fades;
flat in int hatch;
uniform vec4 hatch_ink;
uniform float millimetre;     // metres of the model that one millimetre on paper is, in this plane
uniform float hatch_weight;   // millimetres
uniform vec2 level;           // of the plane, what runs level in the picture
out vec4 picture_colour;

void main() {
    float ink = hatch >= 0 ? hatched(place_in_hatch, hatch, millimetre, hatch_weight, false, level) : 0.0;
    vec4 lines = hatch >= 0 ? ink_of(hatch, hatch_ink) : hatch_ink;
    vec3 shown = mix(fill.rgb, lines.rgb, ink * lines.a);
    float whole = fades.y > fades.x ? smoothstep(fades.x, fades.y, height) : 1.0;
    float alpha = fill.a * whole;
    picture_colour = vec4(shown * alpha, alpha);
}
