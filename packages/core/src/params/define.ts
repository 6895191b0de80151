/**
 * How a kind of parameter is declared: one file each, and a line in the registry. Corrections, mask terms and layers declare their parameters with these;
 * schema, shell, cards, fields and docs follow from them.
 */
/** What all parameters say of themselves. `default` is also what tells which values there can be. */
export interface ParamHead<K extends string, V> {
  readonly kind: K;
  readonly label: string;
  readonly help: string;
  readonly default: V;
  /** Values of other parameters without which this one says nothing; its field is shown only with them. */
  readonly when?: Readonly<Record<string, string | boolean>>;
}

/** What a value should have been, as words that go on “expected …”. */
export class Unfit {
  constructor(readonly expected: string) {}
}

/** How much larger a picture has become. */
export interface Growth {
  readonly across: number;
  readonly down: number;
}

type AnyParam = ParamHead<string, unknown>;

/** Parts of the document that parameters name by their ids. */
export type NamedKind = 'element' | 'layer' | 'mask' | 'materials';

/** Which of them a value names. */
export interface Naming<V> {
  readonly kind: NamedKind;
  readonly ids: (value: V) => readonly string[];
  /** The value with other ids; what becomes null is taken out. */
  readonly renamed: (value: V, to: (id: string) => string | null) => V;
}

export interface ParamKind<P extends AnyParam> {
  /** The value as it may be kept: numbers within their ranges. */
  readonly read: (param: P, given: unknown) => P['default'] | Unfit;
  /** For the shell, so that `parse` gives the same value. */
  readonly write: (param: P, value: P['default']) => string;
  /** What `read` is then given. */
  readonly parse: (param: P, text: string) => unknown;
  /** Few words for a card: `−0.35 EV`. */
  readonly summary: (param: P, value: P['default']) => string;
  /** Which values there can be, for the docs. */
  readonly range: (param: P) => string;
  /** The value for a picture of another size; where there is none, it means the same at every size. */
  readonly scaled?: (param: P, value: P['default'], by: Growth) => P['default'];
  /** Other parts of the document that it names. */
  readonly names?: Naming<P['default']>;
  /** What is wrong with a declaration; null if nothing is. */
  readonly fault?: (param: P) => string | null;
}

export const isNumber = (value: unknown): value is number => typeof value === 'number' && Number.isFinite(value);
/** A list of exactly so many numbers. */
export const isList = (value: unknown, length: number): value is number[] => Array.isArray(value) && value.length === length && value.every(isNumber);
export const clamp = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value));
/** `0.1, 0.2` as numbers. What is none becomes NaN. */
export const numbersIn = (text: string): number[] => text.trim().split(/\s*,\s*|\s+/).map(numberIn);
/** NaN for what is no number; an empty text is none. */
export const numberIn = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text.replace('−', '-')));
/** JSON as it is typed; null for what is none, which no kind takes. */
export function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
/** A figure for people. */
export const figure = (value: number, digits: number): string => value.toFixed(digits).replace('-', '−');
