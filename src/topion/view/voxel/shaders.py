"""GLSL 3.30 of the voxel view."""

from __future__ import annotations

from topion.render.lighting import SKY


def with_features(source: str, *features: str) -> str:
    """A shader with parts switched on: CUT for rooms that are cut, PICTURES for pictured faces.

    What discards cannot be tested for depth before it is shaded, so nothing does without need.
    """
    first, rest = source.split("\n", 1)
    return "\n".join((first, *(f"#define {feature}" for feature in features), rest))


_LIGHT = f"""
uniform vec3 sun;  // towards it
uniform vec3 direct;
uniform vec3 ambient;
uniform float corners;  // how dark they are
uniform vec4 view;  // forward, and how far the eye lies along it
uniform vec3 haze;  // how thick, where it begins, and where it is thickest
vec3 light(vec3 normal) {{
    return ambient + direct * max(dot(normal, sun), 0.0) + {SKY:.3f} * normal.z;
}}
float open_in(float corner) {{ return 1.0 - (1.0 - corner) * corners; }}
float hazed_at(vec3 place) {{
    float deep = dot(view.xyz, place) - view.w;
    return haze.x * clamp((deep - haze.y) / max(haze.z - haze.y, 1e-6), 0.0, 1.0);
}}
const vec3 NORMALS[6] = vec3[6](
    vec3(0, 0, 1), vec3(0, 0, -1), vec3(0, -1, 0), vec3(1, 0, 0), vec3(0, 1, 0), vec3(-1, 0, 0));
"""

# What lies beyond the cut is left out (mode 1) or drawn as a screen of dots (mode 2).
_CUT = """
uniform vec4 cut;  // n · p > w lies beyond
uniform int cut_mode;
bool left_out(vec3 at) {
    if (cut_mode == 0 || dot(cut.xyz, at) <= cut.w) return false;
    if (cut_mode == 1) return true;
    ivec2 dot_at = ivec2(gl_FragCoord.xy) & 3;
    return ((dot_at.x + 2 * dot_at.y) & 3) != 0;
}
"""

CELLS_VERTEX = (
    """#version 330 core
in uvec3 in_at;
in uint in_layer;
in vec4 in_colour;  // r, g, b and how open the corner is
in uint in_face;
in uint in_quarter;
uniform mat4 matrix;
uniform vec3 corner;
uniform vec3 frames[48];  // right and down of pictures, by side and quarter
out vec3 at;
out vec3 colour;
out vec2 place;
out float hazed;
flat out float layer;
"""
    + _LIGHT
    + """
void main() {
    at = vec3(in_at) + corner;
    gl_Position = matrix * vec4(at, 1.0);
    colour = open_in(in_colour.w) * light(NORMALS[in_face]);
    hazed = hazed_at(at);
    uint frame = (in_face * 4u + in_quarter) * 2u;
    place = vec2(dot(at, frames[frame]), dot(at, frames[frame + 1u]));
    layer = float(in_layer);
#ifdef PICTURES
    if (in_layer == 0u)
#endif
    colour *= in_colour.rgb;
}
"""
)

CELLS_FRAGMENT = (
    """#version 330 core
in vec3 at;
in vec3 colour;
in vec2 place;
in float hazed;
flat in float layer;
uniform vec3 haze_colour;
uniform sampler2DArray pictures;
uniform float smaller;  // which of the smaller pictures suits the size of a cell
out vec4 shown;
"""
    + _CUT
    + """
void main() {
#ifdef CUT
    if (left_out(at)) discard;
#endif
#ifdef PICTURES
    if (layer > 0.5) {
        vec4 found = textureLod(pictures, vec3(fract(place), layer), smaller);
        shown = vec4(mix(found.rgb * colour, haze_colour, hazed), 1.0);
        return;
    }
#endif
    shown = vec4(mix(colour, haze_colour, hazed), 1.0);
}
"""
)

SHAPES_VERTEX = (
    """#version 330 core
in uvec3 in_at;
in vec4 in_colour;
in uint in_face;
in mat3 in_turn;
in vec3 in_place;
in vec4 in_tint;
uniform mat4 matrix;
out vec3 at;
out vec3 colour;
out float hazed;
"""
    + _LIGHT
    + """
void main() {
    at = in_turn * vec3(in_at) + in_place;
    gl_Position = matrix * vec4(at, 1.0);
    vec3 normal = normalize(in_turn * NORMALS[in_face]);
    colour = mix(in_colour.rgb * open_in(in_colour.w) * light(normal), in_tint.rgb, in_tint.a);
    hazed = hazed_at(at);
}
"""
)

SHAPES_FRAGMENT = (
    """#version 330 core
in vec3 at;
in vec3 colour;
in float hazed;
uniform vec3 haze_colour;
out vec4 shown;
"""
    + _CUT
    + """
void main() {
#ifdef CUT
    if (left_out(at)) discard;
#endif
    shown = vec4(mix(colour, haze_colour, hazed), 1.0);
}
"""
)

WASH_VERTEX = """#version 330 core
in uvec3 in_at;
uniform mat4 matrix;
uniform vec3 corner;
void main() { gl_Position = matrix * vec4(vec3(in_at) + corner, 1.0); }
"""

LINES_VERTEX = """#version 330 core
in vec3 in_at;
uniform mat4 matrix;
void main() { gl_Position = matrix * vec4(in_at, 1.0); }
"""

PLAIN_FRAGMENT = """#version 330 core
uniform vec4 colour;
out vec4 shown;
void main() { shown = colour; }
"""

SKY_VERTEX = """#version 330 core
out float height;
void main() {
    vec2 at = vec2((gl_VertexID << 1) & 2, gl_VertexID & 2);
    height = at.y;
    gl_Position = vec4(at * 2.0 - 1.0, 0.0, 1.0);
}
"""

SPREAD_VERTEX = """#version 330 core
out vec2 place;
void main() {
    place = vec2((gl_VertexID << 1) & 2, gl_VertexID & 2);
    gl_Position = vec4(place * 2.0 - 1.0, 0.0, 1.0);
}
"""

# A smaller picture spread over the frame, each of its pixels a square.
SPREAD_FRAGMENT = """#version 330 core
in vec2 place;
uniform sampler2D picture;
out vec4 shown;
void main() { shown = vec4(texture(picture, place).rgb, 1.0); }
"""

SKY_FRAGMENT = """#version 330 core
in float height;
uniform vec3 top;
uniform vec3 foot;
out vec4 shown;
void main() { shown = vec4(mix(foot, top, height), 1.0); }
"""
