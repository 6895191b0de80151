import type { Mask, Material, Source, TazzelDocument } from '../model/model.ts';
import { choice } from '../params/choice.ts';
import { materials } from '../params/references.ts';
import { completeParams, type ParamValues, referencesOf } from '../params/table.ts';
import { findMaterial, findSource } from '../model/query.ts';
import { behindSource, coverageRanks } from '../elements/coverage.ts';
import { sizeAtLevel } from '../raster/region.ts';
import { sampleReader } from '../raster/read.ts';
import { remembered } from '../remembered.ts';
import { type FillRow, type MaskInputs, type MaterialPlace, type MixtureView, type Need, needKey, defineTerm } from './define.ts';

/** The place of every row among those of its own source. */
const rowNumbers = remembered((materials: readonly Material[]): ReadonlyMap<string, number> => {
  const counts = new Map<string, number>();
  return new Map(materials.map(({ id, sourceId }) => {
    const at = counts.get(sourceId) ?? 0;
    counts.set(sourceId, at + 1);
    return [id, at];
  }));
});

/** How a row of the schedule is found in its pictures. */
export function placeOf(document: TazzelDocument, material: Material): MaterialPlace {
  const role = document.sources.find(({ id }) => id === material.sourceId)?.role;
  const what = role === 'coverage-matte' ? 'coverage' : role === 'rgb-matte' ? 'channel' : 'flat';
  const index = rowNumbers(document.materials).get(material.id) ?? 0;
  const matte = what === 'coverage' ? { sourceId: material.sourceId, hash: material.colorKey } : material.coverage;
  const ranks = matte ? coverageRanks(document.sources, matte.sourceId) : [];
  const source = document.sources.find(({ id }) => id === material.sourceId);
  const behindId = what === 'flat' && source ? (behindSource(document, source)?.id ?? null) : null;
  return { sourceId: material.sourceId, index, colorKey: material.colorKey, what, behindId, coverage: matte && ranks.length > 0 ? { sourceId: ranks[0].id, hash: matte.hash } : null };
}

/** Where all materials of a mask are found, by their ids. */
export function materialPlaces(document: TazzelDocument, { terms }: Pick<Mask, 'terms'>): Record<string, MaterialPlace> {
  const rows = terms.flatMap((term) => (term.type === material.id ? rowsOf(completeParams(material, term.params) as Values, document) : []));
  return Object.fromEntries(rows.map((row) => [row.id, placeOf(document, row)]));
}

const params = {
  materials: materials({ label: 'Materials', help: 'Rows of the schedule: materials or objects.' }),
  from: choice({
    label: 'From',
    options: { auto: 'The best there is', coverage: 'Coverage mattes', flat: 'Flat colours', behind: 'Behind glass, mirrored' },
    default: 'auto',
    help: 'Exact shares of coverage mattes where there are some; shares recovered from the mixed colours along edges; or only where it is seen through others or in them, by a second ID picture.',
  }),
};
type Values = ParamValues<typeof params>;

const rowsOf = (values: Values, document: TazzelDocument) => values.materials.flatMap((id) => findMaterial(document, id) ?? []);

const goneSentence = (values: Values, rows: readonly Material[]) => `${values.materials.length - rows.length} of its ${values.materials.length} materials are not in the schedule any more.`;

/** Where a term reads one of its materials: exact coverage where there is some and it is not refused. */
const readsCoverage = ({ from }: Values, { coverage, what }: MaterialPlace) => coverage !== null && (what === 'coverage' || from === 'auto' || from === 'coverage');

