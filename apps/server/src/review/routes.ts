/** Reviews over HTTP. Whoever has a link may enter: that of the client reads and remarks, that of the studio publishes and settles. */
import { createHash, timingSafeEqual } from 'node:crypto';
import { PICTURE_TYPES, remarksCsv, remarksMarkdown, type Review, requests, REVIEW_LIMITS } from '@tazzel/review';
import express, { type ErrorRequestHandler, type Request, type RequestHandler, type Response, type Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { AnySchema, InferType } from 'yup';
import { type Entry, type Link, readLink, ReviewError, type ReviewStore } from './store.ts';

export interface ReviewOptions {
  readonly store: ReviewStore;
  /** Who may begin a review: whoever knows it. Null where only this machine reaches the server. */
  readonly studioKey: string | null;
  /** Writing calls of one address in a minute. */
  readonly writesPerMinute?: number;
}

const LARGEST_WORDS = '256kb';

export function reviewRoutes({ store, studioKey, writesPerMinute = 120 }: ReviewOptions): Router {
  const router = express.Router();
  const words = express.json({ limit: LARGEST_WORDS, strict: true });
  router.use((request, response, next) => {
    response.setHeader('Cache-Control', 'no-store');
    if (request.method !== 'GET' && request.get('sec-fetch-site') === 'cross-site') return next(new ReviewError(403, 'Another site asked for this.'));
    next();
  });
  const limited = (perMinute: number) => rateLimit({ windowMs: 60_000, limit: perMinute, standardHeaders: 'draft-8', legacyHeaders: false, message: { problem: 'Too much at once. Wait a minute, and try again; nothing that you wrote is lost.' } });
  const writing = limited(writesPerMinute);
  router.use(limited(20 * writesPerMinute));

  const entered = async (request: Request): Promise<Entry & Link> => {
    const link = readLink(String(request.params.link));
    return { ...link, ...(await store.enter(link)) };
  };
  const asStudio = async (request: Request) => {
    const entry = await entered(request);
    if (entry.role !== 'studio') throw new ReviewError(403, 'Only the studio can do this.');
    return entry;
  };
  const asked = <S extends AnySchema>(shape: S, request: Request): InferType<S> => {
    try {
      return shape.validateSync(request.body);
    } catch (error) {
      throw new ReviewError(400, `This was not taken: ${(error as Error).message}.`);
    }
  };
  const say = (response: Response, { role }: Entry, review: Review) => void response.json({ role, review });

  router.post('/', writing, words, async (request, response) => {
    // Without a key only this machine may begin one: a name that was made to lead here is another site.
    if (studioKey === null && !/^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/.test(request.get('host') ?? '')) throw new ReviewError(403, 'Only this machine can begin a review here. Start the server with --public to ask for a key instead.');
    if (studioKey !== null && !isSameText(request.get('authorization') ?? '', `Bearer ${studioKey}`)) throw new ReviewError(401, 'This review server asks for its studio key, which it says when it starts.');
    const { title, days } = asked(requests.open, request);
    response.status(201).json(await store.open(title, days));
  });
  router.get('/:link', async (request, response) => {
    const entry = await entered(request);
    say(response, entry, entry.review);
  });
  router.get('/:link/pictures/:hash', async (request, response) => {
    const { id } = await entered(request);
    const { path, type } = await store.picture(id, String(request.params.hash));
    response.setHeader('Cache-Control', 'private, max-age=31536000, immutable');
    response.type(type).sendFile(path, { cacheControl: false, dotfiles: 'allow' });
  });
  router.put('/:link/pictures/:hash', writing, mustBe(asStudio), express.raw({ type: Object.values(PICTURE_TYPES), limit: REVIEW_LIMITS.pictureBytes }), async (request, response) => {
    const { id } = await asStudio(request);
    if (!(request.body instanceof Uint8Array)) throw new ReviewError(415, 'Pictures for review are PNG, JPEG or WebP.');
    response.status(201).json(await store.putPicture(id, String(request.params.hash), request.body));
  });
  router.post('/:link/versions', writing, words, async (request, response) => {
    const entry = await asStudio(request);
    const { after, note, pages } = asked(requests.publish, request);
    for (const { picture, before } of pages) for (const each of before ? [picture, before] : [picture]) await store.picture(entry.id, each.hash);
    const review = await store.add(entry.id, ({ versions }) => {
      if (versions.length !== after) throw new ReviewError(409, `Version ${versions.length} was published in the meantime. Look at it, and publish again.`);
      return { type: 'published', note, pages };
    });
    say(response.status(201), entry, review);
  });
  router.post('/:link/remarks', writing, words, async (request, response) => {
    const entry = await entered(request);
    const remark = asked(requests.remark, request);
    const review = await store.add(entry.id, ({ remarks, versions }) => {
      // Asked again because no answer came: it is there already.
      if (remarks.some(({ id }) => id === remark.id)) return null;
      if (remarks.length >= REVIEW_LIMITS.remarks) throw new ReviewError(413, `This review has ${remarks.length} remarks, and takes no more. Ask the studio for another one.`);
      if (!versions[remark.version - 1]?.pages.some(({ name }) => name === remark.page)) throw new ReviewError(409, 'The picture of this remark is not part of the review. Reload the page.');
      return { type: 'remarked', by: entry.role, ...remark };
    });
    say(response.status(201), entry, review);
  });
  const onRemark = (request: Request, { remarks }: Review) => {
    const found = remarks.find(({ id }) => id === request.params.remark);
    if (!found) throw new ReviewError(404, 'There is no such remark. Reload the page.');
    return found;
  };
  router.post('/:link/remarks/:remark/answers', writing, words, async (request, response) => {
    const entry = await entered(request);
    const answer = asked(requests.answer, request);
    const review = await store.add(entry.id, (now) => {
      const { id, answers } = onRemark(request, now);
      if (answers.length >= REVIEW_LIMITS.marks) throw new ReviewError(413, 'This remark has as many answers as it can hold. Make a new one.');
      return answers.some((each) => each.id === answer.id) ? null : { type: 'answered', by: entry.role, remark: id, ...answer };
    });
    say(response.status(201), entry, review);
  });
  router.put('/:link/remarks/:remark/settled', writing, words, async (request, response) => {
    const entry = await entered(request);
    const { resolved } = asked(requests.settle, request);
    // A client may say that something is not done after all.
    if (resolved && entry.role !== 'studio') throw new ReviewError(403, 'The studio says when something is done. Answer to it instead.');
    const review = await store.add(entry.id, (now) => {
      const found = onRemark(request, now);
      return found.resolved === resolved ? null : { type: 'settled', by: entry.role, remark: found.id, resolved };
    });
    say(response, entry, review);
  });
  router.post('/:link/relink', writing, words, async (request, response) => {
    const { id } = await asStudio(request);
    const { days } = asked(requests.open.pick(['days']), request);
    response.status(201).json({ client: await store.relink(id, days) });
  });
  router.post('/:link/close', writing, async (request, response) => {
    const entry = await asStudio(request);
    say(response, entry, await store.add(entry.id, ({ closed }) => (closed ? null : { type: 'closed' })));
  });
  for (const [name, type, write] of [['remarks.csv', 'text/csv', remarksCsv], ['remarks.md', 'text/markdown', remarksMarkdown]] as const)
    router.get(`/:link/${name}`, async (request, response) => {
      const { review } = await entered(request);
      response.attachment(name).type(`${type}; charset=utf-8`).send(write(review));
    });
  router.use(() => {
    throw new ReviewError(404, 'There is nothing at this address.');
  });
  router.use(((error, _request, response, next) => {
    if (response.headersSent) return next(error);
    const { status, problem } = answerTo(error);
    if (status === 500) console.error(error);
    response.status(status).json({ problem });
  }) satisfies ErrorRequestHandler);
  return router;
}

/** Before a large body is read. */
const mustBe = (check: (request: Request) => Promise<unknown>): RequestHandler => async (request, _response, next) => {
  await check(request);
  next();
};

function answerTo(error: unknown): { readonly status: number; readonly problem: string } {
  if (error instanceof ReviewError) return { status: error.status, problem: error.message };
  const { status } = (error ?? {}) as { status?: unknown };
  if (status === 413) return { status: 413, problem: 'This is too large to be taken.' };
  if (status === 400 || status === 415 || error instanceof URIError) return { status: 400, problem: 'This cannot be read.' };
  return { status: 500, problem: 'Something went wrong on the review server. Try again; tell the studio if it stays so.' };
}

const digest = (text: string) => createHash('sha256').update(text).digest();
const isSameText = (a: string, b: string) => timingSafeEqual(digest(a), digest(b));

