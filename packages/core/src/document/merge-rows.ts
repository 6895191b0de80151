/** A schedule that was read again: which of its rows are those of before. */
import { LIMITS, shortened } from '../limits.ts';
import type { Material, MaterialKind, TazzelDocument } from '../model/model.ts';
import { findMaterial, freshIds } from '../model/query.ts';

const nameOf = ({ name, tag }: Material) => (name === tag ? null : name);

/**
 * What makes a row the same as one before, the surest first: its hash in a coverage matte, its name together with its colour, its name, its colour.
 * Colours that a renderer makes up may belong to something else the next time; a name does not.
 */
const IDENTITIES: readonly ((row: Material) => string | null)[] = [
  ({ coverage }) => (coverage ? String(coverage.hash) : null),
  (row) => nameOf(row) && `${row.colorKey} ${nameOf(row)}`,
  nameOf,
  ({ colorKey }) => String(colorKey),
];

/** For each of the new rows the one of before that it continues. No row is continued twice; of several the one of the same picture is taken. */
function continued(before: readonly Material[], rows: readonly Material[]): ReadonlyMap<Material, Material> {
  const found = new Map<Material, Material>();
  const taken = new Set<Material>();
  for (const identityOf of IDENTITIES) {
    const keyOf = (row: Material) => {
      const identity = identityOf(row);
      return identity === null ? null : `${row.kind} ${identity}`;
    };
    const byKey = new Map<string, Material[]>();
    for (const old of before) {
      const key = taken.has(old) ? null : keyOf(old);
      if (key !== null) byKey.set(key, [...(byKey.get(key) ?? []), old]);
    }
    for (const row of rows) {
      const key = found.has(row) ? null : keyOf(row);
      const candidates = key === null ? undefined : byKey.get(key);
      const old = candidates?.find(({ sourceId }) => sourceId === row.sourceId) ?? candidates?.[0];
      if (!candidates || !old) continue;
      candidates.splice(candidates.indexOf(old), 1);
      found.set(row, old);
      taken.add(old);
    }
  }
  return found;
}

/**
 * The schedule with newly found rows: those that were there before keep their id, tag, name and surface, so that masks and the artist's naming
 * survive; new ones get ids and tags that nobody has. Rows of the other kind stay.
 */
export function mergedMaterials(document: TazzelDocument, materials: readonly Material[]): Material[] {
  const kinds = new Set(materials.map(({ kind }) => kind));
  const others = document.materials.filter(({ kind }) => !kinds.has(kind));
  const oldOf = continued(document.materials, materials);
  const nextId = freshIds({ ...document, materials: [...document.materials, ...materials] }, 'material');
  const given = new Set(others.map(({ id }) => id));
  const claim = (id: string) => {
    const free = given.has(id) ? nextId() : id;
    given.add(free);
    return free;
  };
  const nextTag = freshTags(document.materials);
  const rows = materials.map((found): Material => {
    const old = oldOf.get(found);
    const isUnnamed = found.name === found.tag;
    if (old) return { ...found, id: claim(old.id), tag: old.tag, name: old.name !== old.tag || isUnnamed ? old.name : shortened(found.name, LIMITS.name), surface: old.surface };
    const tag = nextTag(found);
    // An id that belongs to an old row stays that row's: masks refer to it.
    return { ...found, id: findMaterial(document, found.id) === null ? claim(found.id) : claim(nextId()), tag, name: isUnnamed ? tag : shortened(found.name, LIMITS.name) };
  });
  return [...rows, ...others];
}

/** The tag of a new row: its own where nobody of its kind has it, else the next number. */
function freshTags(before: readonly Material[]): (row: Material) => string {
  const used = new Set(before.map(({ tag }) => tag));
  const last: Record<MaterialKind, number> = { material: 0, object: 0 };
  for (const { kind, tag } of before) last[kind] = Math.max(last[kind], Number(/\d+$/.exec(tag)?.[0] ?? 0));
  return ({ kind, tag }) => {
    let free = tag;
    while (used.has(free)) free = tag.replace(/\d+$/, '') + String(++last[kind]).padStart(2, '0');
    used.add(free);
    return free;
  };
}
