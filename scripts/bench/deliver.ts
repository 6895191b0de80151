/** Finished pictures into files and to other sizes, against libvips (through sharp). */
import { readFileSync, statSync } from 'node:fs';
import { basename } from 'node:path';
import { fileURLToPath } from 'node:url';
import { applyEdit, type Delivery, type Edit, parseDocument, resamplingFilters, resizeRows } from '@tazzel/core';
import { deliverList, type Engine } from '@tazzel/engine';
import { nodePlatform } from '@tazzel/engine/node';
import { flatFormatById } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import sharp from 'sharp';
import { demoSet } from '../../tests/elements.ts';
import { median, report, timed } from './measure.ts';

/** A ramp with the grain of a render, 16 bits. */
function picture(width: number, height: number): Uint16Array {
  const rgba = new Uint16Array(new SharedArrayBuffer(width * height * 8));
  let state = 1;
  for (let i = 0; i < rgba.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)];
    rgba[i] = (i & 3) === 3 ? 65535 : Math.round(((x / width + y / height) / 2) * 60000) + (state >>> 20);
  }
  return rgba;
}

export async function benchDeliver(kernels: Kernels, width: number, height: number): Promise<void> {
  const rgba = picture(width, height);
  const finished = { width, height, isOpaque: true, pixels: rgba.buffer };
  const rgb = Uint16Array.from({ length: width * height * 3 }, (_, i) => rgba[Math.floor(i / 3) * 4 + (i % 3)]);
  const raw = { raw: { width, height, channels: 3 as const } };
  const theirs = () => sharp(rgb as never, raw).toColourspace('rgb16');
  const rows = async (name: string, ours: () => Promise<unknown>, other: () => Promise<unknown>, goal?: number) => {
    const times: [number[], number[]] = [[], []];
    for (let i = 0; i < 3; i++) {
      times[0].push(await timed(ours));
      times[1].push(await timed(other));
    }
    const [a, b] = times.map(median);
    report(name, { ours: a, theirs: b, ratio: a / b }, goal);
  };
  const write = (id: string, values: Record<string, string>) => async () => flatFormatById(id)?.write(finished, values, nodePlatform, kernels);
  await rows(`(y) TIFF, 16 bit, deflate, of ${width} × ${height} : libvips`, write('tiff', { bits: '16' }), () => theirs().tiff({ compression: 'deflate', predictor: 'horizontal' }).toBuffer(), 1.5);
  await rows('… PNG, 16 bit', write('png', { bits: '16' }), () => theirs().png({ compressionLevel: 4 }).toBuffer());
  const to = { width: Math.round(width * 0.6), height: Math.round(height * 0.6) };
  const light = Float32Array.from({ length: 3 * width * height }, (_, i) => rgba[(i % (width * height)) * 4 + Math.floor(i / (width * height))] / 65535);
  const read = (y: number, row: Float32Array) => {
    for (let c = 0; c < 3; c++) row.set(light.subarray((c * height + y) * width, (c * height + y + 1) * width), c * width);
  };
  const resize = async () => resizeRows(3, { width, height }, to, resamplingFilters.lanczos, read, () => undefined);
  await rows(`(z) Lanczos, to ${to.width} × ${to.height}, one worker : libvips, whole numbers, its threads`, resize, () => theirs().resize(to.width, to.height, { kernel: 'lanczos3' }).raw({ depth: 'ushort' }).toBuffer());
}

const FORMS = [['png', {}], ['tiff', { bits: '16' }], ['jpeg', {}], ['exr', {}]] as const;

/** Three schemes of the demo in four forms each, in one go, against one of them. */
export async function benchList(engine: Engine): Promise<void> {
  const stored = parseDocument(JSON.parse(readFileSync(fileURLToPath(new URL('../../apps/web/public/demo/document.json', import.meta.url)), 'utf8')));
  const paths = new Map((['courtyard', 'courtyard_fog', 'courtyard_shadow'] as const).flatMap(demoSet).map((path) => [basename(path), path]));
  for (const { file } of stored.sources) {
    const path = paths.get(file.name);
    if (path) engine.files.set(file.hash, { name: file.name, size: statSync(path).size, handle: path });
  }
  const delivery = (format: string, values: Delivery['values']): Edit => ({ type: 'add-delivery', delivery: { name: '{document}-{scheme}', format, values, width: null, halvings: 0, filter: 'lanczos', upto: null, schemes: 'all' } });
  const edits: Edit[] = [
    ...FORMS.map(([format, values]) => delivery(format, values)),
    { type: 'add-scheme', name: 'Dark' },
    { type: 'add-correction-layer', correction: 'exposure', zone: 'scene', index: 1 },
    { type: 'add-scheme', name: 'Warm' },
    { type: 'add-correction-layer', correction: 'white-balance', zone: 'scene', index: 2 },
  ];
  const document = edits.reduce(applyEdit, stored);
  const run = (deliveries: readonly Delivery[]) => deliverList(engine, { document, deliveries, day: '', isTaken: () => false, write: async () => undefined });
  await run(document.deliveries);
  const singles: number[] = [];
  let whole = 0;
  for (const [i, one] of document.deliveries.entries()) {
    const shown = { ...one, schemes: 'shown' } as const;
    const [all, single] = [await timed(() => run(document.deliveries)), await timed(() => run([shown]))];
    singles.push(single);
    whole += all / document.deliveries.length;
    console.log(`    one as ${FORMS[i][0]}: ${single.toFixed(0)} ms, ratio ${(all / single).toFixed(2)}`);
  }
  const one = singles.reduce((sum, each) => sum + each, 0) / singles.length;
  report('(aa) twelve deliveries (three schemes, four forms) : one of them, on the mean of the forms', { ours: whole, theirs: one, ratio: whole / one }, 8);
}
