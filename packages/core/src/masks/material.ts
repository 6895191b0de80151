import type { Mask, Material, MaterialTerm, TazzelDocument } from '../document/model.ts';
import { behindSource, coverageRanks } from '../elements/coverage.ts';
import { sizeAtLevel } from '../raster/region.ts';
import type { Plane } from '../raster/planes.ts';
import { sampleReader } from '../raster/read.ts';
import { type FillRow, type MaskInputs, type MaterialPlace, type Need, needKey, type TermSpec } from './define.ts';

const numbers = new WeakMap<readonly Material[], ReadonlyMap<string, number>>();
/** The place of every row among those of its own source. */
function rowNumbers(materials: readonly Material[]): ReadonlyMap<string, number> {
  const known = numbers.get(materials);
  if (known) return known;
  const counts = new Map<string, number>();
  const made = new Map(materials.map(({ id, sourceId }) => {
    const at = counts.get(sourceId) ?? 0;
    counts.set(sourceId, at + 1);
    return [id, at];
  }));
  numbers.set(materials, made);
  return made;
}

/** How a row of the schedule is found in its pictures. */
export function placeOf(document: TazzelDocument, material: Material): MaterialPlace {
  const role = document.sources.find(({ id }) => id === material.sourceId)?.role;
  const what = role === 'coverage-matte' ? 'coverage' : role === 'rgb-matte' ? 'channel' : 'flat';
  const index = rowNumbers(document.materials).get(material.id) ?? 0;
  const matte = what === 'coverage' ? { sourceId: material.sourceId, hash: material.colorKey } : material.coverage;
  const ranks = matte ? coverageRanks(document.sources, matte.sourceId) : [];
  const source = document.sources.find(({ id }) => id === material.sourceId);
  const behindId = what === 'flat' && source ? (behindSource(document, source)?.id ?? null) : null;
  return { sourceId: material.sourceId, index, colorKey: material.colorKey, what, behindId, coverage: matte && ranks.length > 0 ? { sourceIds: ranks.map(({ id }) => id), hash: matte.hash } : null };
}

/** Where all materials of a mask are found, by their ids. */
export function materialPlaces(document: TazzelDocument, { terms }: Pick<Mask, 'terms'>): Record<string, MaterialPlace> {
  const rows = terms.flatMap((term) => (term.kind === 'material' ? rowsOf(term, document) : []));
  return Object.fromEntries(rows.map((row) => [row.id, placeOf(document, row)]));
}

const rowsOf = ({ materialIds }: MaterialTerm, { materials }: TazzelDocument) => materialIds.flatMap((id) => materials.find((row) => row.id === id) ?? []);

/** Where a term reads one of its materials: exact coverage where there is some and it is not refused. */
const readsCoverage = ({ from }: MaterialTerm, { coverage, what }: MaterialPlace) => coverage !== null && (what === 'coverage' || from === 'auto' || from === 'coverage');

