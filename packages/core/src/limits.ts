/**
 * What a document holds at most: one place for edits, schema, readers and tools, so that nothing is accepted by one of them and refused by
 * another. Far beyond what one picture needs; they keep damaged and hostile files from taking the machine.
 */
import type { Size } from './raster/region.ts';

export const LIMITS = {
  /** Letters of the name of a document, layer, mask, material. */
  name: 200,
  /** Letters of an element's name: multi-layer files build them of several parts. */
  elementName: 400,
  /** Letters of a sentence that is kept with an element. */
  reason: 400,
  sentence: 2000,
  id: 100,
  /** Letters of a file's or a channel's name. */
  fileName: 1024,
  sources: 4096,
  materials: 65_536,
  masks: 2000,
  /** Layers of the whole build-up, groups and what lies in them. */
  layers: 4000,
  chain: 100,
  states: 100,
  schemes: 50,
  deliveries: 100,
  /** Of earlier renders; beyond it the earliest goes. */
  renders: 50,
  /** Times that a delivered picture is halved. */
  halvings: 3,
  /** Values that a scheme sets. */
  overrides: 5000,
  scenarios: 100,
  lightKeys: 200,
  /** Of frames in which the light changes. */
  seconds: 600,
  framesPerSecond: 120,
  samplers: 12,
  findings: 20,
  terms: 100,
  termMaterials: 65_536,
  strokes: 5000,
  /** Numbers of a stroke's path: three for each point. */
  strokeNumbers: 300_000,
  points: 500,
  brushPx: [0.5, 5000],
  spacing: [0.01, 10],
  /** Masks are not meant to be grown or softened beyond this. */
  edgePx: 2000,
  /** Points and pixels of a picture lie within this of its corner. */
  coordinate: 2 ** 20,
  side: 65_536,
  pixels: 2 ** 28,
} as const;

/** Whether a picture is of a size that is worked on. */
export const isPictureSize = ({ width, height }: Size): boolean =>
  [width, height].every((side) => Number.isInteger(side) && side >= 1 && side <= LIMITS.side) && width * height <= LIMITS.pixels;

export const clampTo = (value: number, [low, high]: readonly [number, number]): number => Math.min(high, Math.max(low, value));
export const withinCoordinates = (value: number): number => clampTo(value, [-LIMITS.coordinate, LIMITS.coordinate]);

/** A text of at most so many letters; a cut shows as an ellipsis and never leaves half a character. */
export function shortened(text: string, most: number = LIMITS.name): string {
  if (text.length <= most) return text;
  const cut = text.slice(0, most - 1);
  const last = cut.charCodeAt(cut.length - 1);
  return `${last >= 0xd800 && last <= 0xdbff ? cut.slice(0, -1) : cut}…`;
}
