/** What is declared with parameters: their defaults, their values from a file, from the shell, for a card, for another size of picture. */
import { shortened } from '../limits.ts';
import { CoreError } from '../errors.ts';
import { type Growth, type NamedKind, Unfit } from './define.ts';
import { type Param, paramKind, type ParamValue, type ValueOf } from './registry.ts';

export type ParamTable = Readonly<Record<string, Param>>;
export type ParamValues<P extends ParamTable = ParamTable> = { readonly [K in keyof P]: ValueOf<P[K]> };
/** Values as a document keeps them. */
export type KeptValues = Readonly<Record<string, ParamValue>>;
/** Something with parameters, and what it is called in a sentence. */
export interface Parametric {
  readonly label: string;
  readonly params: ParamTable;
}

/** What every parameter is before anybody changed it. */
export const defaultsOf = ({ params }: Pick<Parametric, 'params'>): KeptValues => Object.fromEntries(Object.entries(params).map(([name, param]) => [name, param.default]));

/** The parameters in full: defaults for what is missing, ranges kept. @throws CoreError `bad-parameter` for unknown names and values of another kind */
export function completeParams(of: Parametric, given: Readonly<Record<string, unknown>>): KeptValues {
  const values: Record<string, ParamValue> = { ...defaultsOf(of) };
  for (const [name, value] of Object.entries(given)) values[name] = valueRead(of, name, value);
  return values;
}

/** One value as it may be kept. @throws CoreError `bad-parameter` */
export function valueRead(of: Parametric, name: string, given: unknown): ParamValue {
  const param = paramOf(of, name);
  const value = paramKind(param).read(param, given);
  if (value instanceof Unfit) throw new CoreError('bad-parameter', `${of.label}, ${param.label}: expected ${value.expected}, found ${found(given)}.`);
  return value;
}

function paramOf({ label, params }: Parametric, name: string): Param {
  const param = Object.hasOwn(params, name) ? params[name] : undefined;
  if (!param) throw new CoreError('bad-parameter', `${label} has no parameter “${shortened(name, 40)}”. It has: ${Object.keys(params).join(', ') || 'none'}.`);
  return param;
}

/** One value as it is written in the shell. @throws CoreError `bad-parameter` */
export function valueFromText(of: Parametric, name: string, text: string): ParamValue {
  const param = paramOf(of, name);
  const value = paramKind(param).read(param, paramKind(param).parse(param, text));
  if (value instanceof Unfit) throw new CoreError('bad-parameter', `${of.label}, ${param.label}: expected ${value.expected}, found “${shortened(text, 40)}”.`);
  return value;
}

/** Values for a picture of another size. */
export const scaledParams = ({ params }: Pick<Parametric, 'params'>, values: KeptValues, by: Growth): KeptValues =>
  Object.fromEntries(Object.entries(values).map(([name, value]) => {
    const param = params[name];
    return [name, (param && paramKind(param).scaled?.(param, value, by)) ?? value];
  }));

/** Ids of other parts of the document, of one kind, that values name. */
export function referencesOf({ params }: Pick<Parametric, 'params'>, values: KeptValues, kind: NamedKind): string[] {
  return Object.entries(params).flatMap(([name, param]) => {
    const { names } = paramKind(param);
    return names?.kind === kind && values[name] !== undefined ? [...names.ids(values[name])] : [];
  });
}

/** Values with every id of another part changed: `to` gives the new id, or null, which takes it out. */
export function withReferences({ params }: Pick<Parametric, 'params'>, values: KeptValues, to: (kind: NamedKind, id: string) => string | null): KeptValues {
  return Object.fromEntries(
    Object.entries(values).map(([name, value]): [string, ParamValue] => {
      const names = params[name] && paramKind(params[name]).names;
      return [name, names ? names.renamed(value, (id) => to(names.kind, id)) : value];
    }),
  );
}

/** Whether a parameter says anything beside the others. */
export const isRelevant = ({ when = {} }: Param, values: Readonly<Record<string, unknown>>): boolean => Object.entries(when).every(([name, value]) => values[name] === value);

/** What was changed, in few words, the colours first; empty if nothing was. */
export function summaryOf({ params }: Pick<Parametric, 'params'>, values: KeptValues): string {
  const entries = Object.entries(params).filter(([name, param]) => isRelevant(param, values) && !isSame(values[name], param.default));
  const first = entries.filter(([, { kind }]) => kind === 'color').slice(0, 1);
  return [...first, ...entries.filter(([, { kind }]) => kind !== 'color')].map(([name, param]) => paramKind(param).summary(param, values[name])).join(', ');
}

export const isSame = (a: ParamValue, b: ParamValue): boolean => a === b || (typeof a === 'object' && JSON.stringify(a) === JSON.stringify(b));

/** What is wrong with a table of parameters; null if nothing is. */
export function faultOf(params: ParamTable): string | null {
  for (const [name, param] of Object.entries(params)) {
    const fault = paramKind(param).fault?.(param);
    if (fault) return `${name}: ${fault}.`;
    const lost = Object.keys(param.when ?? {}).find((other) => !Object.hasOwn(params, other));
    if (lost) return `${name}: it depends on ${lost}, which is no parameter.`;
  }
  return null;
}

function found(value: unknown): string {
  if (typeof value === 'string') return `“${shortened(value, 40)}”`;
  if (Array.isArray(value)) return value.length > 8 ? 'a long list' : `a list (${shortened(JSON.stringify(value), 40)})`;
  return typeof value === 'object' && value !== null ? 'an object' : String(value);
}
