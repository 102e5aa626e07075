// Ambient occlusion from a smaller size to the whole, in two rounds: the mean of the probes around, as far as they were thrown from
// the same surface.
uniform sampler2D depth;
uniform sampler2D shade;  // light, and the depth of what it fell on
uniform vec4 window;      // as in common.glsl
uniform vec2 size;        // pixels of the tile
uniform vec2 divisor;
uniform vec2 clip_depth;
uniform float pixel;
uniform float strength;
uniform int coarse;       // pixels of the picture across that one probe spans
uniform float fine;       // the last round: its target is as fine as the picture
out vec4 picture_colour;

const int REACH = 1;      // three by three probes, each for four pixels

// Depth in metres of what is seen at a pixel, from clip z: (a d + b) / (c + e d) = z.
float depth_at(ivec2 place) {
    float z = texelFetch(depth, place, 0).r * 2.0 - 1.0;
    return (z * divisor.x - clip_depth.y) / (clip_depth.x - z * divisor.y);
}

void main() {
    ivec2 here = min(ivec2(gl_FragCoord.xy) * (fine > 0.5 ? 1 : coarse), ivec2(size) - 1);
    if (texelFetch(depth, here, 0).r >= 1.0) { picture_colour = vec4(1.0, 1e30, 1.0, 1.0); return; }
    float own = depth_at(here);
    float metres = pixel * max(divisor.x + divisor.y * own, 1e-3 * divisor.y);
    // How fast the surface recedes, on its flatter side, so that it is told from what stands before or behind it.
    ivec2 most = ivec2(size) - 1;
    float across = min(abs(depth_at(min(here + ivec2(1, 0), most)) - own), abs(depth_at(max(here - ivec2(1, 0), ivec2(0))) - own));
    float upward = min(abs(depth_at(min(here + ivec2(0, 1), most)) - own), abs(depth_at(max(here - ivec2(0, 1), ivec2(0))) - own));
    float play = 2.0 * metres + 1.5 * (across + upward);
    ivec2 middle = here / coarse, last = ivec2(textureSize(shade, 0)) - 1;
    float sum = 0.0, weights = 0.0;
    for (int y = -REACH; y <= REACH; ++y) {
        for (int x = -REACH; x <= REACH; ++x) {
            ivec2 place = clamp(middle + ivec2(x, y), ivec2(0), last);
            vec2 found = texelFetch(shade, place, 0).rg;
            float weight = max(1e-4, 1.0 - abs(found.y - own) / (2.0 * play));
            sum += weight * found.x;
            weights += weight;
        }
    }
    float light = 1.0 - strength * (1.0 - sum / weights);
    picture_colour = fine > 0.5 ? vec4(vec3(light), 1.0) : vec4(light, own, 0.0, 0.0);
}