/** Materials or objects of the schedule. Shares of a pixel, so that two that touch leave no seam. */
export const material: TermSpec<'material'> = {
  kind: 'material',
  label: 'Material',
  summary: 'Materials or objects of the schedule, with the exact share of every edge pixel.',
  params: {},
  reads: null,
  areShares: true,
  needs: (term, document) => {
    const needs = new Map<string, Need>();
    const add = (need: Need) => needs.set(needKey(need), need);
    for (const row of rowsOf(term, document)) {
      const place = placeOf(document, row);
      if (readsCoverage(term, place)) for (const sourceId of place.coverage?.sourceIds ?? []) add({ what: 'matte', sourceId });
      else if (term.from === 'behind' && place.behindId !== null) {
        add({ what: 'mixture', sourceId: row.sourceId });
        add({ what: 'mixture', sourceId: place.behindId });
      } else if (document.sources.some(({ id }) => id === row.sourceId)) add({ what: place.what === 'channel' ? 'matte' : 'mixture', sourceId: row.sourceId });
    }
    return [...needs.values()];
  },
  problem: (term, document) => {
    if (term.materialIds.length === 0) return 'No material is chosen. Click one in the picture or in the schedule.';
    const rows = rowsOf(term, document);
    if (rows.length < term.materialIds.length) return `${term.materialIds.length - rows.length} of its ${term.materialIds.length} materials are not in the schedule any more.`;
    const gone = rows.filter(({ area }) => area === 0);
    if (gone.length > 0) return `${gone.map(({ name }) => name).join(', ')}: not in the new render.`;
    const lost = rows.find(({ sourceId }) => !document.sources.some(({ id }) => id === sourceId));
    if (lost) return `The ID picture of ${lost.name} is gone.`;
    if (term.from === 'behind' && rows.some((row) => placeOf(document, row).behindId === null)) return 'The render does not say what is seen through glass or mirrored: it needs a second ID picture of that. What is in front is selected instead.';
    const { size } = document;
    const partial = rows.flatMap(({ sourceId }) => document.sources.find(({ id }) => id === sourceId) ?? []).find(({ fit, width, height }) => (fit ?? { width }).width !== size.width || (fit ?? { height }).height !== size.height);
    return partial ? `${partial.name} is ${partial.width} × ${partial.height}, the picture ${size.width} × ${size.height}: the mask covers only what it covers. Fit it under Elements.` : null;
  },
  prepare: (term, inputs) => {
    const layers: FillRow[] = [];
    const places = term.materialIds.flatMap((id) => inputs.materials[id] ?? []);
    const flat = new Map<string, Set<number>>();
    const behind = new Map<string, { front: string; indices: Set<number> }>();
    const mattes = new Map<string, { sourceIds: readonly string[]; hashes: Set<number> }>();
    for (const place of places) {
      if (readsCoverage(term, place) && place.coverage) {
        const key = place.coverage.sourceIds.join();
        const entry = mattes.get(key) ?? { sourceIds: place.coverage.sourceIds, hashes: new Set() };
        entry.hashes.add(place.coverage.hash);
        mattes.set(key, entry);
      } else if (term.from === 'behind' && place.behindId !== null) behind.set(place.behindId, { front: place.sourceId, indices: (behind.get(place.behindId)?.indices ?? new Set()).add(place.index) });
      else if (place.what === 'channel') layers.push(channelRows(place, inputs));
      else flat.set(place.sourceId, (flat.get(place.sourceId) ?? new Set()).add(place.index));
    }
    for (const [sourceId, indices] of flat) layers.push(mixtureRows(sourceId, indices, inputs));
    for (const [sourceId, { front, indices }] of behind) layers.push(behindRows(mixtureRows(sourceId, indices, inputs), mixtureRows(front, indices, inputs)));
    for (const { sourceIds, hashes } of mattes.values()) layers.push(matteRows(sourceIds, hashes, inputs));
    const own = new Float32Array(sizeAtLevel(inputs.size, inputs.level).width);
    return (y, out) => {
      out.fill(0);
      for (const fill of layers) {
        fill(y, own);
        for (let x = 0; x < out.length; x++) out[x] = Math.min(1, out[x] + own[x]);
      }
    };
  },
  source: 'common practice of colour unmixing, no published source for the limits; Cryptomatte specification 1.2',
};

/** A function from a pixel at full size to its coverage, summed over the pixels of a level: a reduced mask is as soft as the reduced picture. */
function reduced(inputs: MaskInputs, place: { x: number; y: number; width: number; height: number }, row: (sy: number, add: (sx: number, value: number) => void) => void): FillRow {
  const { size, level } = inputs;
  const block = 2 ** level;
  return (y, out) => {
    out.fill(0);
    const rows = Math.min(block, size.height - y * block);
    for (let k = 0; k < rows; k++) {
      const sy = y * block + k - place.y;
      if (sy < 0 || sy >= place.height) continue;
      row(sy, (sx, value) => {
        const x = sx + place.x;
        if (x >= 0 && x < size.width) out[x >> level] += value;
      });
    }
    for (let x = 0; x < out.length; x++) out[x] /= rows * Math.min(block, size.width - x * block);
  };
}

