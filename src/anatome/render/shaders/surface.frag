#include "cells.glsl"
#ifdef CELLS
in vec3 at;
#endif
flat in vec4 shade;
#ifdef FINE
#include "hatching.glsl"
in vec3 where;
in vec3 sight;
in float away;
flat in vec3 facing;
flat in vec3 upright;
flat in int pattern;
flat in float clearness;
flat in float roomy;
flat in float toned;
flat in int own_style;
flat in int own_element;
uniform sampler2DArray textures; // that the model brings
uniform sampler2D maps;          // three texels a style: how places lie on its picture, and which that is
uniform sampler2DArray pictures; // that the look lays on
uniform sampler2D laid;          // four texels an element: which of them, its size, its level turn; by what it is laid, how many times as
                                 // large, turned how; shifted; along what
uniform int textured;
uniform int pictured;
uniform int turned;              // level surfaces follow the edges of their own element
uniform sampler2D rooms;    // a row for each: lower and upper corner, colour
uniform int room_count;
uniform vec4 pattern_ink;   // and how strong
uniform float pattern_line; // pixels
uniform vec4 haze;          // the paper, and how much of it there is at the far end
uniform vec4 sky;           // what glass shows, and how much of it

const float BEFORE = 0.08;   // metres before a surface that are asked which room they lie in
const float BEYOND = 0.03;   // metres by which rooms reach beyond what is said of them

// The colour of the first room that holds a place; nothing where none does.
vec4 room_at(vec3 place) {
    for (int i = 0; i < room_count; ++i) {
        vec3 low = texelFetch(rooms, ivec2(0, i), 0).xyz, high = texelFetch(rooms, ivec2(1, i), 0).xyz;
        if (all(greaterThan(place, low - BEYOND)) && all(lessThan(place, high + BEYOND)))
            return vec4(texelFetch(rooms, ivec2(2, i), 0).rgb, 1.0);
    }
    return vec4(0.0);
}

const float LEVEL = 0.25;   // a surface that rises less than that is laid along its own level edges

vec4 row_of(sampler2D table, int number) {
    return texelFetch(table, ivec2(number & 1023, number >> 10), 0);
}

const float SQUARE = 0.94, END_ON = 0.3;   // as laying.py has them

int element_here() { return own_element < 0 ? -1 - own_element : own_element; }

// A place on the surface: level across, and up the wall or the slope.
vec2 on_surface(vec3 normal) {
    vec3 across = cross(upright, normal);
    if (length(across) < LEVEL) {
        float turn = turned != 0 ? row_of(laid, 4 * element_here()).w : 0.0;
        across = vec3(cos(turn), sin(turn), 0.0);
    } else across = normalize(across);
    return vec2(dot(where, across), dot(where, cross(normal, across)));
}

// The same as what lies on it is laid there.
vec2 laid_at(vec3 normal) {
    if (turned == 0) return on_surface(normal);
    int row = 4 * element_here();
    vec4 how = row_of(laid, row + 1);
    vec2 at;
    float turn = row_of(laid, row).w;
    vec3 first = vec3(cos(turn), sin(turn), 0.0), second = vec3(-sin(turn), cos(turn), 0.0);
    vec3 faces = abs(vec3(dot(first, normal), dot(second, normal), normal.z));
    vec3 axis = row_of(laid, row + 3).xyz, own = axis - normal * dot(axis, normal);
    if (how.x > 1.5 && length(own) >= END_ON) {
        vec3 across = normalize(own);
        at = vec2(dot(where, across), dot(where, cross(normal, across)));
    } else if (how.x > 0.5 && how.x < 1.5 && max(faces.x, max(faces.y, faces.z)) >= SQUARE) {
        // Along both axes at once: so joints meet at upright corners.
        at = faces.z >= SQUARE ? vec2(dot(where, first), dot(where, second)) : vec2(dot(where, first + second), where.z);
    } else at = on_surface(normal);
    at = vec2(dot(at, how.zw), dot(at, vec2(-how.w, how.z)));
    return at / how.y - row_of(laid, row + 2).xy;
}
#endif
#ifdef FINE
const float LOUDNESS = 0.75, CALM = 0.22;  // as the colours of a model are calmed where it is drawn as modelled

// What lies on the surface: the picture of a style, or one laid on over it. Its alpha says whether there is any.
vec4 picture_on(vec3 normal) {
    vec2 at = vec2(0.0);
    int which = -1;
    bool own = false;
    if (textured != 0 && own_style >= 0) {
        which = int(row_of(maps, 3 * own_style + 2).x);
        vec4 place = vec4(where, 1.0);
        at = vec2(dot(row_of(maps, 3 * own_style), place), dot(row_of(maps, 3 * own_style + 1), place));
        own = which >= 0;
    }
    if (pictured != 0 && own_element >= 0) {
        vec4 over = row_of(laid, 4 * own_element);
        if (over.x >= 0.0) { which = int(over.x); at = laid_at(normal) / over.yz; own = false; }
    }
    vec2 across = dFdx(at), upward = dFdy(at);
    if (which < 0) return vec4(0.0);
    vec3 found = own ? textureGrad(textures, vec3(at, float(which)), across, upward).rgb
                     : textureGrad(pictures, vec3(at, float(which)), across, upward).rgb;
    if (own) {
        float grey = dot(found, vec3(0.299, 0.587, 0.114));
        found = mix(mix(vec3(grey), found, LOUDNESS), vec3(1.0), CALM);
    }
    return vec4(found, 1.0);
}
#endif
out vec4 picture_colour;

void main() {
#ifdef CELLS
    cut_away_rest(at);
#endif
    vec4 shown = shade;
#ifdef FINE
    vec3 normal = normalize(facing);
    if (roomy > 0.0 && room_count > 0) {
        vec4 room = room_at(where + normal * BEFORE);
        if (room.a > 0.0) shown.rgb = room.rgb * toned * shown.a;
    }
    if (textured + pictured > 0) {
        vec4 over = picture_on(normal);
        if (over.a > 0.0) shown.rgb = over.rgb * toned * shown.a;
    }
    if (pattern >= 0) {
        float ink = hatched(laid_at(normal), pattern, 1.0, -pattern_line, true, vec2(1.0, 0.0)) * pattern_ink.a;
        shown.rgb = mix(shown.rgb, pattern_ink.rgb * shown.a, ink);
    }
    if (clearness > 0.02 && sky.a > 0.0) {
        vec3 to = normalize(sight);
        // Schlick's approximation, with its exponent softened; and the slanting glint of drawings.
        float glancing = pow(1.0 - abs(dot(to, normal)), 3.0);
        float high = smoothstep(-0.2, 0.9, dot(reflect(-to, normal), upright));
        vec2 here = on_surface(normal);
        float glint = smoothstep(0.0, 0.04, fract((here.x + here.y) / 1.3) - 0.55);
        float seen = sky.a * clearness * clamp(0.10 + 0.25 * high + 0.35 * glint + 0.6 * glancing, 0.0, 1.0);
        shown = shown * (1.0 - seen) + vec4(sky.rgb, 1.0) * seen;
    }
    shown.rgb = mix(shown.rgb, haze.rgb * shown.a, clamp(haze.a * away, 0.0, MOST_HAZE));
#endif
    picture_colour = shown;
}
