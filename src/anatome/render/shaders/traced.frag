// Light that was found by following rays, at evenly spaced places of the whole picture: of those near a pixel the mean, as far
// as they lie in the same plane and face the same way.
uniform sampler2D depth;
uniform sampler2D factor;     // what light leaves of colours; and whether there is any
uniform sampler2D place;      // where it falls, from the centre of what is drawn
uniform sampler2D facing;
uniform mat4 unprojection;
uniform vec4 window;          // as in common.glsl
uniform vec2 size;            // pixels of the tile
uniform vec2 divisor;
uniform vec2 clip_depth;
uniform float pixel;
out vec4 picture_colour;

vec2 flat_at(vec2 uv) {
    return ((uv * 2.0 - 1.0) - window.zw) / window.xy;
}

vec3 place_at(vec2 uv) {
    vec4 seen = unprojection * vec4(flat_at(uv), texture(depth, uv).r * 2.0 - 1.0, 1.0);
    return seen.xyz / seen.w;
}

void main() {
    vec2 uv = gl_FragCoord.xy / size, one = 1.0 / size;
    float z = texture(depth, uv).r;
    if (z >= 1.0) { picture_colour = vec4(1.0); return; }
    z = z * 2.0 - 1.0;
    float far = (z * divisor.x - clip_depth.y) / (clip_depth.x - z * divisor.y);
    vec3 here = place_at(uv);
    vec3 east = place_at(uv + vec2(one.x, 0.0)) - here, west = here - place_at(uv - vec2(one.x, 0.0));
    vec3 north = place_at(uv + vec2(0.0, one.y)) - here, south = here - place_at(uv - vec2(0.0, one.y));
    vec3 across = dot(east, east) < dot(west, west) ? east : west;
    vec3 upward = dot(north, north) < dot(south, south) ? north : south;
    vec3 normal = normalize(cross(across, upward));
    ivec2 count = textureSize(factor, 0);
    vec2 at = (flat_at(uv) * 0.5 + 0.5) * vec2(count) - 0.5;
    // Metres from one place to the next, on a surface that is seen straight.
    float apart = pixel * max(divisor.x + divisor.y * far, 1e-4) * size.y * window.y / float(count.y);
    ivec2 low = ivec2(floor(at));
    vec3 sum = vec3(0.0);
    float weights = 0.0;
    for (int y = -1; y <= 2; ++y) {
        for (int x = -1; x <= 2; ++x) {
            ivec2 tap = clamp(low + ivec2(x, y), ivec2(0), count - 1);
            vec4 light = texelFetch(factor, tap, 0);
            vec3 side = texelFetch(facing, tap, 0).xyz;
            vec2 off = abs(vec2(low + ivec2(x, y)) - at) * 0.5;
            float near = (1.0 - min(off.x, 1.0)) * (1.0 - min(off.y, 1.0));
            float plane = abs(dot(side, texelFetch(place, tap, 0).xyz - here)) / (apart + 1e-6);
            float weight = light.a * near * near * (exp2(-2.0 * plane) * pow(max(abs(dot(side, normal)), 0.0), 6.0) + 1e-5);
            sum += weight * light.rgb;
            weights += weight;
        }
    }
    picture_colour = vec4(weights > 0.0 ? sum / weights : vec3(1.0), 1.0);
}
