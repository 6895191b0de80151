/** Depth of field of a picture at full size against libvips's Gaussian of the same mean width, on bytes. */
import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { applyEdit, freshIds, type KeptValues, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { nodePlatform } from '@tazzel/engine/node';
import { encodeExr, sourcesFromReport } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import sharp from 'sharp';
import { flattened, median, report, timed } from './measure.ts';
import { layerPixels } from './scene.ts';

/** A level ground under a camera at eye height, a front 20 m away, sky above it, and posts 4 m away. */
function yardDepth(width: number, height: number): Float32Array {
  const focalPx = (50 / 36) * width;
  return Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    if (x % (width / 6) < width / 90) return 4;
    const ground = y > height / 2 ? (1.6 * focalPx) / (y - height / 2) : Number.POSITIVE_INFINITY;
    return Math.min(ground, y > height / 4 ? 20 : 1e5);
  });
}

/** @param plain one element of light */
export async function benchFocus(engine: Engine, plain: TazzelDocument, kernels: Kernels, folder: string, width: number, height: number): Promise<void> {
  const path = join(folder, 'depth.exr');
  const window = { x: 0, y: 0, width, height };
  writeFileSync(path, Buffer.concat(await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIPS', channels: [{ name: 'Z', type: 'f32', data: yardDepth(width, height) }] }, nodePlatform, kernels)));
  const file = { name: 'depth.exr', size: statSync(path).size, handle: path };
  const hash = 'd'.repeat(64);
  engine.files.set(hash, file);
  const sources = sourcesFromReport(await engine.inspect(file), hash, freshIds(plain, 'source'));
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
