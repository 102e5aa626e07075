// Lines in families, as hatches and patterns have them, and tiles that are repeated.
uniform sampler2D families;        // a row for each hatch, as hatch_textures.py writes it
uniform sampler2DArray tiles;      // how far a place of a tile is from its nearest line
uniform float least;               // mm on paper between lines; what is closer is drawn as many times larger as it takes

const int HEAD = 4, TEXELS = 5;

// How much of a pixel a line covers whose middle is ``away``, all in units of the hatch, of which a pixel is ``pixel``.
float inked(float away, float wanted, float pixel) {
    float width = max(wanted, pixel);
    return clamp((0.5 * width - away) / max(pixel, 1e-9) + 0.5, 0.0, 1.0) * min(1.0, wanted / max(pixel, 1e-9));
}

// Lines closer together than some pixels are a tone, or nothing if they ``fade``.
float as_tone(float found, float wanted, float apart, float pixel, bool fade) {
    if (fade) return found * (1.0 - smoothstep(0.16, 0.42, pixel / apart));
    return mix(found, clamp(wanted / apart, 0.0, 1.0), smoothstep(0.35, 0.6, pixel / apart));
}

// How much of the pixel the lines of one family cover; ``at`` and the ``wanted`` width are in its units.
float covered(vec2 at, int hatch, int first, float wanted, bool fade) {
    vec4 lines = texelFetch(families, ivec2(first, hatch), 0), more = texelFetch(families, ivec2(first + 1, hatch), 0);
    vec2 along = lines.xy, across = vec2(-lines.y, lines.x);
    float offset = dot(at, across), pixel = fwidth(offset);
    float row = floor((offset - lines.w) / lines.z + 0.5);
    float found = as_tone(inked(abs(offset - lines.w - row * lines.z), wanted, pixel), wanted, lines.z, pixel, fade);
    int count = int(more.z);
    if (count > 0) {
        float told[12], period = 0.0;
        for (int i = 0; i < count; ++i) {
            told[i] = texelFetch(families, ivec2(first + 2 + i / 4, hatch), 0)[i % 4];
            period += told[i];
        }
        float on = mod(dot(at, along) - more.y - row * more.x, period), begin = 0.0;
        bool drawn = false;
        for (int i = 0; i < count; i += 2) {
            drawn = drawn || (on >= begin && on < begin + max(told[i], wanted));  // a dot is as long as it is wide
            begin += told[i] + told[i + 1];
        }
        found *= drawn ? 1.0 : 0.0;
    }
    return found;
}

// The ink of a hatch and how strong it is: its own is drawn as it was chosen.
vec4 ink_of(int hatch, vec4 usual) {
    vec4 own = texelFetch(families, ivec2(0, hatch), 0);
    return own.a > 0.5 ? own : usual;
}

// How much of the pixel a hatch covers. ``millimetre`` is what one on paper is in metres here; a weight below 0 is so many pixels;
// ``level`` is the direction that runs level in the picture.
float hatched(vec2 at, int hatch, float millimetre, float weight, bool fade, vec2 level) {
    vec4 head = texelFetch(families, ivec2(1, hatch), 0), more = texelFetch(families, ivec2(2, hatch), 0);
    float unit = head.z > 0.5 ? 1.0 : millimetre;
    float apart = head.w * unit / millimetre;
    if (!fade && apart < least) unit *= exp2(ceil(log2(least / apart) - 1e-5));
    if (more.w > 0.5) at = vec2(dot(at, level), dot(at, vec2(-level.y, level.x)));
    vec2 here = at / unit - texelFetch(families, ivec2(3, hatch), 0).xy;
    if (head.y > 0.0 && weight > 0.0) weight = head.y;
    float ink = 0.0;
    for (int i = 0; i < int(head.x); ++i) {
        int first = HEAD + TEXELS * i;
        vec4 lines = texelFetch(families, ivec2(first, hatch), 0);
        float wanted = weight < 0.0 ? -weight * fwidth(dot(here, vec2(-lines.y, lines.x))) : weight * millimetre / unit;
        ink = max(ink, covered(here, hatch, first, wanted, fade));
    }
    if (more.x >= 0.0) {
        float pixel = length(vec2(length(dFdx(here)), length(dFdy(here)))) * 0.7071;
        float wanted = weight < 0.0 ? -weight * pixel : weight * millimetre / unit;
        float away = textureLod(tiles, vec3(here / more.yz, more.x), 0.0).r;
        ink = max(ink, as_tone(inked(away, wanted, pixel), wanted, head.w, pixel, fade));
    }
    return ink;
}
