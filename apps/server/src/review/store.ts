/**
 * Reviews in plain files: a folder each, with a log of events, one JSON line each, and the pictures under their SHA-256. A line is on the disk before anybody is told
 * that it was taken; one that was cut off by a crash is cut away when the log is opened again. What one folder holds can be copied, moved and read by hand.
 */
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { mkdir, open, readdir, readFile, rename, rm, stat, truncate } from 'node:fs/promises';
import { join } from 'node:path';
import { type PagePicture, PICTURE_TYPES, type PictureType, type Review, type ReviewEvent, readEvent, reviewOf, type Role, withEvent } from '@tazzel/review';

/** What went wrong, as HTTP says it, with a sentence for people. */
export class ReviewError extends Error {
  override readonly name = 'ReviewError';
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 409 | 410 | 413 | 415 | 507,
    message: string,
  ) {
    super(message);
  }
}

export interface Link {
  readonly id: string;
  readonly secret: string;
}
export interface Entry {
  readonly role: Role;
  readonly review: Review;
}

const LOG = 'events.jsonl';
const SECRET_BYTES = 24;
const DAY_MS = 86_400_000;
/** Every review has the same answer for whom it does not know: nobody learns which ones there are. */
const UNKNOWN = 'There is no review at this address. Ask for the link again.';

export const sha256 = (data: string | Uint8Array): string => createHash('sha256').update(data).digest('hex');
const isSame = (secret: string, hash: string) => timingSafeEqual(Buffer.from(sha256(secret), 'hex'), Buffer.from(hash, 'hex'));
const newSecret = () => randomBytes(SECRET_BYTES).toString('base64url');
/** No dot: an address that ends like a file’s name is taken for one. */
export const linkText = ({ id, secret }: Link): string => `${id}-${secret}`;
/** @throws ReviewError if it is no link */
export function readLink(text: string): Link {
  const found = /^([0-9a-f]{24})-([\w-]{32})$/.exec(text);
  if (!found) throw new ReviewError(404, UNKNOWN);
  return { id: found[1], secret: found[2] };
}

/** What the first bytes of a picture say that it is; null if it is none that browsers show. @source PNG 3rd edition, 5.2; JPEG ITU-T T.81, B.2.1; WebP RFC 9649, 2.4 */
function pictureType(bytes: Uint8Array): PictureType | null {
  const begins = (signature: readonly number[], at = 0) => signature.every((byte, i) => bytes[at + i] === byte);
  if (begins([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])) return 'png';
  if (begins([0xff, 0xd8, 0xff])) return 'jpg';
  return begins([0x52, 0x49, 0x46, 0x46]) && begins([0x57, 0x45, 0x42, 0x50], 8) ? 'webp' : null;
}

interface Kept {
  readonly events: ReviewEvent[];
  review: Review;
}

export class ReviewStore {
  /** Reviews that were asked for; the folder stays the truth. */
  readonly #known = new Map<string, Promise<Kept>>();
  /** What is done to a review is done one after the other. */
  readonly #turns = new Map<string, Promise<unknown>>();

  constructor(
    readonly folder: string,
    readonly now: () => number = Date.now,
  ) {}

