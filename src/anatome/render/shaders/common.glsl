// Shared by every vertex shader. Positions are metres relative to the centre of the building, where its parts are at home.
uniform mat4 matrix;      // to clip coordinates
uniform vec4 depth_row;   // depth in metres before the eye: its product with a position
uniform vec2 clip_depth;  // factor and addend that turn depth into clip z
uniform vec2 divisor;     // of clip coordinates: at depth 0, and how much it grows with each metre
uniform vec4 eye;         // where all lines of sight meet: a place with 1, or a direction with 0
uniform vec4 window;      // scale xy and shift zw of clip space: the tile being drawn, and the jitter of the sample
uniform vec2 picture;     // width and height in pixels of the whole picture, of which a tile may be a part
uniform float pixel;      // metres one pixel spans where the divisor is 1

#if PLANES > 0
uniform vec4 planes[PLANES];  // normal and offset: what lies beyond the offset along the normal is cut away
uniform float play;           // metres: a face that lies exactly in a plane goes, so that it never flickers against the cut face
out float gl_ClipDistance[PLANES];
#endif

// Normals come as bytes, shifted into 0..1.
vec3 unpacked(vec4 normal) {
    return normal.xyz * (255.0 / 127.0) - 128.0 / 127.0;
}

vec3 to_eye(vec3 position) {
    return eye.xyz - eye.w * position;
}

// Clip coordinates of a place, its depth drawn nearer by some pixels' worth of metres, so that lines and cut faces win over
// the surfaces they lie on, at any distance and scale.
vec4 to_clip(vec3 position, float nearer) {
    vec4 clip = matrix * vec4(position, 1.0);
    float depth = dot(depth_row, vec4(position, 1.0)) - nearer * pixel * max(clip.w, 1e-3 * divisor.y);
    // What lies beside or behind the eye is left as it is, for the clipper to cut.
    if (nearer == 0.0 || (divisor.y > 0.0 && depth < 1e-3)) return clip;
    clip.z = (clip_depth.x * depth + clip_depth.y) / (divisor.x + divisor.y * depth) * clip.w;
    return clip;
}

vec4 place(vec4 clip) {
    clip.xy = clip.xy * window.xy + window.zw * clip.w;
    return clip;
}

// Cut away what lies before the planes.
void cut_away(vec3 position) {
#if PLANES > 0
    for (int i = 0; i < PLANES; ++i) gl_ClipDistance[i] = planes[i].w - dot(planes[i].xyz, position) - play;
#endif
}
