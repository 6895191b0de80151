/** A sky behind a pixel: its light in the direction that the camera sees there, and what the edge of the building keeps of the old one. */
import type { CameraView } from '../camera/view.ts';
import { invertMatrix, REC709, rgbToXyz } from '../color/primaries.ts';
import { FIELD_SIDE, fieldAt } from '../raster/field.ts';
import { type CloudKind, cloudField, coverThreshold, FIELD_FORMS, formsAt } from './clouds.ts';
import type { SkyLook } from './look.ts';
import { LOWEST_COSINE } from './sky.ts';
import type { Triple } from '../vector.ts';

export interface Clouds extends CloudKind {
  /** 0…1 of the sky. */
  readonly cover: number;
  /** Towards where they drift, on the plan, in radians from −z over +x. */
  readonly windAngle: number;
  readonly seed: number;
}

export interface SkyPicture {
  readonly look: SkyLook;
  /** Towards the sun. */
  readonly sun: Triple;
  /** What each channel of its light is multiplied with. */
  readonly gain: Triple;
  /** Whether the sun itself is seen. */
  readonly hasDisc: boolean;
  readonly clouds: Clouds | null;
}

export interface SkySight {
  readonly view: CameraView;
  /** Whether an element says how much of a pixel is not sky. */
  readonly hasAlpha: boolean;
  /** Whether what is below, and the old sky around, are read: edges get rid of it then. */
  readonly exchanges: boolean;
  /** Whether its light is read from a picture instead of being computed. */
  readonly isRead: boolean;
  /** How much of its light goes around edges, 0…1; needs what is below, and alpha softened. */
  readonly wrap: number;
  /** Seen in what mirrors it: an element of reflections, by its normals, is lit by this sky as a share of another one. */
  readonly mirrors: boolean;
  /** Only its light is wanted, as a picture that others read: opaque, and black where nothing of it is seen. */
  readonly isLight: boolean;
}
/** Nothing but the sky, in the directions of a camera. */
export const plainSight = (view: CameraView): SkySight => ({ view, hasAlpha: false, exchanges: false, isRead: false, wrap: 0, mirrors: false, isLight: false });

/** @source mean radius of the Earth (IUGG) */
const EARTH_METRES = 6_371_009;
/** Half the angle of the sun's disc, in radians, and the softness of its rim. @source mean angular diameter 0.533° */
const [DISC, RIM] = [0.00465, 0.0006];
/** The disc is hundreds of thousands of times as bright as the sky; numbers of halves end before that. */
const BRIGHTEST_DISC = 3000;
/** Clouds vanish in the haze with distance. Common practice, no published source. */
const CLOUD_SIGHT_METRES = 45_000;
/** White of clouds in full light. Common practice, no published source. */
const CLOUD_ALBEDO = 0.7;
/** Colour of the light that clouds have from the sky. Common practice, no published source. */
const CLOUD_SHADE = [0.92, 1, 1.13] as const;
/** How much of the path through a cloud towards the sun darkens it. Common practice, no published source. */
const SHADE = 1.35;
/** How many of the sheets are seen at least. */
const STEEP_SHARE = 0.3;
/** How far from its place a sheet may lie, as a share of the way to the next: what is left of their steps becomes a fine grain. */
const SHAKEN = 0.4;
/** Behind clouds as thick as this nothing is seen any more. */
const LEAST_THROUGH = 0.01;
/** Where almost nothing of the building is, what is left of the old sky is its grain. */
const PER_LEAST_ALPHA = 50;
/** Of an alpha that was softened nothing less than this is wrapped: so much of it is only rounding. */
const LEAST_WRAP = 1 / 255;
/** What is mirrored from below the horizon is not sky; above it, it fades in over these heights (sines). Common practice, no published source. */
const PER_MIRRORED_RISE = 20;
/** Of shorter normals: nothing was hit, or the mean of an edge says nothing. */
const LEAST_NORMAL = 0.2;

const XYZ_TO_LIGHT = invertMatrix(rgbToXyz(REC709));

/** Numbers of a prepared sky that stand before its clouds. */
const CLOUDS_AT = 66;
/** Where the light around edges stands, and whether it is mirrored. */
const [WRAP_AT, MIRRORS_AT] = [62, 63];
/** Where it says that light is read, and where its gain stands then: in the place of the band. */
const [IS_READ, GAIN_AT] = [60, 47];
const IS_LIGHT = 61;
const [SEED_AT, HAS_CLOUDS] = [58, 59];

