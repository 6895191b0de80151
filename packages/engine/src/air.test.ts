/** Air over the demo's depth against the fog that the stand-in renderer traced in the same scene: its alpha is what that fog hides. */
import { readFileSync } from 'node:fs';
import { addElements, emptyDocument, type PictureLayer, readDocument, type TazzelDocument } from '@tazzel/core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { demoSet } from '../../../tests/elements.ts';
import { namedSources } from '../../../tests/sources.ts';
import type { Engine } from './engine.ts';

let engine: Engine;
let yard: TazzelDocument;
beforeAll(async () => {
  engine = await builtEngine();
  const sources = await namedSources(engine, [...demoSet('courtyard'), ...demoSet('courtyard_fog')]);
  const { camera } = readDocument(JSON.parse(readFileSync(new URL('../../../apps/web/public/demo/document.json', import.meta.url), 'utf8'))).document;
  yard = after(addElements(emptyDocument('air', 'Air', sources[0]), sources), { type: 'set-camera', from: 'file', params: camera?.params ?? {} });
}, 120_000);
afterAll(() => engine.pool.terminate());

const redOf = async (document: TazzelDocument) => {
  const { pixels } = await engine.flatten({ document, kind: 'float' });
  return new Float32Array(pixels).subarray(0, document.size.width * document.size.height);
};
const only = (document: TazzelDocument, ...edits: Parameters<typeof after>[1][]) => after({ ...document, buildUp: { scene: [], picture: [] } }, ...edits);

it('hides what the traced fog hides: on average to 0.1 %, ninety-nine of a hundred pixels to 1 %', async () => {
  const [still, fog] = yard.sources.filter(({ role }) => role === 'alpha');
  const traced = await redOf(only(yard, { type: 'add-layer', layer: 'element', params: { source: fog.id }, zone: 'scene' }));
  const black = only(yard, { type: 'add-layer', layer: 'fill', zone: 'scene', params: { from: [0, 0, 0] } }, { type: 'add-layer', layer: 'air', zone: 'scene' });
  // As the scene says: a mean free path of 70 m, e times thinner in 6 m.
  const params = { visibilityMetres: 70 * Math.log(50), fallOffMetres: 6, color: [1, 1, 1] as const, alpha: still.id };
  const ours = await redOf(after(black, { type: 'set-params', layerId: (black.buildUp.scene[1] as PictureLayer).id, params }));
  const errors = ours.map((value, i) => Math.abs(value - traced[i]));
  expect(errors.reduce((sum, error) => sum + error, 0) / errors.length).toBeLessThan(0.001);
  const sorted = errors.toSorted();
  expect(sorted[Math.floor(sorted.length * 0.99)]).toBeLessThan(0.01);
  // There is something to hide.
  expect(traced.reduce((sum, hidden) => sum + hidden, 0) / traced.length).toBeGreaterThan(0.05);
});
