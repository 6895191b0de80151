import { clipping } from './clipping.ts';
import type { Reading } from './define.ts';
import { grey } from './grey.ts';
import { stops } from './stops.ts';

/** Every way of reading the picture, in the order in which it is offered. */
export const readings: readonly Reading[] = [grey, stops, clipping];

/** Null for one that is not known. */
export const readingById = (id: string): Reading | null => readings.find((reading) => reading.id === id) ?? null;
