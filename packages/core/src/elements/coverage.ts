/**
 * Coverage mattes: which sources make one, and the names of its hashes. Their pixels: coverage-shares.ts.
 * @source Cryptomatte specification 1.2; Friedman, Jones: "Fully automatic ID mattes with support for motion blur and transparency", SIGGRAPH 2015
 */
import { wordsOf } from './words.ts';
import type { MaterialKind, Source, TazzelDocument } from '../document/model.ts';

const RANK = /(\d+)$/;
/** `crypto_material` of `crypto_material01`; the preview without a number is no data. */
const layerOf = (name: string) => (RANK.test(name) ? name.replace(RANK, '') : null);
const rankOf = (name: string) => Number(RANK.exec(name)?.[1] ?? 0);

/** All sources of a matte that one of its sources belongs to, in the order of their ranks. */
export function coverageRanks(sources: readonly Source[], sourceId: string): Source[] {
  const one = sources.find(({ id }) => id === sourceId);
  const layer = one && layerOf(one.name);
  if (!one || layer === null) return [];
  return sources.filter((other) => other.role === 'coverage-matte' && other.file.hash === one.file.hash && layerOf(other.name) === layer).toSorted((a, b) => rankOf(a.name) - rankOf(b.name));
}

/** What the rows of a source are, by its role and name. */
export function rowKindOf({ role, name }: Pick<Source, 'role' | 'name'>): MaterialKind {
  if (role === 'object-id') return 'object';
  return role === 'coverage-matte' && !/mat(erial|$|\d|_)/i.test(name) ? 'object' : 'material';
}

/** The first source of the coverage matte that tells the same things apart as an ID picture; null if there is none. */
export function coverageFor(sources: readonly Source[], ids: Pick<Source, 'role' | 'name'>): Source | null {
  const kind = rowKindOf(ids);
  return sources.filter((source) => source.role === 'coverage-matte' && layerOf(source.name) !== null && rowKindOf(source) === kind).toSorted((a, b) => rankOf(a.name) - rankOf(b.name))[0] ?? null;
}

/** The ID picture of what is seen through glass or in mirrors, beside the plain one. */
export const behindSource = ({ sources }: Pick<TazzelDocument, 'sources'>, front: Source): Source | null =>
  sources.find((source) => source.id !== front.id && source.role === front.role && source.width === front.width && source.height === front.height && wordsOf(source.name).some((word) => BEHIND_WORDS.includes(word))) ?? null;

const BEHIND_WORDS = ['through', 'glass', 'behind', 'mirror', 'mirrored', 'reflected', 'reflection', 'refraction', 'refracted'];

/** The most names that are read of a manifest. */
const MAX_NAMES = 100_000;

/** Names by hash, from the notes of a file's part; empty if it holds no manifest that can be read. */
export function manifestNames(notes: Readonly<Record<string, string>>, sourceName: string): Map<number, string> {
  const layer = layerOf(sourceName);
  const names = new Map<number, string>();
  for (const [key, value] of Object.entries(notes)) {
    const id = /^cryptomatte\/([^/]+)\/name$/.exec(key)?.[1];
    if (id === undefined || value !== layer) continue;
    let manifest: unknown;
    try {
      manifest = JSON.parse(notes[`cryptomatte/${id}/manifest`] ?? '{}');
    } catch {
      continue;
    }
    if (typeof manifest !== 'object' || manifest === null) continue;
    for (const [name, hash] of Object.entries(manifest)) {
      if (names.size >= MAX_NAMES) break;
      if (typeof hash === 'string' && /^[0-9a-f]{1,8}$/i.test(hash)) names.set(Number.parseInt(hash, 16), name);
    }
  }
  return names;
}
