import { type Lut, lutFault, NO_LUT } from '../color/lut.ts';
import { jsonIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A table of colours, as it was read of a file. */
export type LutParam = ParamHead<'lut', Lut>;

export const lut = (param: Omit<LutParam, 'kind' | 'default'>): LutParam => ({ kind: 'lut', default: NO_LUT, ...param });

export const lutKind: ParamKind<LutParam> = {
  read: (_, given) => {
    const fault = lutFault(given);
    return fault ? new Unfit(fault) : (given as Lut);
  },
  write: (_, value) => JSON.stringify(value),
  parse: (_, text) => jsonIn(text),
  summary: (_, value) => (value.steps.length === 0 ? 'no table' : value.name),
  range: () => 'a table of colours, read from a .cube or .clf file',
};
