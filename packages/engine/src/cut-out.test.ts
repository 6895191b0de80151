/** A photograph made of a cut-out whose coverage is known: cut out again, it is as it was. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { CutOutMark } from '@tazzel/core';
import { byteSource, decodePng, encodePng } from '@tazzel/formats';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { joined } from '../../../tests/formats.ts';
import { scratch } from '../../../tests/tools.ts';
import { namedSources } from '../../../tests/sources.ts';
import { CutOut } from './cut-out.ts';
import type { Engine } from './engine.ts';
import { Cancelled } from './errors.ts';
import { nodePlatform } from './node-platform.ts';

const folder = scratch();
const bytesOf = async (png: Uint8Array) => {
  const { color, alpha } = await decodePng(byteSource('x.png', png), nodePlatform);
  return { color: color.map(({ data }) => Uint8Array.from(data)), alpha: alpha && Uint8Array.from(alpha.data), width: color[0].width, height: color[0].height };
};

let engine: Engine;
let photo: { rgba: Uint8Array; truth: Uint8Array; width: number; height: number };
let cut: CutOut;
beforeAll(async () => {
  engine = await builtEngine();
  const { color, alpha, width, height } = await bytesOf(readFileSync(new URL('../../../apps/web/public/figures/woman-dress.png', import.meta.url)));
  if (!alpha) throw new Error('The figure has no alpha.');
  // Around it, a ground that is paler at the top.
  const [wide, high] = [width + 200, height + 120];
  const [rgba, truth] = [new Uint8Array(wide * high * 4), new Uint8Array(wide * high)];
  for (let y = 0; y < high; y++) {
    for (let x = 0; x < wide; x++) {
      const [u, v] = [x - 100, y - 60];
      const from = u >= 0 && v >= 0 && u < width && v < height ? v * width + u : -1;
      const share = from < 0 ? 0 : alpha[from] / 255;
      const back = [150, 165, 150].map((code) => code + 40 * (1 - y / high) + ((x * 7 + y * 13) % 11));
      for (let c = 0; c < 3; c++) rgba[(y * wide + x) * 4 + c] = Math.round((from < 0 ? 0 : share * color[c][from]) + (1 - share) * back[c]);
      rgba[(y * wide + x) * 4 + 3] = 255;
      truth[y * wide + x] = from < 0 ? 0 : alpha[from];
    }
  }
  photo = { rgba, truth, width: wide, height: high };
  const path = join(folder, 'passer-by.png');
  writeFileSync(path, joined(await encodePng(photo, nodePlatform)));
  const [source] = await namedSources(engine, [path]);
  cut = await CutOut.of(engine, source);
}, 60_000);
afterAll(() => engine.pool.terminate());

/** A few lines as somebody draws them in a minute, in pixels of the photograph: from the head to a foot, the other leg and both arms. */
const LINES = [
  [[180, 75], [182, 130], [185, 200], [185, 450], [152, 490], [150, 600], [130, 612]],
  [[212, 490], [213, 605]],
  [[124, 200], [120, 300], [109, 375]],
  [[248, 200], [246, 300], [235, 375]],
] as const;
/** A dab in the gap between the other arm and the body, which no way leads to from the edges. */
const GAP = [[228, 250]] as const;
const markOf = (stays: boolean, line: readonly (readonly [number, number])[]): CutOutMark => ({ stays, width: 0.01, points: line.map(([x, y]) => [x / photo.height, y / photo.height]) });
const marks = (): readonly CutOutMark[] => [...LINES.map((line) => markOf(true, line)), markOf(false, GAP)];

describe('a picture that is cut out', () => {
  it('keeps its colours to the code, and has the coverage that it was made with: within half a percent of it', async () => {
    const written = await bytesOf(joined(await cut.write(marks(), true)));
    expect([written.width, written.height]).toEqual([photo.width, photo.height]);
    if (!written.alpha) throw new Error('It has no alpha.');
    let [error, covered] = [0, 0];
    written.alpha.forEach((code, i) => {
      error += Math.abs(code - photo.truth[i]) / 255;
      covered += photo.truth[i] / 255;
      if (code > 0) expect([0, 1, 2].map((c) => written.color[c][i])).toEqual([0, 1, 2].map((c) => photo.rgba[i * 4 + c]));
    });
    expect(error / photo.truth.length).toBeLessThan(0.001);
    expect(error / covered).toBeLessThan(0.005);
  });
  it('is not written while nothing stays, and can be given up', async () => {
    await expect(cut.write([], true)).rejects.toThrow('draw over what is to stay');
    await expect(cut.write(marks(), true, { signal: AbortSignal.abort() })).rejects.toBeInstanceOf(Cancelled);
  });
});
