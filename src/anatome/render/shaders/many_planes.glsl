// Included by fragment shaders: cuts beyond the eight that clip distances hold.
uniform vec4 planes[32];
uniform int plane_count;

void cut_away_rest(vec3 position) {
#ifdef MANY_PLANES
    for (int i = 8; i < plane_count; ++i) {
        if (dot(planes[i].xyz, position) > planes[i].w - 1e-4) discard;
    }
#endif
}
