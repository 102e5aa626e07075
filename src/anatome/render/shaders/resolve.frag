// The mean of the samples, on paper (or on nothing, where paper is clear).
in vec2 uv;
uniform sampler2D sum;
uniform float share;
uniform vec4 paper;
out vec4 picture_colour;

void main() {
    vec4 mean = texture(sum, uv) * share;
    picture_colour = mean + paper * (1.0 - mean.a);
}
