/** Small documents for tests, made with the edits that the product makes. */
import { applyEdit, type Edit, emptyDocument, type Encoding, type Fill, type KeptValues, type Material, type Source, type TazzelDocument, type Zone } from '@tazzel/core';

export const hashOf = (n: number) => n.toString(16).padStart(64, '0');

export function source(n: number, patch: Partial<Source> = {}): Source {
  return {
    id: `source-${n}`,
    name: `element ${n}`,
    role: 'picture',
    guess: null,
    findings: [],
    file: { hash: hashOf(n), name: `element-${n}.exr`, format: 'exr', byteLength: 1000 },
    part: 0,
    colorChannels: ['R', 'G', 'B'],
    alphaChannel: null,
    encoding: 'linear',
    alpha: 'none',
    scale: 1,
    offset: 0,
    inSum: 'auto',
    fit: null,
    width: 8,
    height: 6,
    x: 0,
    y: 0,
    ...patch,
  };
}

export const material = (n: number, sourceId: string): Material => ({ id: `material-${n}`, kind: 'material', surface: null, coverage: null, mean: null, tag: `M0${n}`, name: `M0${n}`, sourceId, colorKey: n, chip: [n / 10, 0, 0], area: 0.5 });

/** Parameters of a fill that is one colour or a ramp. */
export const fillParams = ({ from, to, ...places }: Fill): KeptValues => ({ ...places, from: [from[0], from[1], from[2]], fromCoverPercent: from[3] * 100, to: [to[0], to[1], to[2]], toCoverPercent: to[3] * 100 });

export const after = (document: TazzelDocument, ...edits: readonly Edit[]): TazzelDocument => edits.reduce(applyEdit, document);

/** Two elements and an ID picture with two materials; one layer under the tone line, one over it. */
export function smallDocument(encodings: readonly Encoding[] = ['linear', 'display']): TazzelDocument {
  const ids = source(3, { role: 'material-id', encoding: 'data', name: 'ids' });
  const zones: readonly Zone[] = ['scene', 'picture'];
  return after(
    emptyDocument('doc', 'Test', { width: 8, height: 6 }),
    { type: 'add-sources', sources: [...encodings.map((encoding, i) => source(i + 1, { encoding })), ids] },
    { type: 'set-materials', sourceId: ids.id, materials: [material(1, ids.id), material(2, ids.id)] },
    ...encodings.map((_, i): Edit => ({ type: 'add-layer', layer: 'element', params: { source: `source-${i + 1}` }, zone: zones[i] })),
  );
}
