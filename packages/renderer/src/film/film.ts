/** Where samples are gathered: sums by pixel in shared memory, so that workers write and the interface reads. */
import { allSlots, type Slot, type SlotPlan } from './slots.ts';

/** Different IDs that one pixel keeps apart; more than that join the smallest. */
export const IDS_PER_PIXEL = 8;
export const ID_KINDS = ['material', 'object', 'through', 'mirrored'] as const;
export type IdKind = (typeof ID_KINDS)[number];
export const TILE = 48;
/** Samples fit into the 16 bits of their counters. */
export const MOST_SAMPLES = 65_535;

export interface FilmPlan {
  readonly width: number;
  readonly height: number;
  readonly slots: SlotPlan;
  /** Names of the slots that are kept. */
  readonly kept: readonly string[];
  readonly ids: readonly IdKind[];
}

/** A film as it is posted to workers. */
export interface FilmMemory {
  readonly plan: FilmPlan;
  readonly planes: Readonly<Record<string, readonly Float32Array[]>>;
  /** For each kind `IDS_PER_PIXEL` places a pixel: an ID plus one (0 is free) and how many samples met it. */
  readonly ids: Partial<Readonly<Record<IdKind, { readonly id: Uint16Array; readonly count: Uint16Array }>>>;
  /** Samples per pixel, tile by tile. */
  readonly samples: Uint32Array;
}

const keptSlots = (plan: FilmPlan): Slot[] => allSlots(plan.slots).filter((slot) => plan.kept.includes(slot.name));

/** Bytes that a film takes. */
export function filmBytes(plan: FilmPlan): number {
  const floats = keptSlots(plan).reduce((sum, slot) => sum + slot.channels, 0);
  return plan.width * plan.height * (floats * 4 + plan.ids.length * IDS_PER_PIXEL * 4);
}

export function createFilm(plan: FilmPlan, allocate: (bytes: number) => ArrayBufferLike): FilmMemory {
  const area = plan.width * plan.height;
  const planes = Object.fromEntries(keptSlots(plan).map((slot) => [slot.name, Array.from({ length: slot.channels }, () => new Float32Array(allocate(area * 4)))]));
  const ids = Object.fromEntries(plan.ids.map((kind) => [kind, { id: new Uint16Array(allocate(area * IDS_PER_PIXEL * 2)), count: new Uint16Array(allocate(area * IDS_PER_PIXEL * 2)) }]));
  return { plan, planes, ids, samples: new Uint32Array(allocate(tilesAcross(plan) * tilesDown(plan) * 4)) };
}

export const tilesAcross = ({ width }: { width: number }) => Math.ceil(width / TILE);
export const tilesDown = ({ height }: { height: number }) => Math.ceil(height / TILE);

export const samplesAt = ({ plan, samples }: FilmMemory, x: number, y: number): number => samples[Math.floor(y / TILE) * tilesAcross(plan) + Math.floor(x / TILE)];

/** Adds one sample's ID to a pixel. */
export function countId(id: Uint16Array, count: Uint16Array, pixel: number, value: number): void {
  const first = pixel * IDS_PER_PIXEL;
  const wanted = value + 1;
  let least = first;
  for (let i = first; i < first + IDS_PER_PIXEL; i++) {
    if (id[i] === wanted) {
      count[i]++;
      return;
    }
    if (id[i] === 0) {
      id[i] = wanted;
      count[i] = 1;
      return;
    }
    if (count[i] < count[least]) least = i;
  }
  count[least]++;
}

/** Visits the IDs of a pixel with their share of the given number of samples. */
export function forIds(ids: { readonly id: Uint16Array; readonly count: Uint16Array }, pixel: number, samples: number, visit: (id: number, share: number) => void): void {
  const first = pixel * IDS_PER_PIXEL;
  for (let i = first; i < first + IDS_PER_PIXEL && ids.id[i] !== 0; i++) visit(ids.id[i] - 1, ids.count[i] / samples);
}
