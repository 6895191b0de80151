/** From sums on the film to the pictures that are saved. */
import type { Region, RoleId } from '@tazzel/core';
import { type FilmMemory, forIds, IDS_PER_PIXEL, type IdKind, samplesAt } from '../film/film.ts';
import { groupName, PATHS } from '../film/slots.ts';
import { type CameraDescription, lightGroups, type SceneDescription } from '../scene/model.ts';
import { cryptoBits, cryptoNotes, type IdRow, materialIds, matteNumbers, objectIds } from './ids.ts';
import { elementRow } from './registry.ts';

export interface DepthRange {
  readonly near: number;
  readonly far: number;
}

/** A render, finished or stopped. Can be posted to workers. */
export interface Rendering {
  readonly scene: SceneDescription;
  readonly camera: CameraDescription;
  readonly film: FilmMemory;
  /** Means without noise, by the slot's name; empty until the denoiser has run. */
  readonly denoised: Readonly<Record<string, readonly Float32Array[]>>;
  readonly depthRange: DepthRange;
}

export interface ElementPicture {
  /** Name of the layer or part; no dots. */
  readonly name: string;
  readonly role: RoleId;
  readonly channels: readonly { readonly name: string; readonly data: Float32Array }[];
  /** Whether half floats would lose what it says. */
  readonly needsFloat: boolean;
  readonly notes: Readonly<Record<string, string>>;
}

/** Roles whose numbers from 0 to 1 are shown and stored as they are. */
const PLAIN: readonly RoleId[] = ['alpha', 'depth', 'material-id', 'object-id', 'rgb-matte', 'ambient-occlusion', 'wireframe'];

/** How a role's numbers become a picture: encoded light, plain shares, directions with −1…1 as black…white. */
export const pictureOf = (role: RoleId): 'light' | 'plain' | 'direction' => (role === 'normals' ? 'direction' : PLAIN.includes(role) ? 'plain' : 'light');

const RGB = ['R', 'G', 'B'];
const XYZ = ['X', 'Y', 'Z'];
const slotOf: Readonly<Record<string, string>> = { 'raw-lighting': 'direct-lighting', 'raw-gi': 'gi', 'raw-reflection': 'reflection', 'raw-refraction': 'refraction', 'raw-shadow': 'shadow' };
const filterOf: Readonly<Record<string, string>> = { 'raw-lighting': 'diffuse-filter', 'raw-gi': 'diffuse-filter', 'raw-shadow': 'diffuse-filter', 'raw-reflection': 'reflection-filter', 'raw-refraction': 'refraction-filter' };

export const wholeOf = ({ plan: { width, height } }: FilmMemory): Region => ({ x: 0, y: 0, width, height });

/** Calls `visit` for each pixel of a region: its place in the region, its place on the film, its number of samples. */
function forPixels(film: FilmMemory, region: Region, visit: (to: number, pixel: number, samples: number) => void): void {
  for (let y = region.y, to = 0; y < region.y + region.height; y++) {
    for (let x = region.x; x < region.x + region.width; x++) visit(to++, y * film.plan.width + x, samplesAt(film, x, y));
  }
}

/** A plane for each channel of a slot, worked out from its sums. */
function planesOf(film: FilmMemory, slot: string, region: Region, value: (sum: number, pixel: number, samples: number) => number): Float32Array[] {
  return film.planes[slot].map((sums) => {
    const out = new Float32Array(region.width * region.height);
    forPixels(film, region, (to, pixel, samples) => {
      out[to] = value(sums[pixel], pixel, samples);
    });
    return out;
  });
}

/** Means of a slot; 0 where nothing was sampled. */
export const meansOf = (film: FilmMemory, slot: string, region: Region = wholeOf(film)): Float32Array[] => planesOf(film, slot, region, (sum, _pixel, samples) => (samples > 0 ? sum / samples : 0));

/** Means over the samples that met a surface; `otherwise` where none did. */
function meansOfHits(film: FilmMemory, slot: string, region: Region, otherwise: number): Float32Array[] {
  const [hits] = film.planes.alpha;
  return planesOf(film, slot, region, (sum, pixel) => (hits[pixel] > 0 ? sum / hits[pixel] : otherwise));
}

function lightOf({ film, denoised }: Rendering, slot: string, clean: boolean, region: Region): Float32Array[] {
  const planes = clean ? denoised[slot] : undefined;
  if (!planes) return meansOf(film, slot, region);
  return planes.map((plane) => {
    const out = new Float32Array(region.width * region.height);
    for (let y = 0; y < region.height; y++) {
      const from = (region.y + y) * film.plan.width + region.x;
      out.set(plane.subarray(from, from + region.width), y * region.width);
    }
    return out;
  });
}