/**
 * Packed for the kernel: axis x, y, 1 / focal length, 1 if there is alpha · forward, right, up · towards the sun, 1 if the old sky is taken out · three rows of seven (37) · XYZ to light × gain (46) ·
 * band (or the gain of light that is read), its fade · level direction of the sun: x, z · disc, cosines of its inner and outer rim (58) · seed, 1 if there are clouds, 1 if its light is read, 1 if only that is wanted · light around edges, 1 if it is mirrored, two unused (66) ·
 * and of the clouds: height, 1 / length of a form, cosine and sine of the wind, 1 / stretch, threshold, 1 / softness, depth, shade · sunlight, light of the sky · shift towards the sun along and across the wind · detail · a pixel's width in texels of the field · sheets, their distance, taper of each.
 */
export function prepareSky({ look, sun, gain, hasDisc, clouds }: SkyPicture, { view, hasAlpha, exchanges, isRead, wrap, mirrors, isLight }: SkySight): Float32Array {
  const level = Math.hypot(sun[0], sun[2]) || 1;
  const matrix = XYZ_TO_LIGHT.flatMap((row, c) => row.map((value) => value * gain[c]));
  const lit = (light: Triple, by = 1): Triple => [light[0] * gain[0] * by, light[1] * gain[1] * by, light[2] * gain[2] * by];
  const brightest = Math.max(...look.sunlight, 1e-9);
  // As bright as halves allow, in the colour that came through the air.
  const disc = hasDisc ? lit(look.sunlight, Math.min(BRIGHTEST_DISC, brightest / 6.8e-5) / brightest) : ([0, 0, 0] as const);
  const head = [
    view.axisX, view.axisY, 1 / view.focalPx, hasAlpha ? 1 : 0,
    ...view.forward, ...view.right, ...view.up,
    ...sun, exchanges ? 1 : 0,
    ...look.rows.flat(),
    ...matrix,
    ...(isRead ? gain : lit(look.band)), look.bandFade,
    sun[0] / level, sun[2] / level,
    ...disc, Math.cos(DISC - RIM), Math.cos(DISC + RIM),
    clouds?.seed ?? 0, clouds ? 1 : 0, isRead ? 1 : 0, isLight ? 1 : 0,
    wrap, mirrors ? 1 : 0, 0, 0,
  ];
  if (!clouds) return Float32Array.from(head);
  const { metres, formMetres, windAngle, stretch, soft, depth, thickMetres, sheets, taper, detail, cover } = clouds;
  const tile = 1 / (FIELD_FORMS * formMetres);
  // Towards the sun through the cloud, along the ground; low, it does not reach farther than a few heights.
  const reach = Math.min(3, level / Math.max(0.05, sun[1])) * thickMetres;
  const [wx, wz] = [Math.sin(windAngle), -Math.cos(windAngle)];
  const along = ((sun[0] * wx + sun[2] * wz) / level) * reach;
  const aside = ((sun[2] * wx - sun[0] * wz) / level) * reach;
  return Float32Array.from([
    ...head,
    metres, tile, wx, wz, 1 / stretch, coverThreshold(detail, soft, cover), 1 / soft, depth, SHADE,
    ...lit(look.sunlight, CLOUD_ALBEDO), ...lit(CLOUD_SHADE, look.mean),
    (along * tile) / stretch, aside * tile,
    detail,
    // A pixel's width on the clouds in texels of the field, for a metre of way.
    (FIELD_SIDE * tile) / view.focalPx,
    // One sheet lies at one height; several begin anywhere within the first.
    sheets, sheets > 1 ? thickMetres / sheets : 0, taper / sheets,
  ]);
}

/** The field of the clouds, for the loop. */
export const skyTable = (prepared: Float32Array) => (prepared[HAS_CLOUDS] === 0 ? null : { key: `clouds ${prepared[SEED_AT]}`, values: cloudField(prepared[SEED_AT]) });

const row = (p: Float32Array, at: number, gradation: number, gamma: number, cosine: number) => p[at] * (1 + p[at + 1] * Math.exp(p[at + 2] * gradation)) * (p[at + 3] + p[at + 4] * Math.exp(p[at + 5] * gamma) + p[at + 6] * cosine * cosine);

