#include "common.glsl"
in vec3 position;
in vec4 normal;
in uint element;
in uint style;
uniform usampler2D elements;  // a row for each element: marks, and its style if it is not its own
uniform sampler2D palette;    // the colour of each style
uniform vec3 light;           // towards the light
uniform vec3 up;
uniform float calm;           // how far colours move towards white
uniform vec4 tint;            // of what is picked, and how strong
uniform float numbered;       // draw the number of the element plus one instead
uniform vec4 veil;            // of a ghost: what its faces are drawn with instead of their own colour
flat out vec4 shade;
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
    float key = max(dot(outward * side, light), 0.0);
    float sky = 0.5 + 0.5 * dot(outward, up) * side;
    // Models come in loud colours; the picture takes a quarter of the loudness out and moves them towards white.
    vec3 quiet = mix(vec3(dot(colour.rgb, vec3(0.299, 0.587, 0.114))), colour.rgb, 0.75);
    vec3 lit = min(mix(quiet, vec3(1.0), calm) * (0.60 + 0.27 * key + 0.15 * sky), vec3(1.0));
    bool picked = (own.x & 1u) != 0u;
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
