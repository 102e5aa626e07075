// Lines in families, as hatches and patterns have them.
uniform sampler2D families;   // a row for each hatch, two texels for each family: cos, sin, spacing, shift; stagger, dash, gap, unit;
                              // then its own ink, with 1 behind it if it has one

const int MOST_FAMILIES = 4;

// How much of the pixel the lines of one family cover. ``unit`` metres are one of its numbers, lines are ``weight`` metres wide.
// Lines closer together than some pixels are a tone, or nothing if they ``fade``.
float covered(vec2 at, vec4 lines, vec4 dashes, float unit, float weight, bool fade) {
    vec2 along = lines.xy, across = vec2(-lines.y, lines.x);
    float offset = dot(at, across) / unit, pixel = fwidth(offset);
    float row = floor((offset - lines.w) / lines.z + 0.5);
    float away = abs(offset - lines.w - row * lines.z);
    float wanted = weight / unit, width = max(wanted, pixel);
    float found = clamp((0.5 * width - away) / max(pixel, 1e-9) + 0.5, 0.0, 1.0) * min(1.0, wanted / max(pixel, 1e-9));
    if (fade) found *= 1.0 - smoothstep(0.16, 0.42, pixel / lines.z);
    else found = mix(found, clamp(wanted / lines.z, 0.0, 1.0), smoothstep(0.35, 0.6, pixel / lines.z));
    if (dashes.y > 0.0) {
        float period = dashes.y + dashes.z;
        float on = mod(dot(at, along) / unit - row * dashes.x, period);
        found *= on < dashes.y ? 1.0 : 0.0;
    }
    return found;
}

// The ink of a hatch and how strong it is: its own is drawn as it was chosen.
vec4 ink_of(int hatch, vec4 usual) {
    vec4 own = texelFetch(families, ivec2(2 * MOST_FAMILIES, hatch), 0);
    return own.a > 0.5 ? own : usual;
}

// The same of all families of a hatch. ``millimetre`` is what one on paper is in metres here; a weight below 0 is so many pixels.
float hatched(vec2 at, int hatch, float millimetre, float weight, bool fade) {
    float ink = 0.0;
    for (int i = 0; i < MOST_FAMILIES; ++i) {
        vec4 lines = texelFetch(families, ivec2(2 * i, hatch), 0), dashes = texelFetch(families, ivec2(2 * i + 1, hatch), 0);
        if (lines.z <= 0.0) continue;
        float unit = dashes.w > 0.5 ? 1.0 : millimetre;
        float metres = weight < 0.0 ? -weight * fwidth(dot(at, vec2(-lines.y, lines.x))) : weight * millimetre;
        ink = max(ink, covered(at, lines, dashes, unit, metres, fade));
    }
    return ink;
}