function mixtureRows(sourceId: string, indices: ReadonlySet<number>, inputs: MaskInputs): FillRow {
  const mixture = inputs.mixtures[needKey({ what: 'mixture', sourceId })];
  if (!mixture) return (_, out) => void out.fill(0);
  const { index, edges, parts, shares, width } = mixture;
  const table = new Uint8Array(65536);
  for (const i of indices) table[i] = 1;
  const { size, level } = inputs;
  const firstX = Math.max(0, mixture.x);
  const lastX = Math.min(size.width, mixture.x + width);
  const block = 2 ** level;
  let edge = 0;
  let expected = -1;
  return (y, out) => {
    out.fill(0);
    const rows = Math.min(block, size.height - y * block);
    for (let k = 0; k < rows; k++) {
      const sy = y * block + k - mixture.y;
      if (sy < 0 || sy >= mixture.height) continue;
      const start = sy * width - mixture.x;
      for (let x = firstX; x < lastX; x++) out[x >> level] += table[index[start + x]];
      // Edge pixels stand in order: going on from the row before is the usual case.
      const from = sy * width;
      if (expected !== sy) edge = lowerBound(edges, from);
      expected = sy + 1;
      for (; edge < edges.length && edges[edge] < from + width; edge++) {
        const x = edges[edge] - from + mixture.x;
        if (x < 0 || x >= size.width) continue;
        let share = 0;
        for (let n = edge * 3; n < edge * 3 + 3; n++) if (table[parts[n]] === 1) share += shares[n];
        out[x >> level] += share / 255 - table[index[edges[edge]]];
      }
    }
    for (let x = 0; x < out.length; x++) out[x] /= rows * Math.min(block, size.width - x * block);
  };
}

/** What is there in one picture and not already in front. */
function behindRows(back: FillRow, front: FillRow): FillRow {
  let own = new Float32Array(0);
  return (y, out) => {
    if (own.length !== out.length) own = new Float32Array(out.length);
    back(y, out);
    front(y, own);
    for (let x = 0; x < out.length; x++) out[x] = Math.max(0, out[x] - own[x]);
  };
}

function lowerBound(sorted: Uint32Array, value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The bits of a 32-bit float as the whole number that a hash is. */
function bitsOf({ data, type }: Plane): Uint32Array | null {
  return type === 'f32' ? new Uint32Array(data.buffer, data.byteOffset, data.length) : type === 'u32' ? (data as Uint32Array) : null;
}

function matteRows(sourceIds: readonly string[], hashes: ReadonlySet<number>, inputs: MaskInputs): FillRow {
  const ranks = sourceIds.flatMap((sourceId) => {
    const matte = inputs.mattes[needKey({ what: 'matte', sourceId })];
    if (!matte || matte.planes.length < 2) return [];
    const pairs = [[0, 1], [2, 3]].filter(([, coverage]) => coverage < matte.planes.length);
    return pairs.flatMap(([id, coverage]) => {
      const ids = bitsOf(matte.planes[id]);
      return ids ? [{ ids, coverage: sampleReader(matte.planes[coverage]), matte }] : [];
    });
  });
  if (ranks.length === 0) return (_, out) => void out.fill(0);
  const [{ matte }] = ranks;
  const { width, height } = matte.planes[0];
  return reduced(inputs, { x: matte.x, y: matte.y, width, height }, (sy, add) => {
    for (const { ids, coverage } of ranks) {
      // Neighbours mostly carry the same name: it is looked up once.
      let last = -1;
      let isIn = false;
      for (let sx = 0, i = sy * width; sx < width; sx++, i++) {
        if (ids[i] !== last) {
          last = ids[i];
          isIn = hashes.has(last);
        }
        if (isIn) add(sx, coverage(i));
      }
    }
  });
}

function channelRows({ sourceId, colorKey }: MaterialPlace, inputs: MaskInputs): FillRow {
  const matte = inputs.mattes[needKey({ what: 'matte', sourceId })];
  const plane = matte?.planes[colorKey];
  if (!plane) return (_, out) => void out.fill(0);
  const value = sampleReader(plane);
  const { width, height } = plane;
  return reduced(inputs, { x: matte.x, y: matte.y, width, height }, (sy, add) => {
    for (let sx = 0; sx < width; sx++) add(sx, Math.min(1, Math.max(0, value(sy * width + sx))));
  });
}
