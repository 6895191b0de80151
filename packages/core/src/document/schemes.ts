/** Schemes: variants of the picture. A document shows one of them, or what all of them begin with; what is changed while it is shown belongs to it. */
import type { Override, Scheme, TazzelDocument } from '../model/model.ts';
import { changedSlots, isSameValue, newLayers, slotKey, valueAt, withValue } from './slots.ts';

export const schemeOf = ({ schemes }: Pick<TazzelDocument, 'schemes'>, id: string | null): Scheme | null => schemes.list.find((scheme) => scheme.id === id) ?? null;

/** Overrides whose place is gone, or where their value no longer belongs. */
export const lostOverrides = (document: TazzelDocument, { overrides }: Scheme): readonly Override[] => overrides.filter((override) => withValue(document, override, override.value) === null);

/** The document as another scheme shows it; null is without any. What a scheme sets and is gone is left out of the picture and stays in the scheme. */
export function underScheme(document: TazzelDocument, id: string | null): TazzelDocument {
  if (document.schemes.chosenId === id) return document;
  const plain = document.schemes.base.reduce((made, before) => withValue(made, before, before.value) ?? made, document);
  const base: Override[] = [];
  let result = plain;
  for (const { at, what, value } of schemeOf(document, id)?.overrides ?? []) {
    const set = withValue(result, { at, what }, value);
    if (!set) continue;
    base.push({ at, what, value: valueAt(plain, { at, what }) });
    result = set;
  }
  return { ...result, schemes: { ...document.schemes, chosenId: schemeOf(document, id) ? id : null, base } };
}

/** What was changed from one version to the next belongs to the scheme that is shown. Layers that are new are seen in it alone. */
export function recorded(before: TazzelDocument, after: TazzelDocument): TazzelDocument {
  const scheme = schemeOf(after, after.schemes.chosenId);
  if (!scheme || before === after || before.schemes !== after.schemes) return after;
  const added = newLayers(before, after).filter(({ visible }) => visible).map(({ id }) => ({ at: { layerId: id }, what: 'visible', from: false, to: true }));
  const changes = [...changedSlots(before, after), ...added];
  if (changes.length === 0) return after;
  const own = new Map(scheme.overrides.map((override) => [slotKey(override), override]));
  const base = new Map(after.schemes.base.map((override) => [slotKey(override), override]));
  for (const { at, what, from, to } of changes) {
    const key = slotKey({ at, what });
    const without = base.get(key);
    if (without && isSameValue(without.value, to)) {
      own.delete(key);
      base.delete(key);
      continue;
    }
    own.set(key, { at, what, value: to });
    if (!without) base.set(key, { at, what, value: from });
  }
  const { list } = after.schemes;
  return { ...after, schemes: { ...after.schemes, list: list.map((each) => (each === scheme ? { ...scheme, overrides: [...own.values()] } : each)), base: [...base.values()] } };
}
