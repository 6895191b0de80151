import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { denoise } from './denoise.ts';
import { countId, createFilm, type FilmMemory, filmBytes, forIds, IDS_PER_PIXEL, samplesAt, TILE, tilesAcross, tilesDown } from './film.ts';
import { allSlots, groupName, momentName, PATHS, planSlots } from './slots.ts';

const slots = planSlots(['sun', 'rest']);
const kept = allSlots(slots).map(({ name }) => name);
const allocate = (bytes: number) => new ArrayBuffer(bytes);

describe('the film', () => {
  it('has a place of its own for every channel of every slot', () => {
    const taken = new Set<number>();
    for (const { at, channels } of allSlots(slots)) for (let c = 0; c < channels; c++) {
      expect(taken.has(at + c)).toBe(false);
      taken.add(at + c);
    }
    expect(taken.size).toBe(slots.size);
    expect(slots.light.map(({ name }) => name)).toEqual([...PATHS, groupName('sun'), groupName('rest')]);
  });
  it('keeps what it is told to keep, in the memory that it says beforehand', () => {
    const plan = { width: 100, height: 50, slots, kept: ['gi', 'alpha', momentName('gi')], ids: ['material'] as const };
    let bytes = 0;
    const film = createFilm(plan, (size) => {
      bytes += size;
      return new ArrayBuffer(size);
    });
    expect(Object.keys(film.planes).toSorted()).toEqual(['alpha', 'gi', 'moment gi']);
    expect(film.planes.gi).toHaveLength(3);
    expect(bytes - film.samples.byteLength).toBe(filmBytes(plan));
    expect([tilesAcross(plan), tilesDown(plan)]).toEqual([Math.ceil(100 / TILE), Math.ceil(50 / TILE)]);
    film.samples[tilesAcross(plan) + 1] = 9;
    expect(samplesAt(film, TILE, TILE)).toBe(9);
    expect(samplesAt(film, TILE - 1, TILE)).toBe(0);
  });
  it('counts IDs by pixel; more than it can keep join the smallest, so that shares still sum to one', () => {
    const id = new Uint16Array(2 * IDS_PER_PIXEL);
    const count = new Uint16Array(2 * IDS_PER_PIXEL);
    const random = seeded(9);
    const samples = 400;
    for (let i = 0; i < samples; i++) countId(id, count, 1, Math.floor(random() ** 3 * 14));
    const shares: number[] = [];
    forIds({ id, count }, 1, samples, (_id, share) => shares.push(share));
    expect(shares).toHaveLength(IDS_PER_PIXEL);
    expect(shares.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 12);
    const nothing: number[] = [];
    forIds({ id, count }, 0, samples, (one) => nothing.push(one));
    expect(nothing).toEqual([]);
  });
});

/** A film of a plane with two materials side by side, lit evenly, with noise of the given strength (seed 21). */
function noisyFilm(noise: number, samples = 16, width = 64, height = 48): { film: FilmMemory; truth: Float32Array } {
  const film = createFilm({ width, height, slots, kept, ids: [] }, allocate);
  film.samples.fill(samples);
  const random = seeded(21);
  const truth = new Float32Array(width * height);
  for (let i = 0; i < truth.length; i++) {
    const color = i % width < width / 2 ? 0.2 : 0.7;
    truth[i] = color * 1.5;
    let squares = 0;
    const sum = [0, 0, 0];
    for (let s = 0; s < samples; s++) {
      const light = 1.5 * (1 + noise * (random() * 2 - 1));
      for (let c = 0; c < 3; c++) sum[c] += light * color;
      squares += (light * color) ** 2;
    }
    for (let c = 0; c < 3; c++) {
      film.planes.gi[c][i] = sum[c];
      film.planes['diffuse-filter'][c][i] = color * samples;
    }
    film.planes[momentName('gi')][0][i] = squares;
    film.planes.normals[2][i] = samples;
    film.planes.depth[0][i] = 5 * samples;
    film.planes.alpha[0][i] = samples;
  }
  return { film, truth };
}
const clean = (film: FilmMemory, slot = 'gi') => {
  const out = [0, 1, 2].map(() => new Float32Array(film.plan.width * film.plan.height));
  denoise({ film, slot, out });
  return out;
};
const error = (a: Float32Array, b: Float32Array) => Math.sqrt(a.reduce((sum, v, i) => sum + (v - b[i]) ** 2, 0) / a.length);

describe('the denoiser', () => {
  it('leaves what is certain as it is', () => {
    const { film, truth } = noisyFilm(0);
    for (const plane of clean(film)) expect(error(plane, truth)).toBeLessThan(1e-5);
  });
  it('takes most of the noise out, and the edge between two colours stays where it is', () => {
    const { film, truth } = noisyFilm(1);
    const noisy = film.planes.gi[1].map((v) => v / 16);
    const [, plane] = clean(film);
    expect(error(plane, truth)).toBeLessThan(error(noisy, truth) * 0.55);
    for (let y = 4; y < 44; y++) {
      expect(plane[y * 64 + 31]).toBeLessThan(0.5);
      expect(plane[y * 64 + 32]).toBeGreaterThan(0.7);
    }
  });
  it('one speck among quiet neighbours goes', () => {
    const { film, truth } = noisyFilm(0.2);
    const at = 20 * 64 + 12;
    for (let c = 0; c < 3; c++) film.planes.gi[c][at] += 400;
    film.planes[momentName('gi')][0][at] += 400 ** 2;
    const [, plane] = clean(film);
    expect(plane[at]).toBeLessThan(truth[at] * 1.5);
  });
  it('dark stays dark, and what has no noise is passed on', () => {
    const { film } = noisyFilm(1);
    expect(clean(film, 'reflection').every((plane) => plane.every((v) => v === 0))).toBe(true);
    film.planes.background[0].fill(8);
    expect(clean(film, 'background')[0].every((v) => v === 0.5)).toBe(true);
  });
  it('does not fail where nothing was sampled', () => {
    const { film } = noisyFilm(1);
    film.samples.fill(0);
    for (const plane of clean(film)) expect(plane.every((v) => Number.isFinite(v))).toBe(true);
  });
});
