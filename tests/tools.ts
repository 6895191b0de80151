/** Reference programs from Debian's packages, and a place for their files. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export const scratch = () => mkdtempSync(join(tmpdir(), 'tazzel-test-'));
export const tool = (command: string, ...args: readonly string[]) => execFileSync(command, args, { maxBuffer: 2 ** 28, stdio: ['ignore', 'pipe', 'pipe'] });

/** A plain TIFF of interleaved 32-bit floats, as OpenImageIO writes it without compression. TIFF 6.0: tags 256, 257, 273, 277. */
export function readFloatTiff(path: string): { width: number; height: number; samples: number; data: Float32Array } {
  const bytes = readFileSync(path);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint16(0, true) !== 0x4949) throw new Error('not a little-endian TIFF');
  const directory = view.getUint32(4, true);
  const tags = new Map<number, number[]>();
  for (let i = 0; i < view.getUint16(directory, true); i++) {
    const at = directory + 2 + i * 12;
    const size = view.getUint16(at + 2, true) === 3 ? 2 : 4;
    const count = view.getUint32(at + 4, true);
    const from = size * count > 4 ? view.getUint32(at + 8, true) : at + 8;
    tags.set(view.getUint16(at, true), Array.from({ length: count }, (_, k) => (size === 2 ? view.getUint16(from + k * 2, true) : view.getUint32(from + k * 4, true))));
  }
  const one = (tag: number) => tags.get(tag)?.[0] ?? 1;
  const [width, height, samples] = [one(256), one(257), one(277)];
  const data = new Float32Array(width * height * samples);
  const rowsPerStrip = one(278);
  for (const [strip, offset] of (tags.get(273) ?? []).entries()) {
    const start = strip * rowsPerStrip * width * samples;
    const count = Math.min(data.length - start, rowsPerStrip * width * samples);
    for (let i = 0; i < count; i++) data[start + i] = view.getFloat32(offset + i * 4, true);
  }
  return { width, height, samples, data };
}

/** The float samples of a picture's channels, interleaved, as OpenImageIO reads them. */
export const byOpenImageIo = (path: string, channels: string): Float32Array => allByOpenImageIo([path], channels)[0];

/** The same of several pictures, in one process: it takes half a second to start. */
export function allByOpenImageIo(paths: readonly string[], channels: string): Float32Array[] {
  tool('oiiotool', '-d', 'float', '--compression', 'none', '--scanline', ...paths.flatMap((path) => [path, '--eraseattrib', '.*', '--selectmip', '0', '--ch', channels, '-o', `${path}.tif`]));
  return paths.map((path) => readFloatTiff(`${path}.tif`).data);
}
