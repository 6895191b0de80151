import { type ParamHead, type ParamKind, Unfit } from './define.ts';

export type FlagParam = ParamHead<'flag', boolean>;

export const flag = (param: Omit<FlagParam, 'kind'>): FlagParam => ({ kind: 'flag', ...param });

export const flagKind: ParamKind<FlagParam> = {
  read: (_, given) => (typeof given === 'boolean' ? given : new Unfit('yes or no')),
  write: (_, value) => (value ? 'yes' : 'no'),
  parse: (_, text) => (/^(yes|true|on)$/i.test(text.trim()) ? true : /^(no|false|off)$/i.test(text.trim()) ? false : text),
  summary: ({ label }, value) => (value ? label.toLowerCase() : `not ${label.toLowerCase()}`),
  range: () => '`yes` or `no`',
};
