/** Air over a picture at full size against a tone curve on the same picture. */
import { applyEdit, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { median, report, timed } from './measure.ts';

/** @param plain one element of light, which is taken for metres as well */
export async function benchAir(engine: Engine, plain: TazzelDocument, width: number, height: number): Promise<void> {
  const [light] = plain.sources;
  const metres = { ...light, id: 'source-metres', name: 'metres', role: 'distance' as const, encoding: 'data' as const, scale: 200 };
  const base = applyEdit({ ...plain, sources: [...plain.sources, metres] }, { type: 'set-camera', from: 'hand', params: {} });
  const foggy = applyEdit(base, { type: 'add-layer', layer: 'air', zone: 'scene', params: { glowPercent: 20 } });
  const curved = applyEdit(base, { type: 'set-tone', tone: 'filmic' });
  let fresh = 0;
  const deliver = (document: TazzelDocument) => timed(() => engine.flatten({ document: applyEdit(document, { type: 'set-layer', layerId: document.buildUp.scene[0].id, patch: { opacity: 1 - ++fresh * 1e-7 } }), kind: 'rgba8' }));
  await deliver(foggy);
  const documents = [base, curved, foggy];
  const times: number[][] = documents.map(() => []);
  for (let i = 0; i < 7; i++) for (const [n, document] of documents.entries()) times[n].push(await deliver(document));
  const [nothing, curve, air] = times.map(median);
  report(`(v) air of ${width} × ${height}, its depth taken apart already : a tone curve`, { ours: air - nothing, theirs: curve - nothing, ratio: (air - nothing) / (curve - nothing) }, 2);
  console.log(`    with all that is read and written: without ${nothing.toFixed(0)} ms, with the curve ${curve.toFixed(0)} ms, with the air ${air.toFixed(0)} ms`);
}
