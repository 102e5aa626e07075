// Included by fragment shaders: cells that clip distances cannot hold, each an intersection of half-spaces.
#ifdef CELLS
uniform sampler2D cells;  // a row for each plane: normal and offset; 1 where the plane is the last of its cell
uniform int first_cell;
uniform int cell_rows;
uniform float play;       // metres, as in common.glsl
#endif

void cut_away_rest(vec3 position) {
#ifdef CELLS
    bool inside = true;
    for (int i = first_cell; i < first_cell + cell_rows; ++i) {
        vec4 plane = texelFetch(cells, ivec2(0, i), 0);
        inside = inside && dot(plane.xyz, position) > plane.w - play;
        if (texelFetch(cells, ivec2(1, i), 0).x > 0.5) {
            if (inside) discard;
            inside = true;
        }
    }
#endif
}
