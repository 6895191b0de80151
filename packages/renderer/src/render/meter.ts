import { planSlots, PATHS } from '../film/slots.ts';
import type { CameraDescription } from '../scene/model.ts';
import { Tracer } from '../trace/tracer.ts';
import type { World } from '../trace/world.ts';

const WIDTH = 72;
const SAMPLES = 6;
/** Darker places do not count as dark beyond this, in proportion to the mean. */
const FLOOR = 0.02;

/** Mean luminance of a view as photographers meter it: the mean of its logarithm, in candela per square metre. */
export function meterScene(world: World, { camera, width, height, seed }: { camera: CameraDescription; width: number; height: number; seed: number }): number {
  const rows = Math.max(1, Math.round((WIDTH * height) / width));
  const plan = planSlots(world.groups);
  const tracer = new Tracer(world, camera, plan, { width: WIDTH, height: rows, seed, exposureScale: 1, aoMetres: 1, wantsAo: false, brightestPath: Number.POSITIVE_INFINITY, fog: false });
  const values: number[] = [];
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < WIDTH; x++) {
      tracer.clear();
      for (let s = 0; s < SAMPLES; s++) tracer.sample(x, y, s);
      let luminance = 0;
      for (const slot of plan.light.slice(0, PATHS.length)) luminance += 0.2126 * tracer.sums[slot.at] + 0.7152 * tracer.sums[slot.at + 1] + 0.0722 * tracer.sums[slot.at + 2];
      values.push(luminance / SAMPLES);
    }
  }
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
  if (mean <= 0) return 0;
  return Math.exp(values.reduce((sum, v) => sum + Math.log(Math.max(v, mean * FLOOR)), 0) / values.length);
}
