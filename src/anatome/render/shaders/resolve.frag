// The mean of the samples, on paper (or on nothing, where paper is clear).
in vec2 uv;
uniform sampler2D sum;
uniform float share;
uniform vec4 paper;
uniform vec4 sky;      // what the paper becomes towards the top
uniform float solid;   // how much of what was there it takes, where that is blended
uniform vec2 heights;  // of this part in the whole picture, its lower and its upper edge, 0 to 1
out vec4 picture_colour;

void main() {
    vec4 mean = texture(sum, uv) * share;
    vec4 under = mix(paper, sky, smoothstep(0.25, 1.0, mix(heights.x, heights.y, uv.y)));
    picture_colour = (mean + under * (1.0 - mean.a)) * solid;
}
