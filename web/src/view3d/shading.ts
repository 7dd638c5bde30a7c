// The viewport's half of docs/shading.md: the same light as core/raster.
import { GLSL3, Matrix4, RawShaderMaterial, type Texture, Vector2, Vector3, Vector4 } from 'three'
import type { Sheer } from '@/core/bridge'

/** How bright a glowing surface is. */
export const glow = 1.6

/** As many as a scene may have, so that no view shows fewer than the renderer. */
export const maxLamps = 64
/** And as many of them may cast shadows. */
export const maxCasting = 8
/** The side in pixels of each of the six shadow maps around a lamp; the only one of a cone has twice that. */
export const lampSide = 512
/** Pixels of a map beyond what it is for, on each side. */
const lampMargin = 8
/** How near to a lamp nothing casts a shadow, in metres. */
export const lampNear = 0.3

export const uniforms = {
  eye: { value: new Vector3() },
  sun: { value: new Vector3() },
  sunDir: { value: new Vector3(0, 1, 0) },
  zenith: { value: new Vector3() },
  horizon: { value: new Vector3() },
  ground: { value: new Vector3() },
  haze: { value: 0 },
  hazeRise: { value: 0 },
  hazeBase: { value: 0 },
  shadowMap: { value: null as unknown },
  shadowPx: { value: 0 },
  toShadow: { value: new Matrix4() },
  shadowBias: { value: 0 },
  lampCount: { value: 0 },
  lampAt: { value: Array.from({ length: maxLamps }, () => new Vector4()) },
  lampColor: { value: Array.from({ length: maxLamps }, () => new Vector3()) },
  lampCone: { value: Array.from({ length: maxLamps }, () => new Vector4()) },
  /** The cosine inside of which a cone shines fully, and the lamp's row in the shadow maps, −1 for none. */
  lampMore: { value: Array.from({ length: maxLamps }, () => new Vector2()) },
  lampMaps: { value: null as unknown },
  /** For each row of the maps: the right side of a cone's only map and the tangent of half its angle, else 0. */
  lampRight: { value: Array.from({ length: maxCasting }, () => new Vector4()) },
  clearAir: { value: 0 },
  eyeWay: { value: new Vector3(0, 1, 0) },
  gain: { value: new Vector3(1, 1, 1) }, // already in all other light
  /** Of what glows. */
  shine: { value: new Vector3(1, 1, 1) },
  crowd: { value: null as unknown },
  crowdFrom: { value: new Vector3() },
  /** Metres, 0 while nothing is known. */
  crowdCell: { value: 0 },
  /** How far along the normal it is looked up, in cells, and what that means. */
  crowdHow: { value: new Vector4() },
  crowdLayers: { value: 0 },
}

const common = /* glsl */ `
precision highp float;
uniform vec3 sun, sunDir, zenith, horizon, ground, eye;
const float exposure = 1.4;
vec3 tone(vec3 x) {
  vec3 v = 1.0 - exp(-exposure * x);
  return mix(12.92 * v, 1.055 * pow(v, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, v));
}
`

/** Surfaces of a drawing, seen against the eye: floors light, what stands darker. */
const drawing = /* glsl */ `
uniform vec3 eyeWay; // to the eye of a drawing
uniform float clearAir; // 1 for a drawing
vec3 drawn(vec4 base, vec3 n) {
  float level = max(0.0, dot(n, eyeWay));
  vec3 c = base.rgb * (0.08 + 0.6 * level * level) + base.rgb * base.a;
  vec3 grey = vec3(dot(c, vec3(0.3, 0.5, 0.2)));
  return mix(c, grey, 0.6) + vec3(0.012, 0.016, 0.018);
}
`

/** Where a mesh stands: one of its own, or one of many that share a shape. */
const placed = /* glsl */ `
#ifdef MANY
in mat4 instanceMatrix;
#define place instanceMatrix
#else
uniform mat4 modelMatrix;
#define place modelMatrix
#endif
`

