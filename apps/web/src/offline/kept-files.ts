/** Files of the application that are kept so that it starts without a network: by their contents, so that what is the same in a newer version is not fetched again. */

/** A file of this version. */
export interface AppFile {
  /** From the root, as `/assets/index.js`. */
  readonly path: string;
  /** Of its contents, SHA-256 as hex. */
  readonly hash: string;
  /** Demo data: taken along when the application itself is there. */
  readonly isDemo: boolean;
}

/** What the page is told. */
export interface Kept {
  /** The application and its demo are there. */
  readonly isComplete: boolean;
  readonly files: number;
  readonly of: number;
}

type Shelf = Pick<Cache, 'match' | 'put' | 'delete' | 'keys'>;
export interface Outside {
  readonly fetch: (path: string) => Promise<Response>;
  readonly hash: (bytes: ArrayBuffer) => Promise<string>;
}

/** The build names what lies here by its contents: such a file is kept under its own address, where the browser finds it without waking the worker. */
export const NAMED_BY_CONTENTS = '/assets/';
const PAGE = '/index.html';
const START = 'tazzel-start-';

const keyOf = ({ path, hash }: AppFile) => (path.startsWith(NAMED_BY_CONTENTS) ? path : `${path}?kept=${hash}`);

/** Under which key something lies there. */
const keptUnder = ({ url }: Pick<Request, 'url'>): string => {
  const { pathname, search } = new URL(url);
  return `${pathname}${search}`;
};
/** Keys of what is there. One question for all: one for each file would hold up those that are being asked for. */
const keysIn = async (shelf: Shelf): Promise<ReadonlySet<string>> => new Set((await shelf.keys()).map(keptUnder));

/**
 * Fetches what is not there yet. A file whose contents are of another version (the server was renewed in the meantime) ends it.
 * @throws Error naming the file; what was fetched before stays
 */
export async function takeAlong(files: readonly AppFile[], shelf: Shelf, { fetch, hash }: Outside): Promise<void> {
  const there = await keysIn(shelf);
  for (const file of files) {
    if (there.has(keyOf(file))) continue;
    const response = await fetch(file.path);
    if (!response.ok) throw new Error(`${file.path}: ${response.status}`);
    const bytes = await response.arrayBuffer();
    if ((await hash(bytes)) !== file.hash) throw new Error(`${file.path} is of another version.`);
    // Headers stay with it: without them the browser grants no shared memory.
    await shelf.put(keyOf(file), new Response(bytes, { headers: response.headers }));
  }
}

/** Lets go of what no file of this version is. */
export async function clearOut(files: readonly AppFile[], shelf: Shelf): Promise<void> {
  const wanted = new Set(files.map(keyOf));
  for (const request of await shelf.keys()) {
    if (!wanted.has(keptUnder(request))) await shelf.delete(request);
  }
}

/** Which file answers a request, if one does: every page of the application is the same one. Parts of files are not kept apart. */
export function fileFor(files: readonly AppFile[], { method, mode, url, headers }: Pick<Request, 'method' | 'mode' | 'url' | 'headers'>, origin: string): AppFile | null {
  const at = new URL(url);
  if (method !== 'GET' || at.origin !== origin || headers.has('range')) return null;
  const path = mode === 'navigate' && !/\.[a-z0-9]+$/i.test(at.pathname) ? PAGE : at.pathname;
  return files.find((file) => file.path === path) ?? null;
}

function pageOf(files: readonly AppFile[]): AppFile {
  const page = files.find(({ path }) => path === PAGE);
  if (!page) throw new Error('The list of files has no page.');
  return page;
}

/**
 * Name of the shelf on which the start page lies once more, under its own address, for the browser to find without waking the worker.
 * Each version has its own: one that waits must not show through.
 */
export const startShelfOf = (files: readonly AppFile[]): string => START + pageOf(files).hash;
export const isStartOfAnother = (files: readonly AppFile[], name: string): boolean => name.startsWith(START) && name !== startShelfOf(files);

/** @throws Error if the page has not been taken along */
export async function layOutStart(files: readonly AppFile[], shelf: Shelf, start: Shelf): Promise<void> {
  const kept = await keptOf(pageOf(files), shelf);
  if (!kept) throw new Error('There is no page to start with.');
  await start.put('/', kept);
}

export const keptOf = async (file: AppFile, shelf: Shelf): Promise<Response | null> => (await shelf.match(keyOf(file))) ?? null;

export async function howMuch(files: readonly AppFile[], shelf: Shelf): Promise<Kept> {
  const there = await keysIn(shelf);
  const count = files.filter((file) => there.has(keyOf(file))).length;
  return { isComplete: count === files.length, files: count, of: files.length };
}
