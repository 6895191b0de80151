import type { Schemes } from '@tazzel/core';

/** What the picture is called without any scheme. */
export const WITHOUT = 'Without a scheme';

export interface NamedScheme {
  /** Null is without any. */
  readonly id: string | null;
  readonly name: string;
}

/** All that can be shown; nothing where there are no schemes. */
export const schemesShown = ({ list }: Schemes): readonly NamedScheme[] => (list.length === 0 ? [] : [{ id: null, name: WITHOUT }, ...list]);

/** All but the one that is shown. */
export const schemesBeside = (schemes: Schemes): readonly NamedScheme[] => schemesShown(schemes).filter(({ id }) => id !== schemes.chosenId);
