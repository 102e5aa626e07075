// The picture in another look, where it lies on the other side of the divide.
uniform sampler2D other;
uniform sampler2D depth;
uniform sampler2D numbers;    // of elements and one more, in red, green and blue
uniform sampler2D marks;      // a row for each element: red where it has the other look
uniform int way;              // 0 a line, 1 a depth, 2 parts
uniform vec3 line;            // its distance to the right, in pixels: its product with x, y and 1
uniform float beyond;         // metres
uniform vec2 divisor;
uniform vec2 clip_depth;
uniform vec4 paper;           // under the other look, or nothing
uniform vec4 sky;             // what that becomes towards the top, as in resolve.frag
uniform vec2 rows;            // of the whole picture: the lowest one of this target, and how many there are
out vec4 picture_colour;

void main() {
    ivec2 here = ivec2(gl_FragCoord.xy);
    bool there = dot(line, vec3(gl_FragCoord.xy, 1.0)) > 0.0;
    if (way == 1) {
        float stored = texelFetch(depth, here, 0).r, z = stored * 2.0 - 1.0;
        there = stored >= 1.0 || (z * divisor.x - clip_depth.y) / (clip_depth.x - z * divisor.y) > beyond;
    } else if (way == 2) {
        uvec3 bytes = uvec3(round(texelFetch(numbers, here, 0).rgb * 255.0));
        uint number = bytes.r | bytes.g << 8u | (bytes.b & 127u) << 16u;
        there = number > 0u && texelFetch(marks, ivec2((number - 1u) & 1023u, (number - 1u) >> 10u), 0).r > 0.5;
    }
    if (!there) discard;
    vec4 shown = texelFetch(other, here, 0);
    vec4 under = mix(paper, sky, smoothstep(0.25, 1.0, (gl_FragCoord.y + rows.x) / rows.y));
    picture_colour = shown + under * (1.0 - shown.a);
}
