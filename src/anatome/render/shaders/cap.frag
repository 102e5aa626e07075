// The fill of a cut face: a colour, and over it lines in families, each line as wide as it is on paper.
flat in vec4 fill;
in vec2 place_in_hatch;
in float height;
flat in vec2 fades;
flat in int hatch;
uniform sampler2D families;   // a row for each hatch, two texels for each family: cos, sin, spacing, shift; stagger, dash, gap, unit
uniform vec4 hatch_ink;
uniform float millimetre;     // metres of the model that one millimetre on paper is, in this plane
uniform float hatch_weight;   // millimetres
out vec4 picture_colour;

const int MOST_FAMILIES = 4;

// How much of the pixel the lines of one family cover.
float covered(vec4 lines, vec4 dashes) {
    float unit = dashes.w > 0.5 ? 1.0 : millimetre;
    vec2 along = lines.xy, across = vec2(-lines.y, lines.x);
    float offset = dot(place_in_hatch, across) / unit, pixel = fwidth(offset);
    float row = floor((offset - lines.w) / lines.z + 0.5);
    float away = abs(offset - lines.w - row * lines.z);
    float wanted = hatch_weight * millimetre / unit, width = max(wanted, pixel);
    float found = clamp((0.5 * width - away) / max(pixel, 1e-9) + 0.5, 0.0, 1.0) * min(1.0, wanted / max(pixel, 1e-9));
    // Lines closer together than two pixels are a tone.
    found = mix(found, clamp(wanted / lines.z, 0.0, 1.0), smoothstep(0.35, 0.6, pixel / lines.z));
    if (dashes.y > 0.0) {
        float period = dashes.y + dashes.z;
        float on = mod(dot(place_in_hatch, along) / unit - row * dashes.x, period);
        found *= on < dashes.y ? 1.0 : 0.0;
    }
    return found;
}

void main() {
    float ink = 0.0;
    if (hatch >= 0) {
        for (int i = 0; i < MOST_FAMILIES; ++i) {
            vec4 lines = texelFetch(families, ivec2(2 * i, hatch), 0);
            if (lines.z > 0.0) ink = max(ink, covered(lines, texelFetch(families, ivec2(2 * i + 1, hatch), 0)));
        }
    }
    vec3 shown = mix(fill.rgb, hatch_ink.rgb, ink * hatch_ink.a);
    float whole = fades.y > fades.x ? smoothstep(fades.x, fades.y, height) : 1.0;
    float alpha = fill.a * whole;
    picture_colour = vec4(shown * alpha, alpha);
}