/** 0…1, other at each pixel and never alike at those beside it. In single precision, as the loop has it. @source interleaved gradient noise, Jimenez 2014 */
function ditherAt(x: number, y: number): number {
  const { fround } = Math;
  const share = (value: number) => fround(value - Math.floor(value));
  return share(fround(fround(52.9829189) * share(fround(fround(fround(0.06711056) * fround(x)) + fround(fround(0.00583715) * fround(y))))));
}

/** Light from a direction of length 1 (linear sRGB, gain included). `dither` is where between two sheets of clouds the first one lies. */
function skyLight(p: Float32Array, [dx, dy, dz]: Triple, footprint: number, dither: number): Triple {
  const rise = Math.max(0, dy);
  const cosine = Math.min(1, Math.max(-1, dx * p[13] + dy * p[14] + dz * p[15]));
  const gamma = Math.acos(cosine);
  const gradation = 1 / Math.max(LOWEST_COSINE, rise);
  const [Y, x, y] = [17, 24, 31].map((at) => row(p, at, gradation, gamma, cosine));
  const [X, Z] = [(x / y) * Y, ((1 - x - y) / y) * Y];
  const level = Math.sqrt(Math.max(1e-12, dx * dx + dz * dz));
  const toSun = (dx * p[51] + dz * p[52]) / level;
  const band = Math.exp(-p[50] * rise - 1.3 * (1 - toSun));
  let light: Triple = [0, 1, 2].map((c) => Math.max(0, p[38 + 3 * c] * X + p[39 + 3 * c] * Y + p[40 + 3 * c] * Z) + p[47 + c] * band) as unknown as Triple;
  if (dy > 0 && p[HAS_CLOUDS] !== 0) light = withClouds(p, light, [dx, dy, dz], cosine, footprint, dither);
  else light = withDisc(p, light, cosine, 1);
  // Below the horizon lies the land in haze.
  const dim = dy < 0 ? 0.25 + 0.55 * Math.exp(14 * dy) : 1;
  return [light[0] * dim, light[1] * dim, light[2] * dim];
}

/** The disc of the sun, as far as something lets it through. */
function withDisc(p: Float32Array, light: Triple, cosine: number, through: number): Triple {
  const share = Math.min(1, Math.max(0, (cosine - p[57]) / (p[56] - p[57]))) * through;
  return [light[0] + p[53] * share, light[1] + p[54] * share, light[2] + p[55] * share];
}

function withClouds(p: Float32Array, sky: Triple, [dx, dy, dz]: Triple, cosine: number, footprint: number, dither: number): Triple {
  const [metres, tile, wx, wz, perStretch, threshold, perSoft, depth, shade] = p.subarray(CLOUDS_AT, CLOUDS_AT + 9);
  const [sunR, sunG, sunB, skyR, skyG, skyB, shiftU, shiftV, detail, texels, sheets, sheetMetres, taper] = p.subarray(CLOUDS_AT + 9, CLOUDS_AT + 22);
  const field = cloudField(p[SEED_AT]);
  const up = EARTH_METRES * dy;
  const cosineAhead = Math.max(0, cosine);
  let through = 1;
  let cloud: Triple = [0, 0, 0];
  let seen = 0;
  // Seen from below, a few sheets are enough; seen from the side, what lies between them would show.
  const steep = (EARTH_METRES + metres) / Math.sqrt(up * up + metres * (2 * EARTH_METRES + metres));
  const count = Math.ceil(sheets * Math.min(1, STEEP_SHARE * steep));
  for (let sheet = 0; sheet < count && through > LEAST_THROUGH; sheet++) {
    const place = ((sheet + SHAKEN * dither) * sheets) / count;
    // Up to a sphere around the Earth: at the horizon clouds are far away, but not without end.
    const height = metres + place * sheetMetres;
    const more = height * (2 * EARTH_METRES + height);
    const root = Math.sqrt(up * up + more);
    const way = more / (up + root);
    const slope = root / (EARTH_METRES + height);
    const [px, pz] = [dx * way, dz * way];
    const u = (px * wx + pz * wz) * tile * perStretch;
    const v = (pz * wx - px * wz) * tile;
    // Which of two copies is read changes from pixel to pixel, so that none ends anywhere.
    const level = Math.log2(Math.max(1e-6, (way * texels * footprint) / slope)) + dither;
    const raised = threshold + taper * place;
    const thick = Math.min(1, Math.max(0, (formsAt(field, detail, u, v, level) - raised) * perSoft));
    const before = Math.min(2, Math.max(0, (fieldAt(field, u + shiftU, v + shiftV, level + 1) - raised) * perSoft));
    const cover = 1 - Math.exp(-(depth / count) * thick * Math.min(3, 1 / slope) * 0.6);
    // What lies over it darkens it, too: the foot more than the top.
    const over = (count - 1 - sheet) / count;
    const lit = Math.exp(-shade * (0.3 * thick + 0.75 * before + 0.5 * over));
    // Light goes on through thin edges, around the sun.
    const glow = lit * (0.55 + 0.45 * cosineAhead) * (1 + 2.5 * cosineAhead ** 8 * (1 - thick));
    const ambient = (1 - 0.35 * thick) * (1 - 0.45 * over);
    const share = through * cover;
    cloud = [cloud[0] + share * (sunR * glow + skyR * ambient), cloud[1] + share * (sunG * glow + skyG * ambient), cloud[2] + share * (sunB * glow + skyB * ambient)];
    if (sheet === 0) seen = Math.exp(-way / CLOUD_SIGHT_METRES);
    through *= 1 - cover;
  }
  const behind = withDisc(p, sky, cosine, through ** 3);
  // Clouds fade into the sky with distance.
  return [0, 1, 2].map((c) => through * behind[c] + cloud[c] * seen + (1 - through) * (1 - seen) * sky[c]) as unknown as Triple;
}

