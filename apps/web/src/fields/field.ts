import type { Param, ParamValue } from '@tazzel/core';

/** What a field of one parameter is given. */
export interface FieldProps<P extends Param> {
  readonly param: P;
  readonly value: P['default'];
  /** `gesture` is the same for all steps of one drag, so that they undo as one. */
  readonly onChange: (value: P['default'], gesture?: string) => void;
  /** Why a value would be refused; null if it would not. */
  readonly whyNot: (value: P['default']) => string | null;
}

/** What the fields of all parameters of a kind are given, where they stand together. */
export interface GroupProps<P extends Param> {
  readonly params: readonly (readonly [name: string, param: P])[];
  readonly values: Readonly<Record<string, ParamValue>>;
  readonly onChange: (patch: Readonly<Record<string, ParamValue>>, gesture?: string) => void;
}