  /** @returns the links: for the client and for the studio. Only their hashes are kept. */
  async open(title: string, days: number): Promise<{ readonly client: string; readonly studio: string }> {
    const id = randomBytes(12).toString('hex');
    const [client, studio] = [newSecret(), newSecret()];
    await mkdir(this.#path(id, 'pictures'), { recursive: true });
    const at = this.now();
    const event: ReviewEvent = { type: 'opened', at, id, title, until: at + days * DAY_MS, client: sha256(client), studio: sha256(studio) };
    this.#known.set(id, Promise.resolve({ events: [], review: reviewOf([event]) }));
    await this.#append(id, event);
    return { client: linkText({ id, secret: client }), studio: linkText({ id, secret: studio }) };
  }

  /** @throws ReviewError 404 if nothing is there for this link, 410 if it led here once */
  async enter({ id, secret }: Link): Promise<Entry> {
    const kept = await this.#kept(id);
    let [client, studio] = ['', ''];
    for (const event of kept.events) {
      if (event.type === 'opened') [client, studio] = [event.client, event.studio];
      else if (event.type === 'relinked') client = event.client;
    }
    if (isSame(secret, studio)) return { role: 'studio', review: kept.review };
    if (!isSame(secret, client)) throw new ReviewError(404, UNKNOWN);
    if (kept.review.closed) throw new ReviewError(410, 'This review was closed by the studio. What you wrote was kept.');
    if (this.now() > kept.review.until) throw new ReviewError(410, 'This link has run out. Ask the studio for a new one; what you wrote was kept.');
    return { role: 'client', review: kept.review };
  }

  /**
   * Adds what `make` makes of the review as it is in that moment; null is nothing to add.
   * @returns the review afterwards, once it is on the disk
   */
  async add(id: string, make: (review: Review) => Unsaid | null): Promise<Review> {
    return this.#turn(id, async () => {
      const { review } = await this.#kept(id);
      const event = make(review);
      return event === null ? review : this.#append(id, { ...event, at: this.now() } as ReviewEvent);
    });
  }

  /** A new link for the client, instead of the one before. */
  async relink(id: string, days: number): Promise<string> {
    const secret = newSecret();
    await this.add(id, () => ({ type: 'relinked', client: sha256(secret), until: this.now() + days * DAY_MS }));
    return linkText({ id, secret });
  }

  /** @throws ReviewError if the bytes are no picture, or not those of the hash */
  async putPicture(id: string, hash: string, bytes: Uint8Array): Promise<PagePicture> {
    const type = pictureType(bytes);
    if (!type) throw new ReviewError(415, 'Pictures for review are PNG, JPEG or WebP.');
    if (sha256(bytes) !== hash) throw new ReviewError(400, 'The picture did not arrive whole. Send it again.');
    const path = this.#path(id, 'pictures', `${hash}.${type}`);
    if (!(await stat(path).catch(() => null))) {
      const partial = `${path}.${randomBytes(6).toString('hex')}.partial`;
      try {
        await mkdir(this.#path(id, 'pictures'), { recursive: true });
        await written(partial, bytes, 'w');
        await rename(partial, path);
      } catch (error) {
        await rm(partial, { force: true });
        throw shortage(error);
      }
    }
    return { hash, type };
  }

  /** Where a picture of a review lies. @throws ReviewError 404 */
  async picture(id: string, hash: string): Promise<{ readonly path: string; readonly type: string }> {
    if (/^[0-9a-f]{64}$/.test(hash))
      for (const [ending, type] of Object.entries(PICTURE_TYPES)) {
        const path = this.#path(id, 'pictures', `${hash}.${ending}`);
        if (await stat(path).catch(() => null)) return { path, type };
      }
    throw new ReviewError(404, 'There is no such picture in this review.');
  }

  /** Everything that is there, for the studio's own machine. */
  async ids(): Promise<readonly string[]> {
    const entries = await readdir(this.folder, { withFileTypes: true }).catch(() => []);
    return entries.flatMap((entry) => (entry.isDirectory() && /^[0-9a-f]{24}$/.test(entry.name) ? [entry.name] : []));
  }

  #path(id: string, ...rest: readonly string[]): string {
    return join(this.folder, id, ...rest);
  }

  #kept(id: string): Promise<Kept> {
    const known = this.#known.get(id) ?? this.#read(id);
    this.#known.set(id, known);
    known.catch(() => this.#known.delete(id));
    return known;
  }

  async #read(id: string): Promise<Kept> {
    const path = this.#path(id, LOG);
    const text = await readFile(path, 'utf8').catch(() => null);
    if (text === null) throw new ReviewError(404, UNKNOWN);
    const whole = text.slice(0, text.lastIndexOf('\n') + 1);
    // Nobody was told that it was taken.
    if (whole.length < text.length) await truncate(path, Buffer.byteLength(whole));
    const events = whole.split('\n').flatMap((line, i) => {
      if (line === '') return [];
      try {
        return [readEvent(JSON.parse(line))];
      } catch (error) {
        console.error(`${path}, line ${i + 1}, is passed over: ${(error as Error).message}`);
        return [];
      }
    });
    if (events[0]?.type !== 'opened') throw new ReviewError(404, UNKNOWN);
    return { events, review: reviewOf(events) };
  }

  async #append(id: string, event: ReviewEvent): Promise<Review> {
    const kept = await this.#kept(id);
    const path = this.#path(id, LOG);
    const before = (await stat(path).catch(() => null))?.size ?? 0;
    try {
      await written(path, `${JSON.stringify(event)}\n`, 'a');
    } catch (error) {
      // Half a line would spoil the next one.
      await truncate(path, before).catch(() => undefined);
      throw shortage(error);
    }
    kept.events.push(event);
    kept.review = withEvent(kept.review, event);
    return kept.review;
  }

  #turn<T>(id: string, work: () => Promise<T>): Promise<T> {
    const turn = (this.#turns.get(id) ?? Promise.resolve()).then(work, work);
    this.#turns.set(id, turn.catch(() => undefined));
    return turn;
  }
}

/** An event without the time, which is the server's. */
type Unsaid = ReviewEvent extends infer E ? (E extends ReviewEvent ? Omit<E, 'at'> : never) : never;

/** Through to the disk. */
async function written(path: string, data: string | Uint8Array, flags: 'w' | 'a'): Promise<void> {
  const file = await open(path, flags);
  try {
    await file.writeFile(data);
    await file.sync();
  } finally {
    await file.close();
  }
}

const shortage = (error: unknown): unknown => (['ENOSPC', 'EDQUOT', 'EFBIG'].includes((error as NodeJS.ErrnoException).code ?? '') ? new ReviewError(507, 'The review server’s disk is full. Nothing of this was kept; tell the studio.') : error);
