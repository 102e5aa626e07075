// Depth of another target with larger pixels: within a face, on its plane; elsewhere the farthest round each place, so that what
// larger pixels cover beyond an edge hides no line that runs along it.
in vec2 uv;
uniform sampler2D depth;
out vec4 picture_colour;

const float PLANE = 0.02;  // by how much of their range four depths may lie off a plane and still be one face

void main() {
    vec4 four = textureGather(depth, uv);  // upper left, upper right, lower right, lower left
    vec2 at = fract(uv * vec2(textureSize(depth, 0)) - 0.5);
    float low = min(min(four.x, four.y), min(four.z, four.w)), high = max(max(four.x, four.y), max(four.z, four.w));
    float off = abs(four.x + four.z - four.y - four.w);
    float within = mix(mix(four.w, four.z, at.x), mix(four.x, four.y, at.x), at.y);
    picture_colour = vec4(0.0);
    gl_FragDepth = off <= PLANE * (high - low) + 1e-7 ? within : high;
}
