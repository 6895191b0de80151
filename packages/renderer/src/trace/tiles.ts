/** Rendering of one tile: the pixels of a film between two sample numbers. */
import type { Region } from '@tazzel/core';
import { countId, type FilmMemory, TILE, tilesAcross } from '../film/film.ts';
import { allSlots, BEAUTY, momentName } from '../film/slots.ts';
import type { Tracer } from './tracer.ts';

export function tileRegion(plan: { width: number; height: number }, tile: number): Region {
  const x = (tile % tilesAcross(plan)) * TILE;
  const y = Math.floor(tile / tilesAcross(plan)) * TILE;
  return { x, y, width: Math.min(TILE, plan.width - x), height: Math.min(TILE, plan.height - y) };
}

/** Adds samples `first` up to `end` (not included) to every pixel of a tile that lies in the region. */
export function renderTile(tracer: Tracer, film: FilmMemory, tile: number, region: Region, first: number, end: number): void {
  const { plan, planes, ids, samples } = film;
  const { x, y, width, height } = tileRegion(plan, tile);
  const targets = allSlots(plan.slots).flatMap((slot) => (planes[slot.name] ?? []).map((plane, channel) => ({ plane, at: slot.at + channel })));
  const right = Math.min(x + width, region.x + region.width);
  const bottom = Math.min(y + height, region.y + region.height);
  for (let py = Math.max(y, region.y); py < bottom; py++) {
    for (let px = Math.max(x, region.x); px < right; px++) {
      const pixel = py * plan.width + px;
      tracer.clear();
      for (let s = first; s < end; s++) {
        tracer.sample(px, py, s);
        if (ids.material && tracer.material >= 0) countId(ids.material.id, ids.material.count, pixel, tracer.material);
        if (ids.object && tracer.object >= 0) countId(ids.object.id, ids.object.count, pixel, tracer.object);
        if (ids.through && tracer.materialThrough >= 0) countId(ids.through.id, ids.through.count, pixel, tracer.materialThrough);
        if (ids.mirrored && tracer.materialMirrored >= 0) countId(ids.mirrored.id, ids.mirrored.count, pixel, tracer.materialMirrored);
      }
      for (const { plane, at } of targets) plane[pixel] += tracer.sums[at];
    }
  }
  samples[tile] = end;
}

/** Luminance that counts as dark: below it noise is not seen, however large it is in proportion. */
const DARK = 0.05;

/**
 * Noise of a tile: the mean over its pixels of the beauty's standard error in proportion to its value. 1 is 100 %.
 * Infinite before the second sample.
 */
export function tileNoise(film: FilmMemory, tile: number, region: Region): number {
  const n = film.samples[tile];
  if (n < 2) return Number.POSITIVE_INFINITY;
  const area = tileRegion(film.plan, tile);
  const squares = film.planes[momentName(BEAUTY)][0];
  const light = film.plan.slots.light.filter((slot) => !slot.name.startsWith('group ')).map((slot) => film.planes[slot.name]);
  let sum = 0;
  let pixels = 0;
  for (let y = Math.max(area.y, region.y); y < Math.min(area.y + area.height, region.y + region.height); y++) {
    for (let x = Math.max(area.x, region.x); x < Math.min(area.x + area.width, region.x + region.width); x++) {
      const i = y * film.plan.width + x;
      let mean = 0;
      for (const planes of light) if (planes) mean += 0.2126 * planes[0][i] + 0.7152 * planes[1][i] + 0.0722 * planes[2][i];
      mean /= n;
      const variance = Math.max(0, squares[i] / n - mean * mean);
      sum += Math.sqrt(variance / (n - 1)) / (Math.max(0, mean) + DARK);
      pixels++;
    }
  }
  return pixels === 0 ? 0 : sum / pixels;
}
