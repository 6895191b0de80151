import { type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A line of words. */
export type TextParam = ParamHead<'text', string>;

export const TEXT_LENGTH = 200;

export const text = (param: Omit<TextParam, 'kind' | 'default'>): TextParam => ({ kind: 'text', default: '', ...param });

/** Below a space, and the one that deletes. */
const isControl = (char: string) => char < ' ' || char === '\u007f';

export const textKind: ParamKind<TextParam> = {
  read: (_, given) => (typeof given === 'string' && given.length <= TEXT_LENGTH && ![...given].some(isControl) ? given : new Unfit(`a line of at most ${TEXT_LENGTH} letters`)),
  write: (_, value) => value,
  parse: (_, given) => given,
  summary: ({ label }, value) => (value === '' ? `no ${label.toLowerCase()}` : value),
  range: () => `a line of at most ${TEXT_LENGTH} letters`,
};
