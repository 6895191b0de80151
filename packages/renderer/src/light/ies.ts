/** Photometric webs: how much light a luminaire sends in each direction. @source ANSI/IES LM-63 (1995 to 2019), type C photometry */

export interface Web {
  /** Polar angles from the nadir, ascending, 0…180°. */
  readonly polarDegrees: readonly number[];
  /** Angles around the axis, ascending, from 0° to 0, 90, 180 or 360°. */
  readonly aroundDegrees: readonly number[];
  /** Candela: for each angle around, one value for each polar angle. */
  readonly candela: readonly (readonly number[])[];
}

const RADIANS = Math.PI / 180;
const MAX_ANGLES = 1000;

/** @throws Error with a sentence about what is wrong in the text */
export function parseIes(text: string): Web {
  const tilt = /^TILT\s*=\s*(.*)$/im.exec(text);
  if (!tilt) throw new Error('this is not an IES LM-63 file: the line TILT= is missing');
  if (tilt[1].trim().toUpperCase() !== 'NONE') throw new Error(`TILT=${tilt[1].trim()} is not read; TILT=NONE is expected`);
  const numbers = text.slice(tilt.index + tilt[0].length).split(/[\s,]+/).filter((word) => word !== '').map(Number);
  if (numbers.some((value) => !Number.isFinite(value))) throw new Error('after TILT=NONE there must be numbers only');
  let at = 0;
  const take = (count: number): number[] => {
    if (at + count > numbers.length) throw new Error(`the file ends early: ${numbers.length} numbers, at least ${at + count} expected`);
    at += count;
    return numbers.slice(at - count, at);
  };
  const [, , multiplier, polarCount, aroundCount, type] = take(10);
  const [ballast, , ] = take(3);
  if (type !== 1) throw new Error(`photometry of type ${type} is not read; type 1 (C) is expected`);
  for (const count of [polarCount, aroundCount]) if (!Number.isInteger(count) || count < 1 || count > MAX_ANGLES) throw new Error(`${count} angles are announced; 1 to ${MAX_ANGLES} expected`);
  const polarDegrees = take(polarCount);
  const aroundDegrees = take(aroundCount);
  for (const angles of [polarDegrees, aroundDegrees]) if (angles.some((angle, i) => i > 0 && angle <= angles[i - 1])) throw new Error('the angles must ascend');
  const last = aroundDegrees[aroundCount - 1];
  if (![0, 90, 180, 360].includes(last)) throw new Error(`the angles around the axis end at ${last}°; 0, 90, 180 or 360° expected`);
  const candela = Array.from({ length: aroundCount }, () => take(polarCount).map((value) => value * multiplier * ballast));
  if (candela.flat().some((value) => value < 0)) throw new Error('a luminous intensity is below 0');
  return { polarDegrees, aroundDegrees, candela };
}

function place(angles: readonly number[], angle: number): { low: number; share: number } | null {
  if (angles.length === 1) return { low: 0, share: 0 };
  if (angle < angles[0] - 1e-6 || angle > angles[angles.length - 1] + 1e-6) return null;
  let low = 0;
  while (low < angles.length - 2 && angles[low + 1] < angle) low++;
  return { low, share: Math.min(1, Math.max(0, (angle - angles[low]) / (angles[low + 1] - angles[low]))) };
}

/** Candela in a direction, interpolated linearly; 0 where the file says nothing. */
export function candelaAt(web: Web, polarDegrees: number, aroundDegrees: number): number {
  const last = web.aroundDegrees[web.aroundDegrees.length - 1];
  let around = ((aroundDegrees % 360) + 360) % 360;
  // Webs that end early are mirrored into the other quadrants.
  if (last === 180 && around > 180) around = 360 - around;
  if (last === 90) around = around % 180 > 90 ? 180 - (around % 180) : around % 180;
  const polar = place(web.polarDegrees, polarDegrees);
  const side = place(web.aroundDegrees, around);
  if (!polar || !side) return 0;
  const row = (i: number) => {
    const values = web.candela[Math.min(i, web.candela.length - 1)];
    const low = values[polar.low];
    return low + ((values[polar.low + 1] ?? low) - low) * polar.share;
  };
  const first = row(side.low);
  return first + (row(side.low + 1) - first) * side.share;
}

/** Lumens of the whole web. */
export function lumensOf(web: Web): number {
  const steps = 180;
  let sum = 0;
  for (let i = 0; i < steps; i++) {
    const polar = ((i + 0.5) / steps) * 180;
    let ring = 0;
    for (let k = 0; k < 72; k++) ring += candelaAt(web, polar, k * 5 + 2.5) / 72;
    sum += ring * 2 * Math.PI * Math.sin(polar * RADIANS) * (Math.PI / steps);
  }
  return sum;
}
