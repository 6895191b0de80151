/** Finished pictures into files and to other sizes, against libvips (through sharp). */
import { resamplingFilters, resizeRows } from '@tazzel/core';
import { nodePlatform } from '@tazzel/engine/node';
import { pictureFormatById } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import sharp from 'sharp';
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
  const write = (id: string, values: Record<string, string>) => async () => pictureFormatById(id)?.write(finished, values, nodePlatform, kernels);
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
