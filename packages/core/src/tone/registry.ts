import { CoreError } from '../errors.ts';
import { completeParams, type KeptValues } from '../params/table.ts';
import type { ToneSpec } from './define.ts';
import { filmFit } from './film-fit.ts';
import { filmic } from './filmic.ts';
import { lutTone } from './lut-tone.ts';
import { reinhard } from './reinhard.ts';
import { straight } from './straight.ts';
import { toeShoulder } from './toe-shoulder.ts';

/** Every tone, in the order in which it is offered. A new one is a file, its test and a line here. */
export const tones: readonly ToneSpec[] = [straight, toeShoulder, filmic, reinhard, filmFit, lutTone];

const byId = new Map(tones.map((tone) => [tone.id, tone]));

/** The tone line as a document keeps it. */
export interface ToneUse {
  readonly type: string;
  readonly params: KeptValues;
}

export const STRAIGHT_TONE: ToneUse = { type: straight.id, params: {} };

/** @throws CoreError `unknown-operation` */
export function toneById(id: string): ToneSpec {
  const tone = byId.get(id);
  if (!tone) throw new CoreError('unknown-operation', `There is no tone “${id}”. Known: ${[...byId.keys()].join(', ')}.`);
  return tone;
}

export const isToneId = (id: string): boolean => byId.has(id);

/** A tone of its own type with values in full. @throws CoreError `unknown-operation`, `bad-parameter` */
export const newTone = (type: string, params: Readonly<Record<string, unknown>> = {}): ToneUse => ({ type, params: completeParams(toneById(type), params) });
