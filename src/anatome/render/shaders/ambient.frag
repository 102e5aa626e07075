// Ambient occlusion: how much of the half-space over a surface is blocked close by, from the depth of what is drawn. Few probes for
// every few pixels, thrown at random; smoothed over by shade_smooth.frag, and averaged over the samples of a picture.
uniform sampler2D depth;
uniform mat4 matrix;      // as in common.glsl
uniform mat4 unprojection;
uniform vec4 depth_row;
uniform vec2 divisor;
uniform vec4 window;      // as in common.glsl
uniform vec2 tile;        // lower left corner of the tile in pixels of the whole picture
uniform vec2 size;        // pixels of the tile
uniform float radius;     // metres
uniform float widest;     // pixels of the picture a probe may reach
uniform float pixel;
uniform int number;       // of the sample
uniform int coarse;       // pixels of the picture across that one probe spans
out vec4 picture_colour;

const int PROBES = 6;

// Where the surface seen at a place of the target lies, and its depth.
vec4 seen_at(vec2 place) {
    float z = texture(depth, place).r * 2.0 - 1.0;
    vec2 flat_place = ((place * 2.0 - 1.0) - window.zw) / window.xy;
    vec4 seen = unprojection * vec4(flat_place, z, 1.0);
    vec3 position = seen.xyz / seen.w;
    return vec4(position, dot(depth_row, vec4(position, 1.0)));
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
    // The middle of the pixel of the picture at this one's lower left corner.
    vec2 uv = (floor(gl_FragCoord.xy) * float(coarse) + 0.5) / size;
    if (texture(depth, uv).r >= 1.0) { picture_colour = vec4(1.0, 1e30, 0.0, 0.0); return; }
    vec4 own_place = seen_at(uv);
    vec3 here = own_place.xyz;
    vec2 step_uv = 1.0 / size;
    // The nearer neighbour on either side, so that the normal does not bend at an edge.
    vec4 east = seen_at(uv + vec2(step_uv.x, 0.0)) - own_place, west = own_place - seen_at(uv - vec2(step_uv.x, 0.0));
    vec4 north = seen_at(uv + vec2(0.0, step_uv.y)) - own_place, south = own_place - seen_at(uv - vec2(0.0, step_uv.y));
    vec3 across = abs(east.w) < abs(west.w) ? east.xyz : west.xyz;
    vec3 upward = abs(north.w) < abs(south.w) ? north.xyz : south.xyz;
    vec3 normal = normalize(cross(across, upward));
    float metres = pixel * max(divisor.x + divisor.y * own_place.w, 1e-3 * divisor.y);
    float reach = min(radius, widest * metres);
    vec3 from = here + normal * metres * 1.5;
    uvec2 place = uvec2(ivec2(floor(gl_FragCoord.xy) * float(coarse) + tile) + 65536);
    vec3 own = vec3(scramble(uvec3(place, 7u))) / 4294967295.0;
    float blocked = 0.0;
    for (int i = 0; i < PROBES; ++i) {
        // The additive recurrence R3 (Roberts, 2018) fills the cube evenly over the samples of a picture.
        vec3 random = fract(own + vec3(0.8191725134, 0.6710436067, 0.5497004779) * float(number * PROBES + i));
        float angle = 6.2831853 * random.x, z = 2.0 * random.y - 1.0;
        vec3 aim = vec3(sqrt(max(1.0 - z * z, 0.0)) * vec2(cos(angle), sin(angle)), z);
        // A point on the sphere about the tip of the normal: directions spread by their cosine to it.
        vec3 probe = from + normalize(normal + aim * 0.98) * reach * (0.08 + 0.92 * random.z);
        vec4 clip = matrix * vec4(probe, 1.0);
        vec2 there = (clip.xy / clip.w * window.xy + window.zw) * 0.5 + 0.5;
        if (clip.w <= 0.0 || any(lessThan(there, vec2(0.0))) || any(greaterThan(there, vec2(1.0)))) continue;
        float before = dot(depth_row, vec4(probe, 1.0)) - seen_at(there).w;
        blocked += step(metres * 0.5, before) * smoothstep(2.0, 1.0, before / reach);
    }
    picture_colour = vec4(1.0 - blocked / float(PROBES), own_place.w, 0.0, 0.0);
}
