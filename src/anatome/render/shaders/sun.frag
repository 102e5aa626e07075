// Cast shadows: whether the sun sees the surface that is seen at a pixel, from its own depth picture.
uniform sampler2D depth;
uniform sampler2D sun_depth;
uniform mat4 unprojection;
uniform mat4 sun_matrix;      // to the sun's clip coordinates
uniform vec4 window;          // as in common.glsl
uniform vec2 size;            // pixels of the tile
uniform vec2 tile;
uniform vec3 sun;             // towards it
uniform float texel;          // metres a pixel of the sun's picture spans
uniform float sun_range;      // metres between its near and far
uniform float spread;         // how far its edge is off its middle, a metre away
uniform float strength;
uniform vec2 divisor;
uniform vec2 clip_depth;
uniform float pixel;
uniform vec4 eye;             // as in common.glsl
uniform float pushed;         // pixels' worth of slope by which surfaces lie behind where they are
uniform int number;
uniform sampler2D before;     // the sum of the light found by samples before this one, and how many those were
uniform int count;
out vec4 picture_colour;

const int PROBES = 4;
const float FARTHEST = 6.0;   // metres of blur at most are looked for

vec3 place_at(vec2 uv) {
    vec2 flat_place = ((uv * 2.0 - 1.0) - window.zw) / window.xy;
    vec4 seen = unprojection * vec4(flat_place, texture(depth, uv).r * 2.0 - 1.0, 1.0);
    return seen.xyz / seen.w;
}

// Integer hash of Jarzynski and Olano (2020), pcg3d.
uvec3 scramble(uvec3 v) {
    v = v * 1664525u + 1013904223u;
    v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
    v ^= v >> 16u;
    v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
    return v;
}

void main() {
    vec2 uv = gl_FragCoord.xy / size, one = 1.0 / size;
    if (texture(depth, uv).r >= 1.0) { picture_colour = vec4(1.0); return; }
    if (count >= 2) {
        // Where the samples before agreed that all of the sun is seen, or nothing of it, this one would say the same.
        float mean = texelFetch(before, ivec2(gl_FragCoord.xy), 0).r / float(count);
        if (mean > 0.999 || mean < 1.001 - strength) { picture_colour = vec4(mean); return; }
    }
    vec3 here = place_at(uv);
    // The nearer neighbour on either side, so that the normal does not bend at an edge.
    vec3 east = place_at(uv + vec2(one.x, 0.0)) - here, west = here - place_at(uv - vec2(one.x, 0.0));
    vec3 north = place_at(uv + vec2(0.0, one.y)) - here, south = here - place_at(uv - vec2(0.0, one.y));
    vec3 across = dot(east, east) < dot(west, west) ? east : west;
    vec3 upward = dot(north, north) < dot(south, south) ? north : south;
    vec3 normal = normalize(cross(across, upward));
    float towards = dot(normal, sun);
    float lit = 0.0;
    if (towards > 0.02) {
        // Off the surface by what a pixel of the sun's picture may be wrong there, and by what it was pushed back.
        float z = texture(depth, uv).r * 2.0 - 1.0;
        float far = (z * divisor.x - clip_depth.y) / (clip_depth.x - z * divisor.y);
        float own_pixel = pixel * max(divisor.x + divisor.y * far, 1e-4);
        float back = pushed * length(cross(normal, normalize(eye.xyz - eye.w * here)));
        vec3 from = here + normal * (texel * (0.8 + 1.2 * sqrt(1.0 - towards * towards)) + (back + 0.35) * own_pixel);
        vec4 clip = sun_matrix * vec4(from, 1.0);
        vec3 seen = clip.xyz / clip.w * 0.5 + 0.5;
        float bias = (texel * 0.6 + 0.004) / sun_range;
        vec3 own = vec3(scramble(uvec3(uvec2(ivec2(gl_FragCoord.xy + tile) + 65536), 11u))) / 4294967295.0;
        float uv_metre = 1.0 / (texel * float(textureSize(sun_depth, 0).x));
        for (int i = 0; i < PROBES; ++i) {
            // The additive recurrence R2 (Roberts, 2018).
            vec2 random = fract(own.xy + vec2(0.7548776662, 0.5698402910) * float(number * PROBES + i));
            float angle = 6.2831853 * random.x, radius = sqrt(random.y);
            // Of the disc of the sun: what stands d metres before is off by d times the spread. A first look says how far.
            vec2 aim = vec2(cos(angle), sin(angle)) * radius;
            float before = (seen.z - texture(sun_depth, seen.xy + aim * min(FARTHEST * spread, 0.4) * uv_metre * 0.5).r) * sun_range;
            float reach = clamp(before, 0.15, FARTHEST) * spread + 0.7 * texel;
            float nearest = texture(sun_depth, seen.xy + aim * reach * uv_metre).r;
            lit += nearest >= seen.z - bias ? 1.0 : 0.0;
        }
        lit /= float(PROBES);
        lit = mix(0.0, lit, smoothstep(0.05, 0.18, towards));
    }
    picture_colour = vec4(vec3(1.0 - strength * (1.0 - lit)), 1.0);
}
