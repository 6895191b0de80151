/** Parameters that name another part of the document by its id. */
import { LIMITS } from '../document/limits.ts';
import { type ParamHead, type ParamKind, Unfit } from './define.ts';

/** An element. */
export type ElementParam = ParamHead<'element', string>;
/** A layer: the picture as it is after it. */
export type LayerParam = ParamHead<'layer', string>;

export const element = (param: Omit<ElementParam, 'kind' | 'default'>): ElementParam => ({ kind: 'element', default: '', ...param });
export const layer = (param: Omit<LayerParam, 'kind' | 'default'>): LayerParam => ({ kind: 'layer', default: '', ...param });

const idOf = (what: string) => ({
  read: (_: unknown, given: unknown) => (typeof given === 'string' && given.length <= LIMITS.id ? given : new Unfit(`the id of ${what}`)),
  write: (_: unknown, value: string) => value,
  parse: (_: unknown, text: string) => text.trim(),
  summary: (_: unknown, value: string) => value,
  range: () => `the id of ${what}`,
});

export const elementKind: ParamKind<ElementParam> = idOf('an element');
export const layerKind: ParamKind<LayerParam> = idOf('a layer');