/** Sum of the light by path: the beauty, by definition. */
function beautyOf(rendering: Rendering, clean: boolean, region: Region): Float32Array[] {
  const sum = RGB.map(() => new Float32Array(region.width * region.height));
  for (const path of PATHS) {
    const planes = lightOf(rendering, path, clean, region);
    for (const [c, plane] of sum.entries()) for (let i = 0; i < plane.length; i++) plane[i] += planes[c][i];
  }
  return sum;
}

/** Light without the surface's colour. Zero where the surface has none: filter × raw is the lit element everywhere. */
const divided = (lit: readonly Float32Array[], filter: readonly Float32Array[]): Float32Array[] => lit.map((plane, c) => plane.map((v, i) => (filter[c][i] > 0 ? v / filter[c][i] : 0)));

/**
 * The pictures of one element within a region; mattes and light groups are several. `clean` takes the denoiser's light
 * where it has run.
 * @throws RenderError `bad-request` for an element that does not exist
 */
export function resolveElement(rendering: Rendering, id: string, clean: boolean, region: Region = wholeOf(rendering.film)): ElementPicture[] {
  const { film, scene, depthRange } = rendering;
  const { role } = elementRow(id);
  const name = id.replaceAll('-', '_');
  const picture = (planes: readonly Float32Array[], channels: readonly string[], more: Partial<ElementPicture> = {}): ElementPicture => ({ name, role, channels: planes.map((data, i) => ({ name: channels[i], data })), needsFloat: false, notes: {}, ...more });
  switch (id) {
    case 'beauty':
      return [picture(beautyOf(rendering, false, region), RGB)];
    case 'denoised-beauty':
      return [picture(beautyOf(rendering, true, region), RGB)];
    case 'diffuse-filter':
    case 'reflection-filter':
    case 'refraction-filter':
      return [picture(meansOf(film, id, region), RGB)];
    case 'raw-lighting':
    case 'raw-gi':
    case 'raw-reflection':
    case 'raw-refraction':
    case 'raw-shadow':
      return [picture(divided(lightOf(rendering, slotOf[id], clean, region), meansOf(film, filterOf[id], region)), RGB)];
    case 'alpha':
      return [picture(meansOf(film, 'alpha', region), ['A'])];
    case 'ambient-occlusion':
      return [picture(lightOf(rendering, id, clean, region), ['Y'])];
    case 'wireframe':
      return [picture(meansOf(film, id, region), ['Y'])];
    case 'depth':
    case 'distance':
      return [picture(meansOfHits(film, id, region, Number.POSITIVE_INFINITY), ['Z'], { needsFloat: true })];
    case 'depth-in-glass-and-mirrors':
      return [picture(meansOfHits(film, 'seen-depth', region, Number.POSITIVE_INFINITY), ['Z'], { needsFloat: true })];
    case 'depth-normalised':
      return [picture([normalisedDepth(film, depthRange, region)], ['Z'], { notes: { depthNearMetres: String(depthRange.near), depthFarMetres: String(depthRange.far) } })];
    case 'position':
      return [picture(meansOfHits(film, id, region, 0), XYZ, { needsFloat: true })];
    case 'normals':
      return [picture(unitVectors(meansOfHits(film, id, region, 0)), XYZ)];
    case 'material-id':
      return [picture(flatColors(film, 'material', materialIds(scene), region), RGB)];
    case 'object-id':
      return [picture(flatColors(film, 'object', objectIds(scene), region), RGB)];
    case 'material-id-through-glass':
      return [picture(flatColors(film, 'through', materialIds(scene), region), RGB)];
    case 'material-id-in-mirrors':
      return [picture(flatColors(film, 'mirrored', materialIds(scene), region), RGB)];
    case 'rgb-matte':
      return rgbMattes(film, materialIds(scene), region).map((matte) => picture(matte.planes, RGB, { name: matte.name, notes: matte.notes }));
    case 'crypto-material':
      return [coverageMatte(film, 'material', name, materialIds(scene), role, region)];
    case 'crypto-object':
      return [coverageMatte(film, 'object', name, objectIds(scene), role, region)];
    case 'light-group':
      return lightGroups(scene).map((group) => picture(lightOf(rendering, groupName(group), clean, region), RGB, { name: `light_group_${asWord(group)}` }));
    default:
      return [picture(lightOf(rendering, id, clean, region), RGB)];
  }
}

const asWord = (name: string) => name.replace(/[^\p{L}\p{N}]+/gu, '_');

/** Near is white, far and the sky are black. */
export function normalisedDepth(film: FilmMemory, { near, far }: DepthRange, region: Region = wholeOf(film)): Float32Array {
  const [depth] = meansOfHits(film, 'depth', region, far);
  const [alpha] = meansOf(film, 'alpha', region);
  return depth.map((metres, i) => Math.min(1, Math.max(0, (far - metres) / (far - near))) * alpha[i]);
}

