/** What is unpacked together, with a pool that works in this thread and notes what it was asked for. */
import { floatToHalf, type Source } from '@tazzel/core';
import { byteSource, decodeExrChunks, encodeExr, type ExrHeader } from '@tazzel/formats';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../tests/built.ts';
import { source } from '../../../tests/documents.ts';
import { firstPart, joined, platform } from '../../../tests/formats.ts';
import { ExrParts } from './exr-parts.ts';
import type { WorkerPool } from './pool.ts';
import type { RequestOf } from './protocol.ts';

const [WIDTH, HEIGHT] = [40, 96];
const ELEMENTS = ['beauty', 'reflection', 'refraction', 'direct'];
const sample = (element: number, channel: number, pixel: number) => (element + 1) * 100 + channel * 10 + (pixel % 7);

let bytes: Uint8Array;
let header: ExrHeader;
beforeAll(async () => {
  const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const channels = ELEMENTS.flatMap((name, element) => ['R', 'G', 'B'].map((channel, c) => {
    const data = Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => floatToHalf(sample(element, c, i)));
    return { name: `${name}.${channel}`, type: 'f16' as const, data };
  }));
  bytes = joined(await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIP', channels }, platform, await builtKernels()));
  header = await firstPart(byteSource('set.exr', bytes));
});

const element = (n: number): Source => {
  const made = source(n, { colorChannels: ['R', 'G', 'B'].map((channel) => `${ELEMENTS[n]}.${channel}`), alphaChannel: null });
  return { ...made, file: { ...made.file, hash: 'one file', format: 'exr' } };
};
const file = { name: 'set.exr', size: 0, handle: null };

/** How many chunks were unpacked so far. */
function counted(of: () => Uint8Array = () => bytes) {
  const seen = { chunks: 0 };
  const pool = {
    size: 2,
    run: async (_: 'decode-exr', { header: part, planes, first, last }: RequestOf<'decode-exr'>) => {
      seen.chunks += last - first;
      await decodeExrChunks(byteSource('set.exr', of()), part, planes, first, last, await builtKernels());
      return null;
    },
  };
  return { seen, pool: pool as unknown as WorkerPool };
}
const plain = (byteLength: number) => new ArrayBuffer(byteLength);
const chunks = () => header.offsets.length;

describe('elements of one part', () => {
  it('that are wanted at the same time are unpacked once, each with its own channels', async () => {
    const { seen, pool } = counted();
    const parts = new ExrParts(pool, plain, 2 ** 20);
    const wanted = ELEMENTS.map((_, n) => element(n));
    const done = wanted.map((one) => parts.expect(one));
    for (const [n, one] of wanted.entries()) {
      const planes = await parts.read(one, file, header);
      expect([...planes.keys()]).toEqual(['R', 'G', 'B'].map((channel) => `${ELEMENTS[n]}.${channel}`));
      for (const [c, { data }] of [...planes.values()].entries()) for (const i of [0, 41, WIDTH * HEIGHT - 1]) expect(data[i]).toBe(floatToHalf(sample(n, c, i)));
      done[n]();
    }
    expect(seen.chunks).toBe(chunks());
  });
  it('that begin at the same time wait for one another', async () => {
    const { seen, pool } = counted();
    const parts = new ExrParts(pool, plain, 2 ** 20);
    const wanted = [element(0), element(1)];
    for (const one of wanted) parts.expect(one);
    await Promise.all(wanted.map((one) => parts.read(one, file, header)));
    expect(seen.chunks).toBe(chunks());
  });
  it('are unpacked in several turns where they would take too much memory', async () => {
    const { seen, pool } = counted();
    // One element takes 23 kB.
    const parts = new ExrParts(pool, plain, 30_000);
    const wanted = ELEMENTS.map((_, n) => element(n));
    const done = wanted.map((one) => parts.expect(one));
    for (const [n, one] of wanted.entries()) {
      await parts.read(one, file, header);
      done[n]();
    }
    expect(seen.chunks).toBe(2 * chunks());
  });
  it('that nobody waits for any more are not held', async () => {
    const { seen, pool } = counted();
    const parts = new ExrParts(pool, plain, 2 ** 20);
    const [first, second] = [element(0), element(1)];
    parts.expect(first);
    parts.expect(second)();
    await parts.read(first, file, header);
    await parts.read(second, file, header);
    expect(seen.chunks).toBe(2 * chunks());
  });
  it('of a damaged part are each told so', async () => {
    const { pool } = counted(() => bytes.map((byte, i) => (i > header.offsets[3] + 8 && i < header.offsets[4] ? 0xff : byte)));
    const parts = new ExrParts(pool, plain, 2 ** 20);
    const wanted = [element(0), element(1)];
    for (const one of wanted) parts.expect(one);
    const results = await Promise.allSettled(wanted.map((one) => parts.read(one, file, header)));
    expect(results.map((result) => result.status === 'rejected' && (result.reason as { code?: string }).code)).toEqual(['corrupt', 'corrupt']);
  });
});