export const surfaceMaterial = new RawShaderMaterial({
  glslVersion: GLSL3,
  defines: {},
  uniforms,
  vertexShader:
    common +
    placed +
    drawing +
    /* glsl */ `
    in vec3 position, normal;
    in vec4 color;
    in vec2 uv;
    uniform mat4 viewMatrix, projectionMatrix;
    uniform vec3 shine;
#if defined(PICTURED) || !defined(PLAIN)
    out vec2 spot;
#endif
#ifdef PLAIN
    out vec3 shown; // under a picture its light, else as it is displayed
#else
    out vec3 p, n;
    out vec4 base;
#endif
    void main() {
      vec4 w = place * vec4(position, 1.0);
#if defined(PICTURED) || !defined(PLAIN)
      spot = uv;
#endif
#ifdef PLAIN
      vec3 nn = normalize(mat3(place) * normal);
      vec3 light = mix(ground, zenith, 0.5 + 0.5 * nn.y) + sun * max(0.0, dot(nn, sunDir));
      shown = clearAir > 0.5 ? drawn(color, nn) : color.rgb * mix(light, shine, color.a);
#ifndef PICTURED
      shown = tone(shown);
#endif
#else
      p = w.xyz;
      n = mat3(place) * normal;
      base = color;
#endif
      gl_Position = projectionMatrix * viewMatrix * w;
    }`,
  fragmentShader:
    common +
    drawing +
    /* glsl */ `
    uniform sampler2D skin;
    uniform float opaque, cut;
    out vec4 result;
    const vec4 ink = vec4(0.035, 0.05, 0.055, 1.0); // what a drawing cuts through
#if defined(PICTURED) || !defined(PLAIN)
    in vec2 spot;
#endif
#ifdef PLAIN
    in vec3 shown;
    void main() {
      vec3 c = shown;
      float opacity = 1.0;
#ifdef PICTURED
      vec4 seen = texture(skin, spot);
      c = tone(c * seen.rgb);
      opacity = seen.a;
#endif
#ifdef SHEER
      opacity *= opaque;
      if (opacity < cut) discard;
#endif
#ifndef BLEND
      opacity = 1.0;
#endif
      result = clearAir > 0.5 && !gl_FrontFacing ? ink : vec4(c, opacity);
    }
#else
    in vec3 p, n;
    in vec4 base;
    uniform float haze, hazeRise, hazeBase, shadowPx, shadowBias;
    uniform sampler2D shadowMap;
    uniform vec3 shine;
    uniform highp sampler3D crowd;
    uniform vec3 crowdFrom;
    uniform float crowdCell, crowdLayers;
    uniform vec4 crowdHow; // step, free, gain, most
    uniform mat4 toShadow;
    uniform int lampCount;
    uniform vec4 lampAt[${maxLamps}];
    uniform vec3 lampColor[${maxLamps}];
    uniform vec4 lampCone[${maxLamps}]; // direction and the cosine at the edge
    uniform vec2 lampMore[${maxLamps}]; // the cosine inside, and the row of its shadow maps
    uniform sampler2D lampMaps;
    uniform vec4 lampRight[${maxCasting}];
    float thickness(float t, float y) {
      if (hazeRise == 0.0) return t;
      float a = (eye.y - hazeBase) * hazeRise, b = (y - hazeBase) * hazeRise, d = b - a;
      float ea = exp(max(-20.0, -a));
      return min(80.0, abs(d) < 0.01 ? t * ea * (1.0 - d / 2.0) : t * (ea - exp(max(-20.0, -b))) / d);
    }
    float open(vec3 n) {
      if (crowdCell == 0.0) return 1.0;
      vec3 size = vec3(textureSize(crowd, 0));
      vec3 q = (p - crowdFrom) / crowdCell + n * crowdHow.x;
      if (any(lessThan(q, vec3(0.5))) || any(greaterThanEqual(q, size - 0.5))) return 1.0;
      float d = (textureLod(crowd, q / size, 0.0).r * crowdLayers - crowdHow.y) * crowdHow.z;
      return 1.0 - crowdHow.w * clamp(d, 0.0, 1.0);
    }
    // The share of light that a map with a side and a corner in its sheet lets through at m.
    float through(sampler2D sheet, ivec2 corner, float side, vec2 m, float z) {
      if (m.x < 1.0 || m.y < 1.0 || m.x >= side - 2.0 || m.y >= side - 2.0) return 1.0;
      ivec2 i = ivec2(m);
      vec2 f = m - vec2(i);
      i += corner;
#define farther(x, y) step(z, texelFetch(sheet, i + ivec2(x, y), 0).r)
      float corners = farther(0, 0) + farther(1, 0) + farther(0, 1) + farther(1, 1);
      corners += farther(-1, -1) + farther(2, -1) + farther(-1, 2) + farther(2, 2);
      if (corners == 0.0 || corners == 8.0) return corners / 8.0;
      float sum = 0.0;
      for (int y = -1; y < 3; y++) {
        float w = y < 0 ? 1.0 - f.y : y > 1 ? f.y : 1.0;
        for (int x = -1; x < 3; x++) sum += w * (x < 0 ? 1.0 - f.x : x > 1 ? f.x : 1.0) * farther(x, y);
      }
      return sum / 9.0;
    }
    float lit(vec3 q) {
      vec3 s = (toShadow * vec4(q, 1.0)).xyz;
      if (s.z > 1.0) return 1.0;
      return through(shadowMap, ivec2(0), shadowPx, (s.xy * 0.5 + 0.5) * shadowPx - 0.5, s.z - 0.0003);
    }
    // The share of a lamp's light that arrives where d from it a surface has a normal.
    float reaches(int row, vec3 axis, vec3 n, vec3 d) {
      const float small = ${lampSide}.0;
      vec4 cone = lampRight[row];
      vec3 right = cone.xyz, up = cross(right, axis), way = axis;
      float side = 2.0 * small, tangent = cone.w;
      ivec2 corner = ivec2(0, row * ${2 * lampSide});
      if (tangent == 0.0) {
        vec3 a = abs(d);
        int k = a.x >= a.y && a.x >= a.z ? 0 : a.y >= a.z ? 1 : 2;
        bool back = d[k] < 0.0;
        right = up = way = vec3(0.0);
        way[k] = back ? -1.0 : 1.0;
        right[(k + 1) % 3] = up[(k + 2) % 3] = 1.0;
        corner += ivec2(k, back ? 1 : 0) * ${lampSide};
        side = small;
        tangent = small / (small - ${2 * lampMargin}.0);
      }
      float middle = side * 0.5, across = dot(n, way);
      d += n * (dot(d, way) * tangent / middle * (0.5 + 2.2 * sqrt(max(0.0, 1.0 - across * across))));
      float deep = dot(d, way);
      if (deep <= ${lampNear}) return 1.0;
      vec2 m = vec2(dot(d, right), dot(d, up)) * (middle / tangent / deep) + middle - 0.5;
      return through(lampMaps, corner, side, m, 1.0 - ${lampNear} / (deep * 0.996));
    }
    void main() {
      vec3 nn = normalize(n);
      vec4 base = base;
      vec4 seen = vec4(1.0);
#ifdef PICTURED
      seen = texture(skin, spot);
      base.rgb *= seen.rgb;
#endif
      float opacity = 1.0;
#ifdef SHEER
      opacity = seen.a * opaque;
      if (opacity < cut) discard;
#endif
#ifndef BLEND
      opacity = 1.0;
#endif
      if (clearAir > 0.5) {
        result = gl_FrontFacing ? vec4(tone(drawn(base, nn)), opacity) : ink;
        return;
      }
      float d = dot(nn, sunDir);
      vec3 light = mix(ground, zenith, 0.5 + 0.5 * nn.y) * open(nn);
      if (d > 0.0) {
        if (shadowPx > 0.0) d *= lit(p + nn * shadowBias * (0.5 + 2.2 * sqrt(max(0.0, 1.0 - d * d))));
        light += sun * d;
      }
      for (int i = 0; i < lampCount; i++) {
        vec3 to = lampAt[i].xyz - p;
        float d2 = dot(to, to);
        float w = 1.0 - d2 / (lampAt[i].w * lampAt[i].w);
        float k = dot(nn, to);
        if (w > 0.0 && k > 0.0) {
          float away = inversesqrt(d2 + 1e-12);
          k *= w * w / (0.2 + 0.8 * d2) * away;
          if (lampMore[i].x > lampCone[i].w) {
            float e = clamp((-dot(lampCone[i].xyz, to) * away - lampCone[i].w) / max(1e-4, lampMore[i].x - lampCone[i].w), 0.0, 1.0);
            k *= e * e * (3.0 - 2.0 * e);
          }
          if (lampMore[i].y >= 0.0 && k > 0.0) k *= reaches(int(lampMore[i].y), lampCone[i].xyz, nn, -to);
          light += lampColor[i] * k;
        }
      }
      vec3 c = base.rgb * (light * (1.0 - base.a) + base.a * shine);
      if (haze > 0.0) c = mix(c, horizon, 1.0 - exp(-thickness(distance(p, eye) * haze, p.y)));
      result = vec4(tone(c), opacity);
    }
#endif`,
})

