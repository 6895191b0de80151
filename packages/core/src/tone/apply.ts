/**
 * Tones at work. Whatever its curve, a tone is one table: by how much light is multiplied, over its stops. Steps are fine enough that a straight line between them is within 2e-5 of
 * the curve.
 */
import { lutColor } from '../color/lut.ts';
import { clampUnit, srgbEncode } from '../color/srgb.ts';
import { completeParams } from '../params/table.ts';
import { remembered } from '../remembered.ts';
import type { Triple } from '../vector.ts';
import { isToneId, toneById, type ToneUse } from './registry.ts';
import { straight } from './straight.ts';

const [LEAST_STOP, MOST_STOP, STEPS_A_STOP] = [-16, 16, 64];
const LAST = (MOST_STOP - LEAST_STOP) * STEPS_A_STOP;
/** Before the table: whether the brightest channel decides for all. */
const HEAD = 1;

export interface PlannedTone {
  /** Equal keys do the same. */
  readonly key: string;
  /** The table; null leaves light as it is. */
  readonly prepared: Float32Array | null;
  /** A packed table of colours in its place, which gives picture values. */
  readonly colours: Float32Array | null;
}

function prepareTone({ type, params }: ToneUse): PlannedTone {
  // One of a later version is straight.
  const spec = isToneId(type) ? toneById(type) : straight;
  const values = spec === straight ? {} : completeParams(spec, params);
  const key = `${type} ${JSON.stringify(values)}`;
  if (!spec.curve) return { key, prepared: null, colours: spec.table?.(values) ?? null };
  const curve = spec.curve(values);
  const gain = (_: unknown, i: number) => {
    const light = 2 ** (LEAST_STOP + i / STEPS_A_STOP);
    return curve(light) / light;
  };
  return { key, prepared: Float32Array.from([values.carries === 'brightest' ? 1 : 0, ...Array.from({ length: LAST + 1 }, gain)]), colours: null };
}

/** The same for the same use of a tone: uses never change. */
export const plannedTone = remembered(prepareTone);

/** By how much light is multiplied; light that is not above 0 stays as dark as it is. */
function gainOf(table: ArrayLike<number>, light: number): number {
  const at = light > 0 ? Math.min(LAST, Math.max(0, (Math.log2(light) - LEAST_STOP) * STEPS_A_STOP)) : 0;
  const whole = Math.min(LAST - 1, Math.floor(at));
  return table[HEAD + whole] + (at - whole) * (table[HEAD + whole + 1] - table[HEAD + whole]);
}

/** Scene light to picture values 0…1: the definition of what the kernels do. */
export function toned(rgb: Triple, { prepared, colours }: PlannedTone): Triple {
  if (colours) return lutColor(rgb, colours).map(clampUnit) as unknown as Triple;
  if (!prepared) return [srgbEncode(rgb[0]), srgbEncode(rgb[1]), srgbEncode(rgb[2])];
  const most = prepared[0] === 1 ? gainOf(prepared, Math.max(...rgb)) : null;
  const channel = (value: number) => srgbEncode(value * (most ?? gainOf(prepared, value)));
  return [channel(rgb[0]), channel(rgb[1]), channel(rgb[2])];
}
