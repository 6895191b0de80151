/**
 * Coverage mattes: which sources make one, and the names of its hashes. Their pixels: coverage-shares.ts.
 * @source Cryptomatte specification 1.2; Friedman, Jones: "Fully automatic ID mattes with support for motion blur and transparency", SIGGRAPH 2015
 */
import { wordsOf } from './words.ts';
import type { MaterialKind, Source, TazzelDocument } from '../model/model.ts';

const RANK = /(\d+)$/;
/** What the file calls the layer of a matte's source: its channels say it (or its part, if they do not), whatever the element is called by now. */
const layerName = ({ name, colorChannels }: Pick<Source, 'name' | 'colorChannels'>) => (colorChannels[0]?.includes('.') ? colorChannels[0].replace(/\.[^.]*$/, '') : name);
/** `crypto_material` of `crypto_material01`; the preview without a number is no data. */
const layerOf = (source: Pick<Source, 'name' | 'colorChannels'>) => {
  const name = layerName(source);
  return RANK.test(name) ? name.replace(RANK, '') : null;
};
const rankOf = (source: Source) => Number(RANK.exec(layerName(source))?.[1] ?? 0);

/** All sources of a matte that one of its sources belongs to, in the order of their ranks. */
export function coverageRanks(sources: readonly Source[], sourceId: string): Source[] {
  const one = sources.find(({ id }) => id === sourceId);
  const layer = one && layerOf(one);
  if (!one || layer === null) return [];
  return sources.filter((other) => other.role === 'coverage-matte' && other.file.hash === one.file.hash && layerOf(other) === layer).toSorted((a, b) => rankOf(a) - rankOf(b));
}

/** The first source of every coverage matte. */
export const coverageMattes = (sources: readonly Source[]): Source[] => sources.filter((source) => source.role === 'coverage-matte' && coverageRanks(sources, source.id)[0]?.id === source.id);

/** What the rows of a source are, by its role and name. */
export function rowKindOf({ role, name, colorChannels = [] }: Pick<Source, 'role' | 'name'> & Partial<Pick<Source, 'colorChannels'>>): MaterialKind {
  if (role === 'object-id') return 'object';
  return role === 'coverage-matte' && !/mat(erial|$|\d|_)/i.test(layerName({ name, colorChannels })) ? 'object' : 'material';
}

/** The first source of the coverage matte that tells the same things apart as an ID picture; null if there is none. */
export function coverageFor(sources: readonly Source[], ids: Pick<Source, 'role' | 'name'>): Source | null {
  const kind = rowKindOf(ids);
  return coverageMattes(sources).find((source) => rowKindOf(source) === kind) ?? null;
}

/** The ID picture of what is seen through glass or in mirrors, beside the plain one. */
export const behindSource = ({ sources }: Pick<TazzelDocument, 'sources'>, front: Source): Source | null =>
  sources.find((source) => source.id !== front.id && source.role === front.role && source.width === front.width && source.height === front.height && wordsOf(source.name).some((word) => BEHIND_WORDS.includes(word))) ?? null;

/** Whether that picture shows what is mirrored; else what is seen through glass. */
export const isMirrored = ({ name }: Pick<Source, 'name'>): boolean => wordsOf(name).some((word) => MIRROR_WORDS.includes(word));

const MIRROR_WORDS = ['mirror', 'mirrored', 'reflected', 'reflection'];
const BEHIND_WORDS = ['through', 'glass', 'behind', 'mirror', 'mirrored', 'reflected', 'reflection', 'refraction', 'refracted'];

/** The most names that are read of a manifest. */
const MAX_NAMES = 100_000;

/** What a matte's manifest says. */
export interface MatteNames {
  readonly names: ReadonlyMap<number, string>;
  /** Why there are none, or not all; null if nothing is missing. */
  readonly problem: string | null;
}

/** The manifest as a record of names and hashes; null if the text is none. */
export function readManifest(text: string): Readonly<Record<string, string>> | null {
  try {
    const manifest: unknown = JSON.parse(text);
    if (typeof manifest !== 'object' || manifest === null || Array.isArray(manifest)) return null;
    return Object.values(manifest).every((hash) => typeof hash === 'string' && /^[0-9a-f]{1,8}$/i.test(hash)) ? (manifest as Record<string, string>) : null;
  } catch {
    return null;
  }
}

/** Names of files beside a picture in which its manifests lie. */
export const manifestFiles = (notes: Readonly<Record<string, string>>): string[] => Object.entries(notes).flatMap(([key, value]) => (/^cryptomatte\/[^/]+\/manif_file$/.test(key) ? [value.replace(/^.*[\\/]/, '')] : []));

/**
 * Names by hash, from the notes of a file (all of its parts: the manifest may stand in another one). `beside` gives the text of a file that lies
 * beside it, by its name.
 */
export function matteNames(notes: Readonly<Record<string, string>>, source: Pick<Source, 'name' | 'colorChannels'>, beside: (fileName: string) => string | undefined = () => undefined): MatteNames {
  const layer = layerOf(source);
  const names = new Map<number, string>();
  let problem: string | null = null;
  for (const [key, value] of Object.entries(notes)) {
    const id = /^cryptomatte\/([^/]+)\/name$/.exec(key)?.[1];
    // Some writers name the part before the layer.
    if (id === undefined || layer === null || (value !== layer && !layer.endsWith(`.${value}`) && !value.endsWith(`.${layer}`))) continue;
    const inside = notes[`cryptomatte/${id}/manifest`];
    const [file] = manifestFiles({ [`cryptomatte/${id}/manif_file`]: notes[`cryptomatte/${id}/manif_file`] ?? '' }).filter((name) => name !== '');
    const text = inside ?? (file === undefined ? undefined : beside(file));
    if (text === undefined) {
      problem = file === undefined ? `${source.name} brings no names: its rows have numbers. Rename them, or render with a manifest.` : `The names of ${source.name} are in “${file}”, which is not beside it. Drop both files together.`;
      continue;
    }
    const manifest = readManifest(text);
    if (!manifest) {
      problem = `The names of ${source.name} cannot be read: ${inside === undefined ? `“${file}”` : 'the manifest in the file'} is damaged. Its rows have numbers; rename them, or render it again.`;
      continue;
    }
    const entries = Object.entries(manifest);
    for (const [name, hash] of entries.slice(0, MAX_NAMES)) names.set(Number.parseInt(hash, 16), name);
    if (entries.length > MAX_NAMES) problem = `${source.name} has ${entries.length.toLocaleString('en')} names; ${MAX_NAMES.toLocaleString('en')} of them are read. Other rows have numbers.`;
  }
  return { names, problem };
}
