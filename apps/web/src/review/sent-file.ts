/** A review as one archive to be sent: a page that needs no server, and its pictures. */
import { zipFiles } from '@tazzel/formats';
import type { PagePicture, ReviewEvent } from '@tazzel/review';

const MARK = 'review-data.js';

/** The page as it was built with the program. @throws Error with a sentence */
export async function reviewPage(): Promise<Uint8Array> {
  const response = await fetch('/review-file.html').catch(() => null);
  const page = response?.ok ? new Uint8Array(await response.arrayBuffer()) : null;
  if (!page || !new TextDecoder().decode(page.subarray(0, 4096)).includes(MARK)) throw new Error('The page for the file could not be loaded. Check that the server is reachable, and try again.');
  return page;
}

/** @param pictures those of the latest version, by their hash */
export function sentArchive(page: Uint8Array, events: readonly ReviewEvent[], pictures: ReadonlyMap<string, { readonly picture: PagePicture; readonly bytes: Uint8Array }>): Uint8Array {
  const path = ({ hash, type }: PagePicture) => `pictures/${hash.slice(0, 16)}.${type}`;
  const addresses = Object.fromEntries([...pictures.values()].map(({ picture }) => [picture.hash, path(picture)]));
  // Words of others stand in a script: nothing in them may end it.
  const data = `window.tazzelReview = ${JSON.stringify({ events, pictures: addresses }).replaceAll('<', '\\u003c').replaceAll('\u2028', '\\u2028').replaceAll('\u2029', '\\u2029')};\n`;
  return zipFiles([
    { name: 'review.html', parts: [page] },
    { name: MARK, parts: [new TextEncoder().encode(data)] },
    ...[...pictures.values()].map(({ picture, bytes }) => ({ name: path(picture), parts: [bytes] })),
  ]);
}