/** The same for a shape that many things share. */
export const manyMaterial = surfaceMaterial.clone()
manyMaterial.uniforms = uniforms
manyMaterial.defines = { MANY: 1 }

/** Whether surfaces are lit by sun and sky alone, at their corners, for slow graphics. */
let plain = false
export const shadesPlainly = () => plain
/** Chooses that for the materials that all share, and for what is dressed from them later. */
export function shadePlainly(on: boolean) {
  plain = on
  for (const m of [surfaceMaterial, manyMaterial]) {
    if (on) m.defines.PLAIN = 1
    else delete m.defines.PLAIN
    m.needsUpdate = true
  }
}

/** A material for a shape with a texture, or that lets through what is behind it. */
export function dressed(of: RawShaderMaterial, texture?: Texture, sheer?: Sheer): RawShaderMaterial {
  if (!texture && !sheer) return of
  const m = of.clone()
  m.uniforms = { ...of.uniforms }
  m.defines = { ...of.defines }
  if (texture) {
    m.uniforms.skin = { value: texture }
    m.defines.PICTURED = 1
  }
  if (sheer) {
    m.uniforms.opaque = { value: 1 - sheer.through }
    m.uniforms.cut = { value: sheer.cut }
    m.defines.SHEER = 1
  }
  if (sheer?.blend) {
    m.defines.BLEND = 1
    m.transparent = true
    m.depthWrite = false
  }
  return m
}

