/** One pixel of a point correction by its definition, in the middle of nothing special, with other elements that are grey. Parameters that are not given are the defaults. */
import { completeParams, type Correction, type Triple } from '@tazzel/core';

const SIZE = { width: 60, height: 40 };

export function correct(correction: Correction, rgb: Triple, params: Readonly<Record<string, unknown>>): Triple {
  if (correction.work !== 'points') throw new Error(`${correction.id} reads across pixels`);
  return correction.pixel(rgb, correction.prepare(completeParams(correction, params), SIZE), [17.5, 9.5], (correction.reads ?? []).map((): Triple => [0.5, 0.5, 0.5]), 1);
}
