/** Schemes by name: made, chosen, named, removed; single differences taken back. */
import { LIMITS } from '../../limits.ts';
import type { Scheme, TazzelDocument } from '../../model/model.ts';
import { freshId } from '../../model/query.ts';
import { schemeOf, underScheme } from '../schemes.ts';
import { type Slot, slotKey, withValue } from '../slots.ts';
import { type Handlers, named, refuse } from './define.ts';

export type SchemeEdit =
  /** One that begins with what is shown, and is shown from here on. */
  | { type: 'add-scheme'; name: string }
  /** Null is what all schemes begin with. */
  | { type: 'choose-scheme'; schemeId: string | null }
  | { type: 'rename-scheme'; schemeId: string; name: string }
  | { type: 'remove-scheme'; schemeId: string }
  /** Some differences of a scheme are none any more. */
  | { type: 'remove-overrides'; schemeId: string; slots: readonly Slot[] };

const find = (document: TazzelDocument, id: string): Scheme => schemeOf(document, id) ?? refuse(`There is no scheme ${id}.`);
const withList = (document: TazzelDocument, list: readonly Scheme[]): TazzelDocument => ({ ...document, schemes: { ...document.schemes, list } });

export const schemeEdits: Handlers<SchemeEdit> = {
  'add-scheme': {
    label: 'Add scheme',
    apply: (document, { name }) => {
      const { list, chosenId } = document.schemes;
      if (list.length >= LIMITS.schemes) refuse(`A document holds at most ${LIMITS.schemes} schemes. Remove one first.`);
      const made: Scheme = { id: freshId(document, 'scheme'), name: named(name, 'a scheme'), overrides: schemeOf(document, chosenId)?.overrides ?? [] };
      return { ...document, schemes: { ...document.schemes, list: [...list, made], chosenId: made.id } };
    },
  },
  'choose-scheme': {
    label: 'Show another scheme',
    apply: (document, { schemeId }) => underScheme(document, schemeId === null ? null : find(document, schemeId).id),
  },
  'rename-scheme': {
    label: 'Rename scheme',
    apply: (document, { schemeId, name }) => {
      const scheme = find(document, schemeId);
      return withList(document, document.schemes.list.map((each) => (each === scheme ? { ...scheme, name: named(name, 'a scheme') } : each)));
    },
  },
  'remove-scheme': {
    label: 'Remove scheme',
    apply: (document, { schemeId }) => {
      const { id } = find(document, schemeId);
      const shown = document.schemes.chosenId === id ? underScheme(document, null) : document;
      return withList(shown, shown.schemes.list.filter((each) => each.id !== id));
    },
  },
  'remove-overrides': {
    label: 'Take back differences of a scheme',
    apply: (document, { schemeId, slots }) => {
      const scheme = find(document, schemeId);
      const keys = new Set(slots.map(slotKey));
      const isTheirs = (slot: Slot) => keys.has(slotKey(slot));
      const overrides = scheme.overrides.filter((override) => !isTheirs(override));
      if (overrides.length === scheme.overrides.length) return refuse('The scheme has no such difference.');
      const changed = withList(document, document.schemes.list.map((each) => (each === scheme ? { ...scheme, overrides } : each)));
      if (document.schemes.chosenId !== schemeId) return changed;
      const { base } = document.schemes;
      const back = base.filter(isTheirs).reduce((made, before) => withValue(made, before, before.value) ?? made, changed);
      return { ...back, schemes: { ...back.schemes, base: base.filter((before) => !isTheirs(before)) } };
    },
  },
};
