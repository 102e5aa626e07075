#include "common.glsl"
in vec3 position;
in vec4 normal;
in uint element;
in uint style;
uniform usampler2D elements;  // a row for each element: marks, and its style if it is not its own
uniform sampler2D palette;    // the colour of each style
uniform vec3 light;           // towards the light
uniform vec3 up;
uniform vec4 tones;           // light on what faces up, the light, away from it, and down
uniform vec4 tint;            // of what is picked, and how strong
uniform float numbered;       // draw the number of the element plus one instead
uniform vec4 veil;            // of a ghost: what its faces are drawn with instead of their own colour
flat out vec4 shade;
#ifdef FINE
uniform vec4 recede;          // depths of the near and the far end, metres; how much lines recede; how much haze there is at the far end
out vec3 where;
out vec3 sight;               // towards the eye
out float away;               // 0 at the near end, 1 at the far one
flat out vec3 facing;
flat out vec3 upright;
flat out int pattern;
flat out float clearness;
flat out float roomy;         // has the colour of the room it looks into
flat out float toned;
flat out int own_style;       // −1 where it has another one
flat out int own_element;     // or, where it is picked, less than none
#endif
#ifdef CELLS
out vec3 at;
#endif

ivec2 row(uint number) {
    return ivec2(number & 1023u, number >> 10u);
}

void main() {
    uvec4 own = texelFetch(elements, row(element), 0);
    uint other = own.y | own.z << 8u | own.w << 16u;
    vec4 colour = texelFetch(palette, row(other == 0u ? style : other - 1u), 0);
    vec3 outward = unpacked(normal);
    float side = dot(outward, to_eye(position)) < 0.0 ? -1.0 : 1.0;
    // Three clear tones, one for each way a face may look, and one for ceilings; what lies between is between.
    float rises = dot(outward * side, up);
    vec3 level = light - up * dot(light, up);
    float towards = dot(outward * side, level) / max(length(level), 1e-3);
    float tone = mix(tones.z, tones.y, smoothstep(-0.35, 0.65, towards));
    tone = rises > 0.0 ? mix(tone, tones.x, smoothstep(0.25, 0.8, rises)) : mix(tone, tones.w, smoothstep(0.25, 0.8, -rises));
    vec3 lit = colour.rgb * tone;
    bool picked = (own.x & 1u) != 0u;
#ifdef FINE
    where = position;
    sight = to_eye(position);
    away = clamp((dot(depth_row, vec4(position, 1.0)) - recede.x) / max(recede.y - recede.x, 1e-3), 0.0, 1.5);
    facing = outward * side;
    upright = up;
    pattern = int(own.x >> 1u) - 1;
    clearness = 1.0 - colour.a;
    roomy = other == 0u && !picked && colour.a > 0.98 ? 1.0 : 0.0;
    toned = tone;
    own_style = other == 0u && !picked ? int(style) : -1;
    own_element = picked ? -1 - int(element) : int(element);
#endif
    float alpha = picked ? max(colour.a, tint.a) : colour.a;
    shade = vec4((picked ? mix(lit, tint.rgb, tint.a) : lit) * alpha, alpha);
    if (veil.a > 0.0) shade = picked ? vec4(tint.rgb, 1.0) * 0.5 : vec4(veil.rgb, 1.0) * veil.a;
    if (numbered > 0.5) {
        uint number = element + 1u;
        shade = vec4(number & 255u, number >> 8u & 255u, number >> 16u & 127u, 255u) / 255.0;
    }
#ifdef CELLS
    at = position;
#endif
    cut_away(position);
    gl_Position = place(to_clip(position, 0.0));
}
