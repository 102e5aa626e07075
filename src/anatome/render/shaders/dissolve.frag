// One picture taking the place of another.
uniform sampler2D first;
uniform sampler2D other;
uniform float share;     // of the other
out vec4 picture_colour;

void main() {
    ivec2 here = ivec2(gl_FragCoord.xy);
    picture_colour = mix(texelFetch(first, here, 0), texelFetch(other, here, 0), share);
}
