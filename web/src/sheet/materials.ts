import { DoubleSide, ShaderMaterial } from "three";

const VERTEX = /* glsl */ `
attribute float value;
attribute float low;
attribute float high;
attribute float unseen;
attribute float known;
varying vec3 vNormal;
varying float vValue, vLow, vHigh, vUnseen, vKnown;
void main() {
  vNormal = normalize(normalMatrix * normal);
  vValue = value; vLow = low; vHigh = high; vUnseen = unseen; vKnown = known;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

/* Judged ground: neutral where it meets, rust with hatching and 0.1 mm contours where it is short, blue with dots
   where it is over, stippled grey where it was never seen. Only triangles whose corners are all known are judged. */
const FRAGMENT = /* glsl */ `
#define CONTACT_MM 0.05
uniform float uMode;      // 0 plain, 1 judged, 2 room to what stands over it, 3 taken off
uniform float uU;         // expanded uncertainty, mm
uniform float uDim;
varying vec3 vNormal;
varying float vValue, vLow, vHigh, vUnseen, vKnown;

float relief(vec3 n) {
  float lamp = max(dot(n, normalize(vec3(-0.50, 0.62, 0.60))), 0.0);
  float fill = max(dot(n, normalize(vec3(0.7, -0.1, 0.5))), 0.0);
  float slope = n.z;
  return 0.26 + 0.60 * lamp + 0.14 * fill - 0.16 * pow(1.0 - clamp(slope, 0.0, 1.0), 2.0);
}

void main() {
  vec3 n = normalize(vNormal);
  if (!gl_FrontFacing) n = -n;
  float light = relief(n);
  vec3 stone = mix(vec3(0.93, 0.90, 0.83), vec3(0.80, 0.79, 0.74), uDim);
  vec3 colour = stone;
  if (!gl_FrontFacing) colour = vec3(0.62, 0.56, 0.52);
  if (uMode > 0.5) {
    vec2 p = gl_FragCoord.xy;
    if (vUnseen > 0.5) {
      float dots = step(0.62, fract((p.x + p.y) / 9.0)) * step(0.62, fract((p.x - p.y) / 9.0));
      colour = mix(vec3(0.70, 0.70, 0.72), vec3(0.38, 0.38, 0.42), dots);
    } else if (vKnown > 0.999) {
      bool taken = uMode > 2.5;
      bool room = uMode > 1.5 && !taken;
      float missing = taken ? -9.0 : vLow - vValue;
      float excess = taken ? vValue : vValue - vHigh;
      if (missing > uU) {
        float deep = clamp(missing / 0.8, 0.0, 1.0);
        colour = mix(vec3(0.96, 0.76, 0.58), vec3(0.55, 0.13, 0.04), deep);
        float hatch = smoothstep(0.40, 0.5, abs(fract((p.x + p.y) / 12.0) - 0.5));
        colour = mix(colour, colour * 0.80, hatch * 0.8);
        float step10 = missing / 0.1;
        float line = abs(fract(step10 + 0.5) - 0.5) / max(fwidth(step10), 1e-4);
        colour = mix(vec3(0.20, 0.06, 0.02), colour, smoothstep(0.4, 1.3, line));
      } else if (excess > uU) {
        float deep = clamp(excess / 0.8, 0.0, 1.0);
        colour = mix(vec3(0.72, 0.82, 0.93), vec3(0.10, 0.26, 0.55), deep);
        vec2 cell = fract(p / 8.0) - 0.5;
        colour = mix(colour * 0.72, colour, smoothstep(0.16, 0.26, length(cell)));
        float over10 = excess / 0.1;
        float ring = abs(fract(over10 + 0.5) - 0.5) / max(fwidth(over10), 1e-4);
        colour = mix(vec3(0.04, 0.10, 0.26), colour, smoothstep(0.4, 1.3, ring));
      } else if (!taken && (abs(missing) <= uU || abs(excess) <= uU)) {
        float dash = step(0.5, fract(p.y / 6.0));
        colour = mix(vec3(0.93, 0.86, 0.62), stone, 0.45 * dash);
      } else {
        colour = mix(stone, vec3(0.80, 0.89, 0.83), 0.55);
        if (room) {
          // Enough room is a landscape too: lines every half millimetre, fainter with the distance.
          float deep = clamp(vValue / 4.0, 0.0, 1.0);
          colour = mix(vec3(0.74, 0.86, 0.79), stone, deep);
          float half1 = vValue / 0.5;
          float far = abs(fract(half1 + 0.5) - 0.5) / max(fwidth(half1), 1e-4);
          colour = mix(vec3(0.20, 0.36, 0.30), colour, smoothstep(0.3, 1.1, far));
        }
      }
      if (room && vValue < CONTACT_MM) {
        float weave = step(0.5, fract((p.x + p.y) / 6.0)) * step(0.5, fract((p.x - p.y) / 6.0));
        colour = mix(vec3(0.30, 0.12, 0.36), vec3(0.62, 0.48, 0.66), weave);
      }
    }
  }
  gl_FragColor = vec4(colour * light * 1.18, 1.0);
  #include <colorspace_fragment>
}`;

export function judgedMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: DoubleSide,
    uniforms: { uMode: { value: 0 }, uU: { value: 0.03 }, uDim: { value: 0 } },
  });
}

const SHADOW_FRAGMENT = /* glsl */ `
varying vec3 vNormal;
varying float vValue, vLow, vHigh, vUnseen, vKnown;
void main() {
  float missing = vLow - vValue;
  if (vKnown < 0.999 || vUnseen > 0.5 || missing <= 0.0) discard;
  vec2 p = gl_FragCoord.xy;
  float bar = step(0.45, fract((p.x - p.y) / 7.0));
  gl_FragColor = vec4(0.45, 0.11, 0.04, 0.25 + 0.5 * bar);
  #include <colorspace_fragment>
}`;

/** What falls short, seen through everything that hides it: the shadow of an undercut from above. */
export function shadowMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: SHADOW_FRAGMENT,
    transparent: true,
    depthTest: false,
    depthWrite: false,
    side: DoubleSide,
  });
}

const GHOST_FRAGMENT = /* glsl */ `
uniform vec3 uColour;
varying vec3 vNormal;
void main() {
  vec3 n = normalize(vNormal);
  float rim = pow(1.0 - abs(n.z), 1.5);
  gl_FragColor = vec4(uColour * (0.7 + 0.3 * abs(n.z)), 0.12 + 0.55 * rim);
  #include <colorspace_fragment>
}`;

/** A see-through body: its outline is strong, its face hardly there. */
export function ghostMaterial(colour: [number, number, number]): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader:
      "varying vec3 vNormal; void main(){ vNormal = normalize(normalMatrix * normal); gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
    fragmentShader: GHOST_FRAGMENT,
    transparent: true,
    depthWrite: false,
    side: DoubleSide,
    // Where it lies on the very surface that it is laid over, it stays behind it.
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 4,
    uniforms: { uColour: { value: colour } },
  });
}
