// Shared by every vertex shader. Positions are metres relative to the centre of the building.
uniform mat4 view;
uniform mat4 projection;
uniform vec4 window;      // scale xy and shift zw of clip space: the tile being drawn, and the jitter of the sample
uniform vec2 picture;     // width and height in pixels of the whole picture, of which a tile may be a part
uniform float pixel;      // metres one pixel spans: in a parallel view everywhere, in a perspective at 1 m distance
uniform bool parallel;
uniform vec4 planes[8];   // normal and offset: what lies beyond the offset along the normal is cut away
uniform int plane_count;

out float gl_ClipDistance[8];

float pixel_at(vec3 seen) {
    return parallel ? pixel : pixel * max(-seen.z, 1e-3);
}

// Clip coordinates of a point in camera coordinates, its depth drawn nearer by some pixels' worth of metres, so that
// lines and cut faces win over the surfaces they lie on, at any distance and scale.
vec4 to_clip(vec3 seen, float nearer) {
    vec4 clip = projection * vec4(seen, 1.0);
    float shift = nearer * pixel_at(seen);
    // What lies beside or behind the eye is left as it is, for the clipper to cut.
    if (shift == 0.0 || (!parallel && seen.z + shift > -1e-3)) return clip;
    vec4 shifted = projection * vec4(seen.xy, seen.z + shift, 1.0);
    clip.z = shifted.z / shifted.w * clip.w;
    return clip;
}

vec4 place(vec4 clip) {
    clip.xy = clip.xy * window.xy + window.zw * clip.w;
    return clip;
}

// Cut away what lies before the planes. A tenth of a millimetre of play lets a face that lies exactly in
// a plane go, so that it never flickers against the cut face.
void cut_away(vec3 position) {
    for (int i = 0; i < 8; ++i) {
        gl_ClipDistance[i] = i < plane_count ? planes[i].w - dot(planes[i].xyz, position) - 1e-4 : 1.0;
    }
}
