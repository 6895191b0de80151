/**
 * ICC profiles of the spaces that pictures are delivered in: three colorants under D50, one curve.
 * @source ICC.1:2010 (profile version 4.3): header (7.2), tag table (7.3), `desc`/`cprt` as `mluc`, `chad` as `sf32`, `XYZ `, `para`
 */
import { adaptation, type OutputSpace, type OutputSpaceId, outputSpaces, rgbToXyz, timesMatrix } from '@tazzel/core';
import { codesOf } from './bytes.ts';

/** The white that profiles speak of, in XYZ and as a place. @source ICC.1:2010, 7.2.16 */
const D50_XYZ = [0.9642, 1, 0.8249];
const D50 = [0.3457, 0.3585] as const;
const HEADER = 128;

const u16 = (value: number) => [(value >> 8) & 255, value & 255];
const u32 = (value: number) => [(value >>> 24) & 255, (value >>> 16) & 255, (value >>> 8) & 255, value & 255];
/** A signed number with sixteen bits behind the point. */
const fixed = (value: number) => u32(Math.round(value * 65536) >>> 0);

/** A text in English. */
const words = (text: string) => [...codesOf('mluc'), ...u32(0), ...u32(1), ...u32(12), ...codesOf('enUS'), ...u32(text.length * 2), ...u32(28), ...codesOf(text).flatMap(u16)];
const xyz = (values: readonly number[]) => [...codesOf('XYZ '), ...u32(0), ...values.flatMap(fixed)];

/** From values to light, as the kinds 3 and 0 of parametric curves say it. @source IEC 61966-2-1 for the figures of sRGB */
function curveOf(curve: OutputSpace['curve']): number[] {
  const head = (kind: number) => [...codesOf('para'), ...u32(0), ...u16(kind), ...u16(0)];
  return curve === 'srgb' ? [...head(3), ...[2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045].flatMap(fixed)] : [...head(0), ...fixed(1 / curve)];
}

/** The whole profile; the same bytes every time. */
export function iccProfile(id: OutputSpaceId): Uint8Array {
  const { label, primaries, curve }: OutputSpace = outputSpaces[id];
  const adapted = adaptation(primaries.white, D50);
  const colorants = timesMatrix(adapted, rgbToXyz(primaries));
  const column = (c: 0 | 1 | 2) => xyz(colorants.map((row) => row[c]));
  const light = curveOf(curve);
  const tags: readonly (readonly [string, number[]])[] = [
    ['desc', words(label)],
    ['cprt', words('No copyright, use freely')],
    ['wtpt', xyz(D50_XYZ)],
    ['chad', [...codesOf('sf32'), ...u32(0), ...adapted.flat().flatMap(fixed)]],
    ['rXYZ', column(0)],
    ['gXYZ', column(1)],
    ['bXYZ', column(2)],
    ['rTRC', light],
    ['gTRC', light],
    ['bTRC', light],
  ];
  const data: number[] = [];
  const places = new Map<number[], number>();
  const start = HEADER + 4 + tags.length * 12;
  for (const [, body] of tags) {
    if (places.has(body)) continue;
    places.set(body, start + data.length);
    data.push(...body, ...new Array<number>((4 - (body.length % 4)) % 4).fill(0));
  }
  const table = [...u32(tags.length), ...tags.flatMap(([name, body]) => [...codesOf(name), ...u32(places.get(body) as number), ...u32(body.length)])];
  const size = start + data.length;
  const header = [
    ...u32(size),
    ...u32(0),
    ...[4, 0x30, 0, 0],
    ...codesOf('mntrRGB XYZ '),
    // A day that never changes, so that the same picture is the same file.
    ...[2026, 1, 1, 0, 0, 0].flatMap(u16),
    ...codesOf('acsp'),
    ...new Array<number>(28).fill(0),
    ...D50_XYZ.flatMap(fixed),
  ];
  return Uint8Array.from([...header, ...new Array<number>(HEADER - header.length).fill(0), ...table, ...data]);
}
