in float dark;
uniform vec3 ink;
out vec4 picture_colour;

void main() {
    picture_colour = vec4(ink, 1.0) * dark;
}
