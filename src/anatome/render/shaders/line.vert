// A line of constant width on the picture: each segment is a quad in the plane of the screen. With THIN it is a plain line
// of one pixel, for pictures that move. A line with normals is a silhouette where one of its faces shows and the other does not.
#include "common.glsl"
in vec3 first;
in vec3 second;
in vec4 one_side;           // normals of the two faces; zero beside lines that are always drawn
in vec4 other_side;
uniform float width;        // pixels
uniform float silhouette;   // how many times as wide silhouettes are
uniform float nearer;
uniform float fades_under;  // pixels: shorter lines grow fainter, so that small detail far off does not clot
uniform float faintest;
uniform vec4 recede;        // depths of the near and the far end, metres; how much lines recede between; how much haze there is
flat out float strength;
#ifdef CELLS
out vec3 at;
#endif
#ifndef THIN
noperspective out vec2 here;   // pixels
flat out vec2 from;
flat out vec2 to;
flat out float broad;
#endif

void nowhere() {
    gl_Position = vec4(0.0, 0.0, 2.0, 1.0);
    strength = 0.0;
#ifdef CELLS
    at = first;
#endif
#if PLANES > 0
    for (int i = 0; i < PLANES; ++i) gl_ClipDistance[i] = 1.0;
#endif
#ifndef THIN
    here = from = to = vec2(0.0);
    broad = 0.0;
#endif
}

void main() {
    vec3 n = unpacked(one_side), m = unpacked(other_side);
    bool smooth_edge = dot(n, n) > 0.25;
    if (smooth_edge) {
        vec3 towards = to_eye(0.5 * (first + second));
        if (dot(n, towards) * dot(m, towards) > 0.0) { nowhere(); return; }
    }
    vec3 p = first, q = second;
    float w_p = dot(vec4(matrix[0].w, matrix[1].w, matrix[2].w, matrix[3].w), vec4(p, 1.0));
    float w_q = dot(vec4(matrix[0].w, matrix[1].w, matrix[2].w, matrix[3].w), vec4(q, 1.0));
    float least = 0.01 * divisor.y;  // a centimetre before the eye; in a parallel view nothing lies behind it
    if (w_p < least && w_q < least) { nowhere(); return; }
    if (w_p < least) p = mix(q, p, (w_q - least) / (w_q - w_p));
    else if (w_q < least) q = mix(p, q, (w_p - least) / (w_p - w_q));
    vec4 clip_p = to_clip(p, nearer), clip_q = to_clip(q, nearer);
    vec2 pixels = picture * 0.5;
    vec2 a = clip_p.xy / clip_p.w * pixels, b = clip_q.xy / clip_q.w * pixels;
    vec2 along = b - a;
    float length_px = length(along);
    strength = 1.0;
    if (fades_under > 0.0) {
        strength = mix(faintest, 1.0, smoothstep(0.0, fades_under, length_px));
        // So do lines far off, where a pixel spans more than some centimetres and courses of tiles run together.
        float metres = pixel * 0.5 * (clip_p.w + clip_q.w) * picture.y / 800.0;
        strength *= clamp(0.02 / metres, 0.22, 1.0);
    }
    float depth = dot(depth_row, vec4(0.5 * (p + q), 1.0));
    float away = clamp((depth - recede.x) / max(recede.y - recede.x, 1e-3), 0.0, 1.5);
    strength *= (1.0 - LIGHTER * recede.z * min(away, 1.0)) * (1.0 - min(recede.w * away, MOST_HAZE));
    int corner = gl_VertexID & 3;
    bool at_end = corner >= 2;
    vec4 clip = at_end ? clip_q : clip_p;
    vec3 end = at_end ? q : p;
#ifdef THIN
    if (strength < 0.02) { nowhere(); return; }
#else
    along = length_px > 1e-6 ? along / length_px : vec2(1.0, 0.0);
    float wanted = width * (smooth_edge ? silhouette : 1.0) * (1.0 - THINNER * recede.z * min(away, 1.0));
    // A line cannot be thinner than a pixel; it can be fainter.
    strength *= min(wanted, 1.0);
    broad = max(wanted, 1.0);
    from = a;
    to = b;
    vec2 across = vec2(-along.y, along.x);
    float side = (corner & 1) == 0 ? -1.0 : 1.0;
    float reach = 0.5 * broad;
    here = (at_end ? to + along * reach : from - along * reach) + across * side * reach;
    clip.xy = here / pixels * clip.w;
#endif
#ifdef CELLS
    at = end;
#endif
    cut_away(end);
    gl_Position = place(clip);
}
