in vec2 over;
uniform float radius;
uniform vec2 middle;
uniform vec4 footprint_box;      // lower and upper corner of the shadow texture, metres
uniform sampler2D footprint;
uniform vec3 ink;
out vec4 picture_colour;

void main() {
    float edge = 1.0 - smoothstep(0.55, 1.0, distance(over, middle) / radius);
    vec2 uv = (over - footprint_box.xy) / (footprint_box.zw - footprint_box.xy);
    float shadow = texture(footprint, uv).r;
    picture_colour = vec4(ink, 1.0) * (edge * 0.26 * shadow);
}
