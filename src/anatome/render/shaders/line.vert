// A line of constant width on the picture: each segment is a quad in the plane of the screen.
#include "common.glsl"
in vec3 first;
in vec3 second;
uniform float width;      // pixels
uniform float nearer;
uniform float fades_under;  // pixels: shorter lines grow fainter, so that small detail far off does not clot
uniform bool cut_lines;   // lines of a cut face lie in their plane and are not cut away
out vec3 at;
noperspective out vec2 here;   // pixels
flat out vec2 from;
flat out vec2 to;
flat out float strength;

void main() {
    vec3 a = (view * vec4(first, 1.0)).xyz;
    vec3 b = (view * vec4(second, 1.0)).xyz;
    gl_Position = vec4(0.0, 0.0, 2.0, 1.0);
    at = first;
    here = from = to = vec2(0.0);
    strength = 1.0;
    for (int i = 0; i < 8; ++i) gl_ClipDistance[i] = 1.0;
    const float nearest = -0.01;
    vec3 p = first, q = second;
    if (!parallel) {
        if (a.z > nearest && b.z > nearest) return;
        if (a.z > nearest) { float t = (nearest - b.z) / (a.z - b.z); a = mix(b, a, t); p = mix(q, p, t); }
        if (b.z > nearest) { float t = (nearest - a.z) / (b.z - a.z); b = mix(a, b, t); q = mix(p, q, t); }
    }
    vec4 clip_a = to_clip(a, nearer), clip_b = to_clip(b, nearer);
    vec2 pixels = picture * 0.5;
    from = clip_a.xy / clip_a.w * pixels;
    to = clip_b.xy / clip_b.w * pixels;
    vec2 along = to - from;
    float length_px = length(along);
    along = length_px > 1e-6 ? along / length_px : vec2(1.0, 0.0);
    strength = mix(0.2, 1.0, smoothstep(0.0, max(fades_under, 1e-6), length_px + 1e-6));
    if (fades_under > 0.0) {
        // So do lines far off, where a pixel spans more than some centimetres and courses of tiles run together.
        float metres = pixel_at(0.5 * (a + b)) * picture.y / 800.0;
        strength *= clamp(0.02 / metres, 0.22, 1.0);
    }
    vec2 across = vec2(-along.y, along.x);
    int corner = gl_VertexID & 3;
    bool at_end = corner >= 2;
    float side = (corner & 1) == 0 ? -1.0 : 1.0;
    vec4 clip = at_end ? clip_b : clip_a;
    float reach = 0.5 * width;
    here = (at_end ? to + along * reach : from - along * reach) + across * side * reach;
    clip.xy = here / pixels * clip.w;
    at = at_end ? q : p;
    if (!cut_lines) cut_away(at);
    gl_Position = place(clip);
}
