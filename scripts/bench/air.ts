/** Air and skies over a picture at full size against a tone curve on the same picture. */
import { applyEdit, type KeptValues, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import type { Kernels } from '@tazzel/kernels';
import { elementOf } from './graph.ts';
import { flattened, median, report, timed } from './measure.ts';
import { yardDepth } from './scene.ts';

/** @param plain one element of light, which is taken for an alpha as well */
export async function benchAir(engine: Engine, plain: TazzelDocument, kernels: Kernels, folder: string, width: number, height: number): Promise<void> {
  let fresh = 0;
  const [light] = plain.sources;
  const [read] = await elementOf(engine, kernels, folder, 'metres', { width, height }, [{ name: 'Y', type: 'f32', data: yardDepth(width, height) }]);
  const metres = { ...read, name: 'metres', role: 'distance' as const, encoding: 'data' as const };
  const base = applyEdit({ ...plain, sources: [...plain.sources, metres] }, { type: 'set-camera', from: 'hand', params: {} });
  const foggy = applyEdit(base, { type: 'add-layer', layer: 'air', zone: 'scene', params: { glowPercent: 20 } });
  const covered = { ...light, id: 'source-alpha', name: 'alpha', role: 'alpha' as const, encoding: 'data' as const };
  const behind = (params: KeptValues) => applyEdit({ ...base, sources: [...base.sources, covered] }, { type: 'add-layer', layer: 'sky', zone: 'scene', params: { edges: 'plain', sunFrom: 'own', ...params } });
  const [clear, clouded] = [behind({}), behind({ clouds: 'cumulus' })];
  const everything = { width: 4096, height: 2048 };
  const [around] = await elementOf(engine, kernels, folder, 'around', everything, ['R', 'G', 'B'].map((name, c) => ({ name, type: 'f32', data: Float32Array.from({ length: everything.width * everything.height }, (_, i) => 0.2 + 0.1 * c + ((i * 7) % 64) / 256) })));
  // Another turn each time: what was seen is not kept.
  const environment = () => {
    const document = behind({ look: 'environment', environment: around.id, turnDegrees: ++fresh % 90 });
    return { ...document, sources: [...document.sources, around] };
  };
  const curved = applyEdit(base, { type: 'set-tone', tone: 'filmic' });
  const deliver = (document: TazzelDocument) => timed(() => flattened(engine, { document: applyEdit(document, { type: 'set-layer', layerId: document.buildUp.scene[0].id, patch: { opacity: 1 - ++fresh * 1e-7 } }), kind: 'rgba8' }));
  for (const document of [foggy, clouded]) await deliver(document);
  // Other clouds each time, which nothing has kept.
  const other = () => applyEdit(clouded, { type: 'set-params', layerId: clouded.buildUp.scene[1].id, params: { seed: ++fresh } });
  const documents = [() => base, () => curved, () => foggy, () => clear, () => clouded, other, environment];
  const times: number[][] = documents.map(() => []);
  for (let i = 0; i < 7; i++) for (const [n, document] of documents.entries()) times[n].push(await deliver(document()));
  const [nothing, curve, air, sky, clouds, made, seen] = times.map(median);
  report(`(v) air of ${width} × ${height}, its depth taken apart already : a tone curve`, { ours: air - nothing, theirs: curve - nothing, ratio: (air - nothing) / (curve - nothing) }, 2);
  report(`(w) clear sky of ${width} × ${height} : a tone curve`, { ours: sky - nothing, theirs: curve - nothing, ratio: (sky - nothing) / (curve - nothing) }, 2);
  report(`(w) an environment of ${everything.width} × ${everything.height} as the camera of ${width} × ${height} sees it : a tone curve`, { ours: seen - nothing, theirs: curve - nothing, ratio: (seen - nothing) / (curve - nothing) }, 2);
  report(`(x) sky with cumulus of ${width} × ${height}, its clouds kept : a tone curve`, { ours: clouds - nothing, theirs: curve - nothing, ratio: (clouds - nothing) / (curve - nothing) }, 6);
  report('(x) the same, its clouds made : a tone curve', { ours: made - nothing, theirs: curve - nothing, ratio: (made - nothing) / (curve - nothing) });
  console.log(`    with all that is read and written: without ${nothing.toFixed(0)} ms, with the curve ${curve.toFixed(0)} ms, with the air ${air.toFixed(0)} ms`);
}
