// So much light for every pixel, to be multiplied or added up.
uniform sampler2D light;
uniform float share;
out vec4 picture_colour;

void main() {
    picture_colour = vec4(vec3(texelFetch(light, ivec2(gl_FragCoord.xy), 0).r * share), 1.0);
}
