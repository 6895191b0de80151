/** Figures in a picture at full size against layers of its size. */
import { applyEdit, type PlacedFigure, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { flattened, median, report, timed } from './measure.ts';

/** As large as people: the picture that stands for them is wider than high. */
const COUNT = 20;

/** @param plain one element of light, which is taken for metres and for the pictures of the figures as well */
export async function benchFigures(engine: Engine, plain: TazzelDocument, width: number, height: number): Promise<void> {
  const [light] = plain.sources;
  const metres = { ...light, id: 'source-metres', name: 'metres', role: 'depth' as const, encoding: 'data' as const, scale: 200, offset: 40 };
  const visitor = { ...light, id: 'source-visitor', name: 'visitor', role: 'picture' as const };
  const base = applyEdit(applyEdit({ ...plain, sources: [...plain.sources, metres, visitor] }, { type: 'set-camera', from: 'hand', params: {} }), { type: 'set-sun', from: 'hand', params: { place: 'angles', altitudeDegrees: 35, azimuthDegrees: 240 } });
  const element = (document: TazzelDocument) => applyEdit(applyEdit(document, { type: 'add-layer', layer: 'element', zone: 'scene', blend: 'multiply', params: { source: light.id } }), { type: 'set-layer', layerId: `layer-${document.buildUp.scene.length + 1}`, patch: { opacity: 0.5 } });
  const figures = Array.from({ length: COUNT }, (_, i): PlacedFigure => ({ sourceId: visitor.id, at: [((i + 0.5) / COUNT) * width, height * (0.57 + (0.2 * ((i * 7) % COUNT)) / COUNT)], groundMetres: 0, heightMetres: 0.76, mirrored: i % 2 === 1, leanDegrees: 0, foot: [0.5, 1], top: 0 }));
  const documents = [base, element(element(base)), applyEdit(base, { type: 'add-figures', figures })];
  let fresh = 0;
  const deliver = (document: TazzelDocument) => timed(() => flattened(engine, { document: applyEdit(document, { type: 'set-layer', layerId: document.buildUp.scene[0].id, patch: { opacity: 1 - ++fresh * 1e-7 } }), kind: 'rgba8' }));
  for (const document of documents) await deliver(document);
  const times: number[][] = documents.map(() => []);
  for (let i = 0; i < 3; i++) for (const [n, document] of documents.entries()) times[n].push(await deliver(document));
  const [nothing, layers, people] = times.map(median);
  report(`(bb) ${COUNT} figures in ${width} × ${height}, with shadows : two layers of its size`, { ours: people - nothing, theirs: layers - nothing, ratio: (people - nothing) / (layers - nothing) }, 1);
  console.log(`    with all that is read and written: without ${nothing.toFixed(0)} ms, with two layers ${layers.toFixed(0)} ms, with figures ${people.toFixed(0)} ms`);
}
