import { BackSide, Color, DoubleSide, FrontSide, ShaderMaterial, Vector2, Vector4 } from 'three';

import type { ChartColours } from '../app/theme';

const VERTEX = /* glsl */ `
  attribute float wall;
  attribute float fold;
  varying float vWall;
  varying float vFold;
  varying vec3 vNormal;
  varying vec3 vView;
  void main() {
    vWall = wall;
    vFold = fold;
    vNormal = normalMatrix * normal;
    vec4 view = modelViewMatrix * vec4(position, 1.0);
    vView = view.xyz;
    gl_Position = projectionMatrix * view;
  }
`;

const FRAGMENT = /* glsl */ `
  #define MOST_REGIONS 120
  uniform vec3 shoals[4];
  uniform vec3 stone;
  uniform vec3 ink;
  uniform vec3 mark;
  uniform vec3 paper;
  uniform vec4 levels;
  uniform float tinted;
  uniform float painted;
  uniform vec3 palette[MOST_REGIONS];
  uniform float faceted;
  uniform float opacity;
  varying float vWall;
  varying float vFold;
  varying vec3 vNormal;
  varying vec3 vView;

  float contour(float level) {
    float width = max(fwidth(vWall), 1e-5);
    // Where the wall jumps there is a step, not a contour.
    if (width > 0.2 * level) return 0.0;
    return 1.0 - smoothstep(0.5, 1.3, abs(vWall - level) / width);
  }

  void main() {
    vec3 flatNormal = normalize(cross(dFdx(vView), dFdy(vView)));
    // No shade runs round a fold into the face.
    bool asItLies = faceted > 0.5 || vFold > 0.001;
    vec3 n = asItLies ? flatNormal : normalize(vNormal) * (gl_FrontFacing ? 1.0 : -1.0);
    if (dot(n, vec3(0.0, 0.0, 1.0)) < 0.0) n = -n;
    vec3 colour = stone;
    if (tinted > 0.5) {
      if (vWall < levels.w) colour = shoals[3];
      if (vWall < levels.z) colour = shoals[2];
      if (vWall < levels.y) colour = shoals[1];
      if (vWall < levels.x) colour = shoals[0];
    }
    if (painted > 0.5 && vWall < 1000.0) colour = palette[int(vWall + 0.5)];
    float light = 0.74 + 0.3 * clamp(dot(n, normalize(vec3(-0.4, 0.55, 0.7))), 0.0, 1.0);
    colour *= light;
    if (tinted > 0.5) {
      float line = max(max(contour(levels.x), contour(levels.y)), max(contour(levels.z), contour(levels.w)));
      colour = mix(colour, ink, 0.55 * line);
    }
    // The inside of the surface: hatched, since it should not be seen.
    if (!gl_FrontFacing) {
      float hatch = step(0.72, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
      colour = mix(paper, mark, hatch);
    }
    // A fold seen edge-on is inked.
    float rim = smoothstep(0.30, 0.12, abs(n.z));
    gl_FragColor = vec4(mix(colour, ink, asItLies ? 0.0 : 0.8 * rim), opacity);
    #include <colorspace_fragment>
  }
`;

const OUTLINE_VERTEX = /* glsl */ `
  uniform vec2 pixel;
  varying vec2 vPlace;
  void main() {
    vPlace = (modelViewMatrix * vec4(position, 1.0)).xy;
    vec4 place = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
    vec2 outward = normalize((normalMatrix * normal).xy + 1e-6);
    place.xy += outward * pixel * 1.5 * place.w;
    place.z += 0.0006 * place.w;
    gl_Position = place;
  }
`;

const OUTLINE_FRAGMENT = /* glsl */ `
  uniform vec3 ink;
  uniform float dash;
  varying vec2 vPlace;
  void main() {
    if (dash > 0.0 && fract((gl_FragCoord.x - gl_FragCoord.y) / dash) > 0.6) discard;
    // A sliver that only being moved outward turned over is no back.
    vec2 across = dFdx(vPlace), up = dFdy(vPlace);
    if (across.x * up.y - across.y * up.x < 0.0) discard;
    gl_FragColor = vec4(ink, 1.0);
    #include <colorspace_fragment>
  }
`;

const colour = (hex: string) => new Color(hex);

/** Walls in figure mm, rising, at which the depth tints change. */
export type Levels = [number, number, number, number];

const GHOSTED = 0.42;
/** As the plan may have, and as the shader says. */
const MOST_REGIONS = 120;

/** Stone with depth tints and contour lines where walls are thin; the inside of the surface is hatched. Ghosted, what
 * lies under it shows through. With a palette regions have their colours, by the numbers that stand for walls. */
export function surfaceMaterial(
  levels: Levels | null,
  faceted: boolean,
  chart: ChartColours,
  ghosted = false,
  palette?: string[],
): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: ghosted ? FrontSide : DoubleSide,
    transparent: ghosted,
    depthWrite: !ghosted,
    // Lines on the skin lie before it.
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
    uniforms: {
      opacity: { value: ghosted ? GHOSTED : 1 },
      shoals: { value: chart.shoals.map(colour) },
      stone: { value: colour(chart.stone) },
      ink: { value: colour(chart.ink) },
      mark: { value: colour(chart.mark) },
      paper: { value: colour(chart.paper) },
      levels: { value: new Vector4(...(levels ?? [0, 0, 0, 0])) },
      tinted: { value: levels ? 1 : 0 },
      painted: { value: palette ? 1 : 0 },
      palette: { value: Array.from({ length: MOST_REGIONS }, (_, k) => colour(palette?.[k] ?? chart.stone)) },
      faceted: { value: faceted ? 1 : 0 },
    },
  });
}

const DASH_PX = 18;

/** The ink outline: the back of the figure, a pixel and a half larger. What is only proposed is outlined in dashes of
 * the mark's colour, twice as wide. */
export function outlineMaterial(
  width: number,
  height: number,
  chart: ChartColours,
  proposed = false,
): ShaderMaterial {
  const pixels = proposed ? 4 : 2;
  return new ShaderMaterial({
    vertexShader: OUTLINE_VERTEX,
    fragmentShader: OUTLINE_FRAGMENT,
    side: BackSide,
    uniforms: {
      ink: { value: colour(proposed ? chart.mark : chart.ink) },
      dash: { value: proposed ? DASH_PX : 0 },
      pixel: { value: new Vector2(pixels / width, pixels / height) },
    },
  });
}
