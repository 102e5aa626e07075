flat in vec4 fill;
out vec4 picture_colour;

void main() {
    picture_colour = vec4(fill.rgb * fill.a, fill.a);
}
