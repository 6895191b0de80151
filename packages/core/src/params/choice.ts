import { type ParamHead, type ParamKind, Unfit } from './define.ts';

export interface ChoiceParam<K extends string = string> extends ParamHead<'choice', K> {
  /** Label of each value; ids are kebab-case and never used for something else. */
  readonly options: Readonly<Record<K, string>>;
}

export const choice = <const O extends Readonly<Record<string, string>>>(param: { label: string; help: string; options: O; default: keyof O & string; when?: ParamHead<'choice', string>['when'] }): ChoiceParam<keyof O & string> => ({ kind: 'choice', ...param });

export const choiceKind: ParamKind<ChoiceParam> = {
  read: ({ options }, given) => (typeof given === 'string' && Object.hasOwn(options, given) ? given : new Unfit(`one of ${Object.keys(options).join(', ')}`)),
  write: (_, value) => value,
  parse: (_, text) => text.trim(),
  summary: ({ options }, value) => options[value].toLowerCase(),
  range: ({ options }) => Object.entries(options).map(([id, label]) => `\`${id}\` ${label}`).join(', '),
  fault: ({ options, default: initial }) => (Object.hasOwn(options, initial) ? null : 'the default must be one of its options'),
};
