/** From a document to a version of a review: its schemes as pictures, each with what was rendered. */
import { documentAgainst, freeName, type TazzelDocument, underScheme } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { concatenate } from '@tazzel/formats';
import type { Page, PagePicture } from '@tazzel/review';
import { sha256Of } from '../sha256.ts';
import type { ReviewPlace } from '../storage/library.ts';
import { ask, REVIEWS, sending } from './source.ts';

/** What the picture without a scheme is called. It is no name of the document: that may change, and remarks stay with the name of their page. */
export const MAIN_PAGE = 'Main picture';
/** Wide enough to look closely, small enough for a telephone. */
const WIDEST = 3000;
const QUALITY = 90;

/** The pages of a document: its picture, and each scheme. */
export const pagesOf = (document: TazzelDocument): readonly { readonly name: string; readonly schemeId: string | null }[] => {
  const names = new Set<string>();
  return [{ name: MAIN_PAGE, schemeId: null as string | null }, ...document.schemes.list.map(({ id, name }) => ({ name, schemeId: id as string | null }))].map(({ name, schemeId }) => {
    const free = freeName(name, (tried) => names.has(tried), ' ');
    names.add(free);
    return { name: free, schemeId };
  });
};

interface PublishOptions {
  readonly engine: Pick<Engine, 'deliver'>;
  readonly document: TazzelDocument;
  /** Of the studio. */
  readonly put: (bytes: Uint8Array<ArrayBuffer>) => Promise<PagePicture>;
  /** Beside each picture also what was rendered. */
  readonly withBefore: boolean;
  readonly signal: AbortSignal;
  readonly onProgress: (share: number, page: string) => void;
}

/** Makes the pictures and hands each over. What does not fit in the review in the end costs nothing there: pictures alone are not seen. */
export async function publishedPages({ engine, document, put, withBefore, signal, onProgress }: PublishOptions): Promise<{ readonly pages: Page[]; readonly problems: readonly string[] }> {
  const wanted = pagesOf(document);
  const problems = new Set<string>();
  const steps = wanted.length + (withBefore ? 1 : 0);
  let done = 0;
  const made = async (shown: TazzelDocument, name: string) => {
    const { width, height } = document.size;
    const to = Math.max(width, height) > WIDEST ? Math.round((width * WIDEST) / Math.max(width, height)) : null;
    const result = await engine.deliver({ document: shown, format: 'jpeg', values: { quality: QUALITY }, ...(to === null ? { level: 0 } : { resize: { width: to, filter: 'lanczos' } }), signal, onProgress: (share) => onProgress((done + share) / steps, name) });
    for (const problem of result.problems) problems.add(problem);
    const picture = await put(concatenate(result.parts));
    done++;
    return { size: result.size, picture };
  };
  const rendered = withBefore ? documentAgainst(document, { kind: 'base' }) : null;
  const before = rendered && (await made(rendered, 'As rendered')).picture;
  const pages: Page[] = [];
  for (const { name, schemeId } of wanted) {
    const { size, picture } = await made(underScheme(document, schemeId), name);
    pages.push({ name, width: size.width, height: size.height, picture, before });
  }
  return { pages, problems: [...problems] };
}

/** The links of a review on a server. */
export type OnServer = Extract<ReviewPlace, { studio: string }>;

/** @throws ReviewProblem 401 if the server asks for its key */
export async function openReview(title: string, days: number, key: string): Promise<OnServer> {
  const init = sending('POST', { title, days });
  return (await ask(REVIEWS, key === '' ? init : { ...init, headers: { ...init.headers, authorization: `Bearer ${key}` } })) as OnServer;
}

export async function putPicture(studio: string, bytes: Uint8Array<ArrayBuffer>): Promise<PagePicture> {
  return (await ask(`${REVIEWS}/${studio}/pictures/${await sha256Of(bytes)}`, { method: 'PUT', body: bytes, headers: { 'content-type': 'image/jpeg' } })) as PagePicture;
}

export const relink = async (studio: string, days: number): Promise<string> => ((await ask(`${REVIEWS}/${studio}/relink`, sending('POST', { days }))) as { client: string }).client;
export const closeReview = (studio: string): Promise<unknown> => ask(`${REVIEWS}/${studio}/close`, { method: 'POST' });
