/**
 * Documents of earlier versions as this one writes them, version by version. What is not understood stays as it is: the schema says later what does
 * not fit.
 */
import { srgbDecode } from '../color/srgb.ts';
import { EMPTY_BOARD } from '../model/model.ts';

type Table = Record<string, unknown>;
const isTable = (value: unknown): value is Table => typeof value === 'object' && value !== null && !Array.isArray(value);

/** Layers of elements, fills and snapshots were kinds of their own, with fields of their own. */
function withType(layer: Table): Table {
  const { kind, sourceId, fill, layerId, ...rest } = layer;
  const picture = (params: Table) => ({ placement: null, ...rest, kind: 'picture', type: kind, params });
  if (kind === 'element' && !('roles' in layer)) return picture({ source: sourceId });
  if (kind === 'snapshot') return picture({ after: layerId });
  if (kind !== 'fill' || !isTable(fill)) return layer;
  const { from, to, ...places } = fill;
  const ends = [from, to].map((color) => (Array.isArray(color) && color.length === 4 ? color : null));
  return ends[0] && ends[1] ? picture({ ...places, from: ends[0].slice(0, 3), fromCoverPercent: ends[0][3] * 100, to: ends[1].slice(0, 3), toCoverPercent: ends[1][3] * 100 }) : picture(fill);
}

/** Layers, or entries of a recipe, as they were kept when parameters were numbers only: colours and places as numbers of their own, choices and flags by their place in a list. */
export const layersWithKinds = (list: unknown): unknown =>
  Array.isArray(list)
    ? list.map((layer) => {
        if (!isTable(layer)) return layer;
        const { correction, chain, layers } = layer;
        return { ...withType(layer), ...(isTable(correction) ? { correction: withKinds(correction) } : {}), ...(Array.isArray(chain) ? { chain: chain.map(withKinds) } : {}), ...(layers === undefined ? {} : { layers: layersWithKinds(layers) }) };
      })
    : list;

/** What a document of version n becomes in version n + 1, at the place n. */
const steps: Readonly<Record<number, (document: Table) => Table>> = {
  1: (document) => ({
    ...document,
    masks: Array.isArray(document.masks) ? document.masks.map((mask) => (isTable(mask) && Array.isArray(mask.terms) ? { ...mask, terms: mask.terms.map(termWithKinds) } : mask)) : document.masks,
    buildUp: isTable(document.buildUp) ? Object.fromEntries(Object.entries(document.buildUp).map(([zone, list]) => [zone, layersWithKinds(list)])) : document.buildUp,
  }),
  2: (document) => {
    const cameras: Table[] = [];
    const masks = Array.isArray(document.masks) ? document.masks.map((mask) => (isTable(mask) && Array.isArray(mask.terms) ? { ...mask, terms: mask.terms.map((term, i) => asLine(withoutAngles(term, (found) => cameras.push(found)), i)) } : mask)) : document.masks;
    return { ...document, masks, tone: { type: 'straight', params: {} }, camera: cameras.length > 0 ? cameraOfTerm(cameras[0], document.size) : null, sun: null };
  },
  3: (document) => ({ states: [], samplers: [], ...document }),
  4: (document) => ({ light: EMPTY_BOARD, ...document, states: Array.isArray(document.states) ? document.states.map((state) => (isTable(state) ? { mix: [], ...state } : state)) : document.states }),
};

/** Lines of masks had a kind, fields of their own beside their parameters, and no id. */
function asLine(term: unknown, index: number): unknown {
  if (!isTable(term) || typeof term.kind !== 'string') return term;
  const { kind, operation, muted, params, sourceId, layerId, materialIds, from, maskId, points, filled, strokes } = term;
  const given = { source: sourceId ?? undefined, after: layerId ?? undefined, materials: materialIds, from, mask: maskId, points, filled, strokes };
  const own = Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined));
  return { id: `term-${index + 1}`, type: kind, operation, muted: muted ?? false, params: { ...own, ...(isTable(params) ? params : {}) } };
}

