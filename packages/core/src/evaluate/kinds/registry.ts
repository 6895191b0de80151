import { bend } from './bend.ts';
import { confine, release } from './confine.ts';
import { convolve } from './convolve.ts';
import type { PictureKind } from './define.ts';
import { despeckle } from './despeckle.ts';
import { diffract } from './diffract.ts';
import { drift } from './drift.ts';
import { enlarge } from './enlarge.ts';
import { figures } from './figures.ts';
import { extremes, focus, parts, slices } from './focus.ts';
import { graded } from './graded.ts';
import { fit, local, moments } from './local.ts';
import { mixture } from './mixture.ts';
import { points } from './points.ts';
import { reduce } from './reduce.ts';
import { sides } from './sides.ts';
import { smear } from './smear.ts';
import { smooth } from './smooth.ts';
import { sphere } from './sphere.ts';
import { trails } from './trails.ts';
import { warp } from './warp.ts';
import type { Work } from './work.ts';

/** Every kind of picture. A new one is a file, its test, its data in work.ts and a line here. */
const kinds: { readonly [K in Work['kind']]: PictureKind<Extract<Work, { kind: K }>> } = { points, confine, release, reduce, convolve, drift, diffract, enlarge, warp, moments, fit, local, smooth, sides, sphere, smear, mixture, graded, figures, trails, despeckle, bend, parts, extremes, slices, focus };

export const kindOf = <W extends Work>(work: W): PictureKind<W> => kinds[work.kind] as unknown as PictureKind<W>;
