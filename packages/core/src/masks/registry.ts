/** All mask terms, in the order in which they are offered. */
import type { MaskTerm } from '../document/model.ts';
import { CoreError } from '../errors.ts';
import { alpha } from './alpha.ts';
import { channel } from './channel.ts';
import { colour } from './colour.ts';
import type { TermSpec } from './define.ts';
import { depth } from './depth.ts';
import { distance } from './distance.ts';
import { ellipse } from './ellipse.ts';
import { facing } from './facing.ts';
import { gradient } from './gradient.ts';
import { height } from './height.ts';
import { mask } from './mask.ts';
import { material } from './material.ts';
import { paint } from './paint.ts';
import { polygon } from './polygon.ts';
import { rectangle } from './rectangle.ts';
import { tone } from './tone.ts';

type AnyTerm = { [K in MaskTerm['kind']]: TermSpec<K> }[MaskTerm['kind']];

const all: readonly AnyTerm[] = [material, depth, distance, height, facing, tone, colour, alpha, channel, ellipse, rectangle, polygon, gradient, paint, mask];
export const maskTerms = all as readonly TermSpec[];
const byKind = new Map<string, TermSpec>(maskTerms.map((spec) => [spec.kind, spec]));
if (byKind.size !== all.length) throw new Error('Two mask terms share a kind.');

/** @throws CoreError `unknown-operation` */
export function termSpec(kind: string): TermSpec {
  const spec = byKind.get(kind);
  if (!spec) throw new CoreError('unknown-operation', `There is no mask term “${kind}”. There are: ${[...byKind.keys()].join(', ')}.`);
  return spec;
}
