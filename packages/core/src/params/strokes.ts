import { clampTo, LIMITS, withinCoordinates } from '../limits.ts';
import { clamp, isNumber, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** One movement of the brush. */
export interface Stroke {
  readonly erase: boolean;
  /** Diameter in pixels of the full picture. */
  readonly sizePx: number;
  /** 0…1: the share of the radius that is full. */
  readonly hardness: number;
  /** 0…1: what the stroke reaches at most. */
  readonly opacity: number;
  /** 0…1: what one dab adds. */
  readonly flow: number;
  /** Distance between dabs, as a share of the diameter. */
  readonly spacing: number;
  /** x, y and pressure (0…1), one after the other. */
  readonly path: readonly number[];
}

/** What was painted by hand, stroke by stroke. */
export type StrokesParam = ParamHead<'strokes', readonly Stroke[]>;

export const strokes = (param: Omit<StrokesParam, 'kind' | 'default'>): StrokesParam => ({ kind: 'strokes', default: [], ...param });

const isWithin = (value: unknown, [low, high]: readonly [number, number]) => isNumber(value) && value >= low && value <= high;
const isCoordinate = (value: unknown) => isWithin(value, [-LIMITS.coordinate, LIMITS.coordinate]);

/** What is wrong with a stroke; null if nothing is. In plain code: strokes are long and many. */
export function strokeProblem(stroke: unknown): string | null {
  if (typeof stroke !== 'object' || stroke === null) return 'is none';
  const { erase, sizePx, hardness, opacity, flow, spacing, path, ...others } = stroke as Record<string, unknown>;
  const [other] = Object.keys(others);
  if (other !== undefined) return `has something unknown, “${other}”`;
  if (typeof erase !== 'boolean') return 'does not say whether it erases';
  if (!isWithin(sizePx, LIMITS.brushPx)) return `must be ${LIMITS.brushPx.join(' to ')} pixels wide`;
  if (![hardness, opacity, flow].every((value) => isWithin(value, [0, 1]))) return 'must have a hardness, opacity and flow between 0 and 1';
  if (!isWithin(spacing, LIMITS.spacing)) return `must have a spacing of ${LIMITS.spacing.join(' to ')}`;
  if (!Array.isArray(path) || path.length % 3 !== 0) return 'must hold x, y and pressure';
  if (path.length > LIMITS.strokeNumbers) return `has more than ${LIMITS.strokeNumbers / 3} points`;
  for (let i = 0; i < path.length; i += 3) if (!isCoordinate(path[i]) || !isCoordinate(path[i + 1]) || !isWithin(path[i + 2], [0, 1])) return `has a point that is none, number ${i / 3 + 1}`;
  return null;
}

/** Strokes never change: those that were looked at once are not looked at again. */
const sound = new WeakSet<object>();
const soundLists = new WeakSet<object>();

function problemOf(given: unknown): string | null {
  if (!Array.isArray(given)) return 'a list of strokes';
  if (soundLists.has(given)) return null;
  if (given.length > LIMITS.strokes) return `at most ${LIMITS.strokes} strokes`;
  for (const [i, stroke] of given.entries()) {
    if (sound.has(stroke)) continue;
    const problem = strokeProblem(stroke);
    if (problem) return `strokes, of which number ${i + 1} ${problem}`;
    sound.add(stroke);
  }
  soundLists.add(given);
  return null;
}

/** A damaged list keeps the strokes that can be read: brushes beyond the limits are brought back, others left out. */
export function readableStrokes(given: readonly unknown[]): Stroke[] {
  return given.slice(0, LIMITS.strokes).flatMap((stroke): Stroke[] => {
    if (strokeProblem(stroke) === null) return [stroke as Stroke];
    const { sizePx } = (stroke ?? {}) as Partial<Stroke>;
    const mended = isNumber(sizePx) ? { ...(stroke as Stroke), sizePx: clampTo(sizePx, LIMITS.brushPx) } : stroke;
    return strokeProblem(mended) === null ? [mended as Stroke] : [];
  });
}

export const strokesKind: ParamKind<StrokesParam> = {
  read: (_, given) => {
    const problem = problemOf(given);
    return problem === null ? (given as readonly Stroke[]) : new Unfit(problem);
  },
  write: (_, value) => JSON.stringify(value),
  parse: (_, text) => {
    try {
      return JSON.parse(text);
    } catch {
      return text;
    }
  },
  summary: (_, value) => `${value.length} stroke${value.length === 1 ? '' : 's'}`,
  range: () => 'a list of strokes, as in a document',
  scaled: (_, value, { across, down }) => {
    const mean = Math.sqrt(across * down);
    return value.map((stroke) => ({ ...stroke, sizePx: clamp(stroke.sizePx * mean, ...LIMITS.brushPx), path: stroke.path.map((one, i) => (i % 3 === 0 ? withinCoordinates(one * across) : i % 3 === 1 ? withinCoordinates(one * down) : one)) }));
  },
};
