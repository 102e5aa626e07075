#include "common.glsl"
in vec3 position;
in vec4 normal;           // shifted into 0..1
in vec4 colour;
uniform float nearer;
out vec3 at;
flat out vec4 shade;
uniform vec3 light;       // camera coordinates
uniform float calm;       // how far colours move towards white

void main() {
    vec3 seen = (view * vec4(position, 1.0)).xyz;
    vec3 upright = normal.xyz * 255.0 / 127.0 - 128.0 / 127.0;
    vec3 n = normalize(mat3(view) * upright);
    vec3 to_eye = parallel ? vec3(0.0, 0.0, 1.0) : normalize(-seen);
    float side = dot(n, to_eye) < 0.0 ? -1.0 : 1.0;
    float key = max(dot(n * side, light), 0.0);
    float sky = 0.5 + 0.5 * upright.z * side;
    // Models come in loud colours; the picture takes a quarter of the loudness out and moves them towards white.
    vec3 quiet = mix(vec3(dot(colour.rgb, vec3(0.299, 0.587, 0.114))), colour.rgb, 0.75);
    shade = vec4(mix(quiet, vec3(1.0), calm) * (0.60 + 0.27 * key + 0.15 * sky), colour.a);
    at = position;
    cut_away(position);
    gl_Position = place(to_clip(seen, nearer));
}