/** Terms that read depths knew the camera by numbers of their own. */
function withoutAngles(term: unknown, tell: (camera: Table) => void): unknown {
  if (!isTable(term) || !isTable(term.params) || (term.kind !== 'height' && term.kind !== 'distance')) return term;
  const { viewDegrees = 65, horizonPercent = 50, eyeMetres = 1.6, ...params } = term.params;
  if (params.holds === 'depths') tell({ viewDegrees, horizonPercent, eyeMetres });
  return { ...term, params };
}

/** An upright camera with a known horizontal angle and horizon. */
function cameraOfTerm({ viewDegrees, horizonPercent, eyeMetres }: Table, size: unknown): Table | null {
  const { width, height } = isTable(size) ? size : {};
  if (![viewDegrees, horizonPercent, eyeMetres, width, height].every((value) => typeof value === 'number')) return null;
  const sensor = 36;
  const share = Number(height) / Number(width);
  return { from: 'hand', params: { focalMillimetres: sensor / 2 / Math.tan((Number(viewDegrees) * Math.PI) / 360), sensorMillimetres: sensor, shiftY: (Number(horizonPercent) / 100 - 0.5) * share * sensor, heightMetres: eyeMetres } };
}

/** @param to the version that is read */
export function migrated(document: Table, to: number): Table {
  let at = document;
  for (let version = Number(document.version); version < to && steps[version]; version++) at = { ...steps[version](at), version: version + 1 };
  return at;
}

/** Numbers that became one value of another kind; `null` if they are not there. */
type Convert = (params: Table) => Table | null;

/** `fallbacks` stand for numbers that were left out because they were the default. */
const joined = (to: string, fallbacks: Readonly<Record<string, number>>, make: (values: number[]) => unknown = (values) => values): Convert => (params) => {
  const names = Object.keys(fallbacks);
  if (!names.some((name) => typeof params[name] === 'number')) return null;
  const rest = Object.fromEntries(Object.entries(params).filter(([name]) => !names.includes(name)));
  return { ...rest, [to]: make(names.map((name) => (typeof params[name] === 'number' ? (params[name] as number) : fallbacks[name]))) };
};
const listed = (from: string, to: string, values: readonly unknown[]): Convert => (params) => {
  if (typeof params[from] !== 'number') return null;
  const { [from]: at, ...rest } = params;
  return { ...rest, [to]: values[at as number] ?? values[0] };
};

const GREY = 0.18;
const corrections: Readonly<Record<string, readonly Convert[]>> = {
  repaint: [joined('color', { red: GREY, green: GREY, blue: GREY }), joined('presentColor', { nowRed: GREY, nowGreen: GREY, nowBlue: GREY })],
  vignette: [joined('centre', { centreX: 50, centreY: 50 })],
  'gaussian-blur': [listed('staysInside', 'staysInside', [false, true])],
};

const terms: Readonly<Record<string, readonly Convert[]>> = {
  colour: [joined('color', { red: 128, green: 128, blue: 128 }, (codes) => codes.map((code) => srgbDecode(code / 255))), joined('at', { atX: 0, atY: 0 }), listed('isConnected', 'extent', ['everywhere', 'connected'])],
  facing: [joined('direction', { x: 0, y: 1, z: 0 })],
  channel: [listed('channel', 'channel', ['red', 'green', 'blue'])],
  distance: [listed('isDepth', 'holds', ['distances', 'depths'])],
  height: [listed('isDepth', 'holds', ['positions', 'depths']), listed('upAxis', 'up', ['y', 'z', 'x'])],
  gradient: [listed('isSmooth', 'passage', ['straight', 'smooth'])],
};

const converted = (converts: readonly Convert[] | undefined, params: unknown): unknown => (isTable(params) ? (converts ?? []).reduce<Table>((values, convert) => convert(values) ?? values, params) : params);

function withKinds(use: unknown): unknown {
  return isTable(use) ? { blend: 'all', ...use, params: converted(corrections[String(use.type)], use.params) } : use;
}

function termWithKinds(term: unknown): unknown {
  return isTable(term) && 'params' in term ? { ...term, params: converted(terms[String(term.kind)], term.params) } : term;
}