/** A range that spans what is seen: from just before the nearest surfaces to the farthest but a few. Null before the first sample. */
export function suggestDepthRange(film: FilmMemory): DepthRange | null {
  const sums = film.planes.depth?.[0];
  const hits = film.planes.alpha?.[0];
  if (!sums || !hits) return null;
  const step = Math.max(1, Math.floor(sums.length / 20_000));
  const found: number[] = [];
  for (let i = 0; i < sums.length; i += step) if (hits[i] > 0) found.push(sums[i] / hits[i]);
  if (found.length === 0) return null;
  found.sort((a, b) => a - b);
  const at = (share: number) => found[Math.min(found.length - 1, Math.floor(share * found.length))];
  const round = (metres: number, up: boolean) => {
    const unit = 10 ** Math.floor(Math.log10(Math.max(0.1, metres))) / 2;
    return (up ? Math.ceil(metres / unit) : Math.floor(metres / unit)) * unit;
  };
  const near = Math.max(0, round(at(0.002), false));
  return { near, far: Math.max(near + 0.1, round(at(0.985), true)) };
}

function unitVectors(planes: readonly Float32Array[]): Float32Array[] {
  const length = planes[0].map((x, i) => Math.hypot(x, planes[1][i], planes[2][i]) || 1);
  return planes.map((plane) => plane.map((v, i) => v / length[i]));
}

/** Every ID in its colour; mixed along edges by coverage. */
function flatColors(film: FilmMemory, kind: IdKind, rows: readonly IdRow[], region: Region): Float32Array[] {
  const ids = film.ids[kind];
  const planes = RGB.map(() => new Float32Array(region.width * region.height));
  if (!ids) return planes;
  // What is seen through glass or in mirrors is only known where there are such surfaces: its shares are among themselves.
  const ofAll = kind === 'material' || kind === 'object';
  forPixels(film, region, (to, i, n) => {
    let samples = n;
    if (!ofAll) {
      samples = 0;
      for (let k = 0; k < IDS_PER_PIXEL; k++) samples += ids.count[i * IDS_PER_PIXEL + k];
    }
    forIds(ids, i, samples, (id, share) => {
      for (const [c, plane] of planes.entries()) plane[to] += rows[id].color[c] * share;
    });
  });
  return planes;
}

/** Numbers of materials in threes, each in a channel of its own. */
function rgbMattes(film: FilmMemory, rows: readonly IdRow[], region: Region): { name: string; planes: Float32Array[]; notes: Record<string, string> }[] {
  const ids = film.ids.material;
  const nameOf = (number: number) => rows.filter((row) => row.number === number).map((row) => row.name).join(' + ');
  const threes = matteNumbers(rows);
  const numbers = threes.flat();
  const mattes = threes.map((three) => ({
    name: `rgb_matte_${three.map((number) => `${number}_${asWord(nameOf(number))}`).join('_')}`,
    planes: RGB.map(() => new Float32Array(region.width * region.height)),
    notes: Object.fromEntries(three.map((number, c) => [`matte/${RGB[c]}`, `${number} ${nameOf(number)}`])),
  }));
  if (ids) {
    forPixels(film, region, (to, i, n) => forIds(ids, i, n, (id, share) => {
      const place = numbers.indexOf(rows[id].number);
      mattes[Math.floor(place / 3)].planes[place % 3][to] += share;
    }));
  }
  return mattes;
}

const bits = new Uint32Array(1);
const asFloat = new Float32Array(bits.buffer);

/** IDs and coverage in ranks, largest coverage first. @source Cryptomatte specification 1.2 */
function coverageMatte(film: FilmMemory, kind: 'material' | 'object', layer: string, rows: readonly IdRow[], role: RoleId, region: Region): ElementPicture {
  const area = region.width * region.height;
  const ids = film.ids[kind];
  const codes = rows.map(({ name }) => {
    bits[0] = cryptoBits(name);
    return asFloat[0];
  });
  let ranks = 2;
  if (ids) forPixels(film, region, (_to, i) => {
    for (let k = IDS_PER_PIXEL - 1; k >= ranks; k--) if (ids.id[i * IDS_PER_PIXEL + k] !== 0) ranks = k + 1;
  });
  const levels = Math.ceil(ranks / 2);
  const planes = Array.from({ length: levels * 4 }, () => new Float32Array(area));
  const found: { id: number; share: number }[] = [];
  if (ids) forPixels(film, region, (to, i, n) => {
    found.length = 0;
    forIds(ids, i, n, (id, share) => found.push({ id, share }));
    found.sort((a, b) => b.share - a.share || a.id - b.id);
    for (const [rank, { id, share }] of found.entries()) {
      planes[rank * 2][to] = codes[id];
      planes[rank * 2 + 1][to] = share;
    }
  });
  const channels = planes.map((data, k) => ({ name: `${layer}${String(k >> 2).padStart(2, '0')}.${'RGBA'[k & 3]}`, data }));
  return { name: layer, role, channels, needsFloat: true, notes: cryptoNotes(layer, rows.map((row) => row.name)) };
}