/** Materials or objects of the schedule. Shares of a pixel, so that two that touch leave no seam. */
export const material = defineTerm({
  id: 'material',
  label: 'Material',
  summary: 'Materials or objects of the schedule, with the exact share of every edge pixel.',
  params,
  reads: null,
  areShares: true,
  isSmooth: false,
  worksInPart: true,
  needs: (term, document) => {
    const needs = new Map<string, Need>();
    const add = (need: Need) => needs.set(needKey(need), need);
    for (const row of rowsOf(term, document)) {
      const place = placeOf(document, row);
      if (readsCoverage(term, place) && place.coverage) add({ what: 'coverage', sourceId: place.coverage.sourceId });
      else if (term.from === 'behind' && place.behindId !== null) {
        add({ what: 'mixture', sourceId: row.sourceId });
        add({ what: 'mixture', sourceId: place.behindId });
      } else if (document.sources.some(({ id }) => id === row.sourceId)) add({ what: place.what === 'channel' ? 'matte' : 'mixture', sourceId: row.sourceId });
    }
    return [...needs.values()];
  },
  fault: (term, document) => {
    if (term.materials.length === 0) return 'No material is chosen. Click one in the picture or in the schedule.';
    const rows = rowsOf(term, document);
    const lost = rows.find(({ sourceId }) => !findSource(document, sourceId));
    if (lost && rows.every(({ sourceId }) => !findSource(document, sourceId))) return `The ID picture of ${lost.name} is gone.`;
    return rows.length === 0 ? goneSentence(term, rows) : null;
  },
  problem: (term, document) => {
    const rows = rowsOf(term, document);
    if (rows.length < term.materials.length) return goneSentence(term, rows);
    const gone = rows.filter(({ area }) => area === 0);
    if (gone.length > 0) return `${gone.map(({ name }) => name).join(', ')}: not in the new render.`;
    const lost = rows.find(({ sourceId }) => !document.sources.some(({ id }) => id === sourceId));
    if (lost) return `The ID picture of ${lost.name} is gone.`;
    if (term.from === 'behind' && rows.some((row) => placeOf(document, row).behindId === null)) return 'The render does not say what is seen through glass or mirrored: it needs a second ID picture of that. What is in front is selected instead.';
    const { size } = document;
    // What an EXR's data window leaves out or adds, or the artist has placed, is where it belongs; a picture of another size at the corner is not.
    const isMisplaced = ({ fit, width, height, x, y }: Source) => {
      const [across, down] = [(fit ?? { width }).width, (fit ?? { height }).height];
      return x === 0 && y === 0 && (across < size.width || down < size.height);
    };
    const partial = rows.flatMap(({ sourceId }) => document.sources.find(({ id }) => id === sourceId) ?? []).find(isMisplaced);
    return partial ? `${partial.name} is ${partial.width} × ${partial.height}, the picture ${size.width} × ${size.height}: the mask covers only what it covers. Fit it under Elements.` : null;
  },
  prepare: (term, inputs) => {
    const layers: FillRow[] = [];
    const places = term.materials.flatMap((id) => inputs.materials[id] ?? []);
    const flat = new Map<string, Set<number>>();
    const behind = new Map<string, { front: string; indices: Set<number> }>();
    const hashes = new Map<string, Set<number>>();
    const put = (to: Map<string, Set<number>>, key: string, value: number) => to.set(key, (to.get(key) ?? new Set()).add(value));
    for (const place of places) {
      if (readsCoverage(term, place) && place.coverage) put(hashes, place.coverage.sourceId, place.coverage.hash);
      else if (term.from === 'behind' && place.behindId !== null) behind.set(place.behindId, { front: place.sourceId, indices: (behind.get(place.behindId)?.indices ?? new Set()).add(place.index) });
      else if (place.what === 'channel') layers.push(channelRows(place, inputs));
      else put(flat, place.sourceId, place.index);
    }
    const flatRows = (sourceId: string, indices: ReadonlySet<number>) => mixtureRows(inputs.mixtures[needKey({ what: 'mixture', sourceId })], indices, inputs);
    for (const [sourceId, indices] of flat) layers.push(flatRows(sourceId, indices));
    for (const [sourceId, { front, indices }] of behind) layers.push(behindRows(flatRows(sourceId, indices), flatRows(front, indices)));
    for (const [sourceId, wanted] of hashes) {
      const coverage = inputs.coverages[needKey({ what: 'coverage', sourceId })];
      layers.push(mixtureRows(coverage, new Set(coverage ? [...coverage.hashes.keys()].filter((i) => wanted.has(coverage.hashes[i])) : []), inputs));
    }
    if (layers.length === 1) return layers[0];
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
});

/** Ids of the materials that the lines of a mask name. */
export const materialsIn = ({ terms }: Pick<Mask, 'terms'>): string[] => terms.flatMap(({ type, params: given }) => (type === material.id ? referencesOf(material, given, 'materials') : []));

/** Rows of coverage at full size, averaged over the pixels of a level: a reduced mask is as soft as the reduced picture. `addRow` adds to a row of the level. */
function reduced({ size, level }: MaskInputs, place: { readonly y: number; readonly height: number }, addRow: (sy: number, out: Float32Array) => void): FillRow {
  const block = 2 ** level;
  return (y, out) => {
    out.fill(0);
    const rows = Math.min(block, size.height - y * block);
    for (let k = 0; k < rows; k++) {
      const sy = y * block + k - place.y;
      if (sy >= 0 && sy < place.height) addRow(sy, out);
    }
    if (level > 0) for (let x = 0; x < out.length; x++) out[x] /= rows * Math.min(block, size.width - x * block);
  };
}

/** The shares of some colours. */
function mixtureRows(mixture: MixtureView | undefined, indices: ReadonlySet<number>, inputs: MaskInputs): FillRow {
  if (!mixture) return (_, out) => void out.fill(0);
  const { index, edges, each, parts, shares, width } = mixture;
  const table = new Uint8Array(65536);
  for (const i of indices) table[i] = 1;
  const { size, level } = inputs;
  const firstX = Math.max(0, mixture.x);
  const lastX = Math.min(size.width, mixture.x + width);
  let edge = 0;
  let expected = -1;
  return reduced(inputs, mixture, (sy, out) => {
    addFound(out, index, sy * width - mixture.x, table, firstX, lastX, level);
    // Edge pixels stand in order: going on from the row before is the usual case.
    const from = sy * width;
    if (expected !== sy) edge = lowerBound(edges, from);
    expected = sy + 1;
    for (; edge < edges.length && edges[edge] < from + width; edge++) {
      const x = edges[edge] - from + mixture.x;
      if (x < 0 || x >= size.width) continue;
      let share = 0;
      for (let n = edge * each; n < (edge + 1) * each; n++) if (table[parts[n]] === 1) share += shares[n];
      out[x >> level] += share / 255 - table[index[edges[edge]]];
    }
  });
}

/** A loop of its own: as part of a closure it took several times as long. */
function addFound(out: Float32Array, index: Uint16Array, start: number, table: Uint8Array, first: number, last: number, level: number): void {
  if (level === 0) for (let x = first; x < last; x++) out[x] = table[index[start + x]];
  else for (let x = first; x < last; x++) out[x >> level] += table[index[start + x]];
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

function channelRows({ sourceId, colorKey }: MaterialPlace, inputs: MaskInputs): FillRow {
  const { mattes, size, level } = inputs;
  const matte = mattes[needKey({ what: 'matte', sourceId })];
  const plane = matte?.planes[colorKey];
  if (!plane) return (_, out) => void out.fill(0);
  const value = sampleReader(plane);
  const { width, height } = plane;
  const [firstX, lastX] = [Math.max(0, matte.x), Math.min(size.width, matte.x + width)];
  return reduced(inputs, { y: matte.y, height }, (sy, out) => {
    const start = sy * width - matte.x;
    for (let x = firstX; x < lastX; x++) out[x >> level] += Math.min(1, Math.max(0, value(start + x)));
  });
}
