/** Depth of field of a picture at full size against libvips's Gaussian of the same mean width, on bytes. */
import { applyEdit, type KeptValues, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import type { Kernels } from '@tazzel/kernels';
import sharp from 'sharp';
import { elementOf } from './graph.ts';
import { flattened, median, report, timed } from './measure.ts';
import { layerPixels, yardDepth } from './scene.ts';

/** @param plain one element of light */
export async function benchFocus(engine: Engine, plain: TazzelDocument, kernels: Kernels, folder: string, width: number, height: number): Promise<void> {
  const sources = await elementOf(engine, kernels, folder, 'depth', { width, height }, [{ name: 'Z', type: 'f32', data: yardDepth(width, height) }]);
  const base = { ...plain, sources: [...plain.sources, ...sources] };
  const added = applyEdit(base, { type: 'add-correction-layer', correction: 'focus', zone: 'scene' });
  const focused = (params: KeptValues) => applyEdit(added, { type: 'set-params', layerId: added.buildUp.scene.at(-1)?.id ?? '', params: { focusMetres: 6, focalMillimetres: 50, sensorMillimetres: 36, ...params } });
  const rgb = Buffer.from(layerPixels(width, height, 3).filter((_, i) => i % 4 !== 3).buffer);
  let fresh = 0;
  const deliver = (document: TazzelDocument) => timed(() => flattened(engine, { document: applyEdit(document, { type: 'set-layer', layerId: document.buildUp.scene[0].id, patch: { opacity: 1 - ++fresh * 1e-7 } }), kind: 'float' }));
  for (const [fNumber, sigmaPx, more] of [[5.6, 2, {}], [1.4, 6, {}], [1.4, 6, { catsEyePercent: 60, roundnessPercent: 30 }]] as const) {
    const document = focused({ fNumber, ...more });
    await deliver(document);
    const [whole, nothing, theirs]: number[][] = [[], [], []];
    for (let i = 0; i < 3; i++) {
      nothing.push(await deliver(base));
      whole.push(await deliver(document));
      theirs.push(await timed(() => sharp(rgb, { raw: { width, height, channels: 3 } }).blur(sigmaPx).raw().toBuffer()));
    }
    const ours = median(whole) - median(nothing);
    report(`(cc) focus at f/${fNumber}${'catsEyePercent' in more ? ', blades and cat’s eyes' : ''}, ${width} × ${height}, 2 workers : libvips, bytes, σ ${sigmaPx}`, { ours, theirs: median(theirs), ratio: ours / median(theirs) }, 4);
  }
}
