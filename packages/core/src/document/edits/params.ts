/** The parameters of whatever has some. */
import type { KeptValues } from '../../params/table.ts';
import { type ParamAddress, withParams } from '../address.ts';
import type { Handlers } from './define.ts';

/** An address, and values that change; all others stay. */
export type ParamEdit = { type: 'set-params'; params: KeptValues } & ParamAddress;

export const paramEdits: Handlers<ParamEdit> = {
  'set-params': {
    label: 'Adjust',
    apply: (document, { type: _, params, ...at }) => withParams(document, at, params),
  },
};