/** What casts the shadow of a shape. */
export function shadowing(of: RawShaderMaterial, texture?: Texture, sheer?: Sheer): RawShaderMaterial {
  if (!sheer) return of
  return dressed(of, texture, { ...sheer, blend: false, cut: sheer.casts })
}

/** Draws the sky over the whole view before anything else. */
export const skyMaterial = new RawShaderMaterial({
  glslVersion: GLSL3,
  uniforms: { ...uniforms, unproject: { value: new Matrix4() } },
  depthTest: false,
  depthWrite: false,
  vertexShader: /* glsl */ `
    in vec3 position;
    out vec2 at;
    void main() { at = position.xy; gl_Position = vec4(position.xy, 0.0, 1.0); }`,
  fragmentShader:
    common +
    /* glsl */ `
    in vec2 at;
    uniform mat4 unproject;
    out vec4 result;
    void main() {
      vec4 q = unproject * vec4(at, 1.0, 1.0);
      vec3 d = normalize(q.xyz / q.w - eye);
      vec3 c = d.y >= 0.0 ? mix(horizon, zenith, sqrt(d.y)) : mix(horizon, ground, min(1.0, -4.0 * d.y));
      float h = max(0.0, dot(d, sunDir));
      h *= h; h *= h; h *= h; h *= h;
      c += sun * h * 0.35;
      result = vec4(tone(c), 1.0);
    }`,
})

/** Where the light looks whose shadow map is drawn, and how far if it is a lamp, 0 for the sun. */
export const castUniforms = { toMap: { value: new Matrix4() }, fromLamp: { value: 0 } }

/** Draws only depth, for a shadow map: that of the sun, or one of a lamp. */
export const depthMaterial = new RawShaderMaterial({
  glslVersion: GLSL3,
  uniforms: castUniforms,
  side: 2,
  vertexShader:
    placed +
    /* glsl */ `
    in vec3 position;
    in vec2 uv;
    uniform mat4 toMap;
    uniform float fromLamp;
    out vec2 deep;
    out vec2 spot;
    void main() {
      spot = uv;
      vec4 s = toMap * place * vec4(position, 1.0);
      // What is too near to a lamp is cut off, what is too near to the sun is pressed.
      deep = vec2(fromLamp > 0.0 ? s.z : max(0.0, s.z), s.w);
      gl_Position = vec4(s.xy, deep.x * 2.0 - s.w, s.w);
    }`,
  fragmentShader: /* glsl */ `
    precision highp float;
    in vec2 deep;
    in vec2 spot;
    uniform sampler2D skin;
    uniform float opaque, cut;
    out vec4 result;
    void main() {
#ifdef SHEER
      float opacity = opaque;
#ifdef PICTURED
      opacity *= texture(skin, spot).a;
#endif
      if (opacity < cut) discard;
#endif
      result = vec4(deep.x / deep.y, 0.0, 0.0, 1.0);
    }`,
})

export const manyDepthMaterial = depthMaterial.clone()
manyDepthMaterial.uniforms = depthMaterial.uniforms
manyDepthMaterial.defines = { MANY: 1 }

const overAll = /* glsl */ `
  in vec3 position;
  out vec2 at;
  void main() { at = position.xy; gl_Position = vec4(position.xy, 0.0, 1.0); }`

/** The places of the blur's spiral; docs/shading.md says how they are used. */
const blurTaps = 40

/**
 * Draws a picture with the blur of a lens, as core/raster/blur.go does, and with
 * a tint over what lies outside the sharp zone if wanted.
 */
