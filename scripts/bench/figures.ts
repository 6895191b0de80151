/** Figures in a picture at full size against layers of its size. */
import { applyEdit, type PlacedFigure, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import type { ExrChannelData } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import { elementOf } from './graph.ts';
import { flattened, median, report, timed } from './measure.ts';
import { yardDepth } from './scene.ts';

const COUNT = 20;
/** A cut-out as people have them: an upright oval that fills three quarters of its picture. */
const CUT_OUT = { width: 640, height: 1600 };

function cutOut(): ExrChannelData[] {
  const { width, height } = CUT_OUT;
  const covered = (i: number) => Math.min(1, Math.max(0, (1 - Math.hypot(((i % width) / width) * 2 - 1, (Math.floor(i / width) / height) * 2 - 1)) * 100));
  const plane = (of: (i: number) => number) => Float32Array.from({ length: width * height }, (_, i) => of(i));
  return [...['R', 'G', 'B'].map((name, c) => ({ name, type: 'f32' as const, data: plane((i) => covered(i) * (0.2 + 0.1 * c + ((i * 7) % 64) / 256)) })), { name: 'A', type: 'f32', data: plane(covered) }];
}

/** @param plain one element of light */
export async function benchFigures(engine: Engine, plain: TazzelDocument, kernels: Kernels, folder: string, width: number, height: number): Promise<void> {
  const [light] = plain.sources;
  const [yard] = await elementOf(engine, kernels, folder, 'yard', { width, height }, [{ name: 'Y', type: 'f32', data: yardDepth(width, height) }]);
  const metres = { ...yard, name: 'metres', role: 'depth' as const, encoding: 'data' as const };
  const [person] = await elementOf(engine, kernels, folder, 'person', CUT_OUT, cutOut());
  const visitor = { ...person, role: 'picture' as const };
  const base = applyEdit(applyEdit({ ...plain, sources: [...plain.sources, metres, visitor] }, { type: 'set-camera', from: 'hand', params: { focalMillimetres: 50 } }), { type: 'set-sun', from: 'hand', params: { place: 'angles', altitudeDegrees: 35, azimuthDegrees: 240 } });
  const element = (document: TazzelDocument) => applyEdit(applyEdit(document, { type: 'add-layer', layer: 'element', zone: 'scene', blend: 'multiply', params: { source: light.id } }), { type: 'set-layer', layerId: `layer-${document.buildUp.scene.length + 1}`, patch: { opacity: 0.5 } });
  const figures = Array.from({ length: COUNT }, (_, i): PlacedFigure => ({ sourceId: visitor.id, at: [((i + 0.5) / COUNT) * width, height * (0.57 + (0.2 * ((i * 7) % COUNT)) / COUNT)], groundMetres: 0, heightMetres: 1.7, mirrored: i % 2 === 1, leanDegrees: 0, foot: [0.5, 1], top: 0 }));
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