/**
 * Colour of a pixel with the new sky behind it, and 1 where there is any. `others`: alpha · the picture below · the old sky around · the light of a picture · alpha softened, as far as they are read. `step` is the width
 * of a pixel in those of the full picture.
 * @source compositing: what is seen of the building is what there is, less the old sky's share of the pixel
 */
export function skyPixel(p: Float32Array, [px, py]: readonly [x: number, y: number], [[covered], below, old, read, [softened] = [1]]: readonly (readonly number[])[], step: number): readonly [red: number, green: number, blue: number, alpha: number] {
  const alpha = p[3] === 0 ? 0 : Math.min(1, Math.max(0, covered));
  const free = 1 - alpha;
  const veil = p[WRAP_AT] === 0 ? 0 : p[WRAP_AT] * Math.max(0, 1 - LEAST_WRAP - softened) * alpha;
  if (free <= 0 && veil <= 0) return [0, 0, 0, p[IS_LIGHT]];
  const [a, b] = [(px - p[0]) * p[2], (p[1] - py) * p[2]];
  const length = Math.sqrt(1 + a * a + b * b);
  const direction = [0, 1, 2].map((i) => (p[4 + i] + p[7 + i] * a + p[10 + i] * b) / length) as unknown as Triple;
  if (p[MIRRORS_AT] !== 0) return mirrored(p, direction, below, read, step, ditherAt(px, py));
  const light = p[IS_READ] !== 0 ? read.map((value, c) => value * p[GAIN_AT + c]) : skyLight(p, direction, step, ditherAt(px, py));
  if (p[16] === 0) return [light[0], light[1], light[2], p[IS_LIGHT] !== 0 ? 1 : free];
  const keeps = Math.min(1, alpha * PER_LEAST_ALPHA);
  // Where nothing is sky its light lies over what is there: what is done to the sky later does not reach that.
  const shines = free > 0 ? free + veil : 1;
  const [r, g, b2] = light.map((value, c) => Math.max(0, below[c] - free * old[c]) * keeps + shines * value);
  return [r, g, b2, free > 0 ? 1 : veil];
}

/** What an element of reflections gains or loses where it mirrors this sky, as a share of the old one. */
function mirrored(p: Float32Array, [dx, dy, dz]: Triple, reflection: readonly number[], [nx, ny, nz]: readonly number[], step: number, dither: number): readonly [red: number, green: number, blue: number, alpha: number] {
  const square = nx * nx + ny * ny + nz * nz;
  if (square < LEAST_NORMAL ** 2) return [0, 0, 0, 1];
  const twice = (2 * (dx * nx + dy * ny + dz * nz)) / square;
  const towards: Triple = [dx - twice * nx, dy - twice * ny, dz - twice * nz];
  const share = Math.min(1, Math.max(0, towards[1] * PER_MIRRORED_RISE));
  if (share === 0) return [0, 0, 0, 1];
  const [r, g, b] = skyLight(p, towards, step, dither).map((value, c) => reflection[c] * share * (value - 1));
  return [r, g, b, 1];
}