export const lensMaterial = new RawShaderMaterial({
  glslVersion: GLSL3,
  uniforms: {
    picture: { value: null as Texture | null },
    depth: { value: null as Texture | null },
    clip: { value: [0.05, 3000] },
    spread: { value: 0 }, // pixels at infinity, from the middle of the disc
    focus: { value: 1 },
    zone: { value: [0, -1] }, // near and far end of what is sharp, far 0 for no end, −1 for no tint
  },
  depthTest: false,
  depthWrite: false,
  vertexShader: overAll,
  fragmentShader: /* glsl */ `
    precision highp float;
    in vec2 at;
    uniform sampler2D picture, depth;
    uniform vec2 clip, zone;
    uniform float spread, focus;
    out vec4 result;
    float nearness(ivec2 p) {
      float d = texelFetch(depth, p, 0).r;
      return d >= 1.0 ? 0.0 : (clip.y - d * (clip.y - clip.x)) / (clip.x * clip.y);
    }
    void main() {
      ivec2 size = textureSize(picture, 0);
      ivec2 p = min(ivec2((at * 0.5 + 0.5) * vec2(size)), size - 1);
      float limit = float(size.y) / 40.0;
      float near = nearness(p);
      float own = min(limit, spread * abs(1.0 - focus * near));
      vec3 c = texelFetch(picture, p, 0).rgb;
      float wide = max(own, 0.5), w = 0.785398 / (wide * wide);
      vec3 sum = w * c * c;
      float weight = w, pace = limit / ${blurTaps}.0;
      if (spread > 0.3) for (int i = 0; i < ${blurTaps}; i++) {
        float r = (float(i) + 0.5) * pace, a = float(i) * 2.399963229728653;
        ivec2 q = p + ivec2(floor(vec2(r * cos(a), -r * sin(a)) + 0.5));
        if (q.x < 0 || q.y < 0 || q.x >= size.x || q.y >= size.y) continue;
        float other = nearness(q);
        float reach = min(limit, spread * abs(1.0 - focus * other));
        if (other < near) reach = min(reach, own);
        float over = reach - r + 0.5;
        if (over <= 0.0) continue;
        reach = max(reach, 0.5);
        w = min(1.0, over) * 6.2831853 * r * pace / (reach * reach);
        c = texelFetch(picture, q, 0).rgb;
        sum += w * c * c;
        weight += w;
      }
      vec3 color = sqrt(sum / weight);
      if (zone.y >= 0.0) {
        float d = near > 0.0 ? 1.0 / near : 1e9;
        if (d < zone.x) color = mix(color, vec3(0.35, 0.55, 0.8), 0.35);
        else if (zone.y > 0.0 && d > zone.y) color = mix(color, vec3(0.85, 0.6, 0.3), 0.3);
      }
      result = vec4(color, 1.0);
    }`,
})

/** Mixes two pictures and a colour as they are displayed; core/raster/mix.go does the same. */
export const mixMaterial = new RawShaderMaterial({
  glslVersion: GLSL3,
  uniforms: {
    first: { value: null as Texture | null },
    second: { value: null as Texture | null },
    weights: { value: [1, 0] },
    dip: { value: [0, 0, 0] },
  },
  depthTest: false,
  depthWrite: false,
  vertexShader: overAll,
  fragmentShader: /* glsl */ `
    precision highp float;
    in vec2 at;
    uniform sampler2D first, second;
    uniform vec2 weights;
    uniform vec3 dip;
    out vec4 result;
    void main() {
      vec2 p = at * 0.5 + 0.5;
      vec3 c = texture(first, p).rgb * weights.x + texture(second, p).rgb * weights.y;
      result = vec4(c + dip * (1.0 - weights.x - weights.y), 1.0);
    }`,
})

/** A picture as large as it goes in the middle of a ground. */
export const stillMaterial = new RawShaderMaterial({
  glslVersion: GLSL3,
  uniforms: {
    picture: { value: null as Texture | null },
    fit: { value: [1, 1] }, // the share of the frame that the picture fills
    ground: { value: [0, 0, 0] },
  },
  depthTest: false,
  depthWrite: false,
  vertexShader: overAll,
  fragmentShader: /* glsl */ `
    precision highp float;
    in vec2 at;
    uniform sampler2D picture;
    uniform vec2 fit;
    uniform vec3 ground;
    out vec4 result;
    void main() {
      result = vec4(ground, 1.0);
      if (fit.x > 0.0 && abs(at.x) <= fit.x && abs(at.y) <= fit.y) {
        vec4 c = texture(picture, at / fit * 0.5 + 0.5);
        result = vec4(mix(ground, c.rgb, c.a), 1.0);
      }
    }`,
})
