/** Light trails as a camera sees them: what the lamps of passing vehicles draw while the shutter is open, as lines in the picture. */
import { type CameraView, projected } from '../camera/view.ts';
import { latticeNoise } from '../noise.ts';
import type { Triple } from '../vector.ts';
import { courseThrough, type Course, type OnPlan } from './course.ts';

export const TRAFFIC = ['one-way', 'right', 'left'] as const;
/** All one way; or both, on which side of the road. */
export type Traffic = (typeof TRAFFIC)[number];

/** Vehicles on courses, in metres of the document's world. */
export interface Trails {
  readonly view: CameraView;
  readonly courses: readonly (readonly OnPlan[])[];
  readonly groundMetres: number;
  readonly lanes: number;
  readonly laneMetres: number;
  readonly traffic: Traffic;
  /** On each course. */
  readonly vehicles: number;
  /** How far one gets while the shutter is open. */
  readonly lengthMetres: number;
  readonly lampHeightMetres: number;
  readonly lampMetres: number;
  /** Between the two lamps of a vehicle; 0 is one lamp. */
  readonly trackMetres: number;
  /** Light of a lamp that comes nearer, and of one that goes away. */
  readonly towards: Triple;
  readonly away: Triple;
  /** How far lamps go dark between two of their flashes, 0…1, and how far a vehicle gets from one to the next. */
  readonly flicker: number;
  readonly flashMetres: number;
  readonly seed: number;
}

/** Numbers of a vertex: its place in pixels, depth, radius of the lamp in pixels, light of lamps towards the camera and away from it (0…1). */
export const VERTEX = 6;
/** What one lamp draws, vertex after vertex; it may come in pieces, where it passes behind the camera. */
export type LampLine = Float64Array;

/** Straight pieces are at most so long in the picture, and at least in the world. */
const [PIECE_PX, LEAST_PIECE_METRES] = [6, 0.02];
/** Nearer than this to the camera's plane nothing is drawn. */
const NEAR_METRES = 0.2;
const MOST_VERTICES = 20_000;
/** Lamps are seen whole up to here from the side, as the cosine of the angle between where they shine and the camera. Common practice, no published source. */
const ASIDE = 0.25;
/** How vehicles differ: beside the middle of their lane in metres; heights and light of their lamps in shares. Common practice, no published source. */
const [WANDER_METRES, TALLER, BRIGHTER] = [0.35, 0.18, 0.4];
/** Samples of a flash; shorter ones are taken as their mean. */
const FLASH_SAMPLES = 6;

/**
 * All lines. `mirrored` gives those that level ground mirrors: lamps as far under it as they are over it.
 * @param scale how many pixels of the full picture one is wide
 */
export function lampLines(trails: Trails, scale: number, mirrored: boolean): LampLine[] {
  return trails.courses.flatMap((places, n) => {
    const course = courseThrough(places);
    return course ? Array.from({ length: trails.vehicles }, (_, k) => vehicleLines(trails, course, n * 1000 + k, scale, mirrored)).flat() : [];
  });
}

/** Which way a lane is driven: its middle to the right of the course, in metres. */
const isForward = (traffic: Traffic, offset: number): boolean => traffic === 'one-way' || (traffic === 'right' ? offset >= 0 : offset <= 0);

function vehicleLines(trails: Trails, course: Course, id: number, scale: number, mirrored: boolean): LampLine[] {
  const chance = (what: number) => latticeNoise(id, what, trails.seed);
  const { lanes, laneMetres, trackMetres, lampHeightMetres, lengthMetres, groundMetres } = trails;
  const middle = (Math.min(lanes - 1, Math.floor(chance(1) * lanes)) - (lanes - 1) / 2) * laneMetres;
  const offset = middle + (chance(2) - 0.5) * 2 * WANDER_METRES;
  const forward = isForward(trails.traffic, middle);
  const height = lampHeightMetres * (1 + (chance(3) - 0.5) * 2 * TALLER);
  const light = 1 + (chance(4) - 0.5) * 2 * BRIGHTER;
  // Where it is when the shutter opens: some come onto the course later, some leave it before the shutter closes.
  const start = chance(5) * (course.metres + lengthMetres) - lengthMetres;
  const [from, to] = [Math.max(0, start), Math.min(course.metres, start + lengthMetres)];
  if (to - from < LEAST_PIECE_METRES) return [];
  const y = groundMetres + (mirrored ? -height : height);
  const asides = trackMetres > 0 ? [offset - trackMetres / 2, offset + trackMetres / 2] : [offset];
  return asides.flatMap((aside) => lineOf(trails, course, { from, to, y, aside, forward, light }, scale));
}

interface Pass {
  readonly from: number;
  readonly to: number;
  readonly y: number;
  /** To the right of the course. */
  readonly aside: number;
  readonly forward: boolean;
  readonly light: number;
}

function lineOf(trails: Trails, course: Course, { from, to, y, aside, forward, light }: Pass, scale: number): LampLine[] {
  const { view, lampMetres, flicker, flashMetres } = trails;
  const lines: LampLine[] = [];
  let made: number[] = [];
  const end = () => {
    if (made.length > VERTEX) lines.push(Float64Array.from(made));
    made = [];
  };
  for (let at = from, count = 0; count < MOST_VERTICES; count++) {
    const { at: [x, z], ahead: [ax, az] } = course.at(at);
    const place: Triple = [x - az * aside, y, z + ax * aside];
    const seen = projected(view, place);
    let step = 1;
    if (seen && seen.depthMetres > NEAR_METRES) {
      const pxPerMetre = view.focalPx / scale / seen.depthMetres;
      const [ex, ez] = [view.eye[0] - place[0], view.eye[2] - place[2]];
      const facing = ((ax * ex + az * ez) / Math.max(1e-9, Math.hypot(ex, ez))) * (forward ? 1 : -1);
      const isFlashSeen = flicker > 0 && (flashMetres / FLASH_SAMPLES) * pxPerMetre > 0.5;
      const flash = flicker === 0 ? 1 : isFlashSeen ? 1 - flicker * (0.5 + 0.5 * Math.cos((2 * Math.PI * at) / flashMetres)) : 1 - flicker / 2;
      made.push(seen.x / scale, seen.y / scale, seen.depthMetres, (lampMetres / 2) * pxPerMetre, light * flash * shown(facing), light * flash * shown(-facing));
      step = Math.max(LEAST_PIECE_METRES, PIECE_PX / pxPerMetre);
      if (isFlashSeen) step = Math.min(step, flashMetres / FLASH_SAMPLES);
    } else end();
    if (at >= to) break;
    at = Math.min(to, at + step);
  }
  end();
  return lines;
}

const shown = (facing: number): number => {
  const t = Math.min(1, Math.max(0, facing / ASIDE));
  return t * t * (3 - 2 * t);
};
