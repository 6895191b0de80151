/**
 * What happens in a review, one event after the other. A review is the fold of its events: nothing is ever changed in place, so nothing that somebody wrote
 * can be lost by what somebody else does. The shapes are those of the server's border and of its log alike.
 */
import * as yup from 'yup';

export const REVIEW_LIMITS = { title: 200, page: 200, author: 80, text: 4000, note: 1000, pages: 200, marks: 50, points: 400, days: 730, pictureBytes: 64 * 2 ** 20, remarks: 5000, side: 32_768 } as const;

export const PICTURE_TYPES = { png: 'image/png', jpg: 'image/jpeg', webp: 'image/webp' } as const;
export type PictureType = keyof typeof PICTURE_TYPES;

const text = (most: number) => yup.string().strict().defined().max(most, `\${path} has more than ${most} letters`);
const words = (most: number) => text(most).test('words', '${path} is empty', (value) => value?.trim() !== '');
const id = () => yup.string().strict().defined().matches(/^[\w-]{1,64}$/, '${path} is no identifier');
const hash = () => yup.string().strict().defined().matches(/^[0-9a-f]{64}$/, '${path} is no SHA-256');
const whole = (from: number, to: number) => yup.number().strict().defined().integer().min(from).max(to);
const share = () => yup.number().strict().defined().test('share', '${path} must be from 0 to 1', (value) => value >= 0 && value <= 1);
const time = () => yup.number().strict().defined().integer().min(0);
const list = <T extends yup.AnySchema>(of: T, most: number) => yup.array().strict().of(of).defined().max(most, `\${path} has more than ${most} entries`);
const shape = <T extends yup.ObjectShape>(fields: T) => yup.object(fields).noUnknown('${path} has something that is not known: ${unknown}').strict().defined();

/** Shares of the picture's width and height, from its upper left corner. */
const place = shape({ x: share(), y: share() });
/** A drawn line: x, y, x, y … in shares. */
const mark = list(share(), 2 * REVIEW_LIMITS.points).test('pairs', '${path} is no line', (value) => value !== undefined && value.length >= 4 && value.length % 2 === 0);
const picture = shape({ hash: hash(), type: yup.string<PictureType>().strict().oneOf(Object.keys(PICTURE_TYPES) as PictureType[]).defined() });
const page = shape({ name: words(REVIEW_LIMITS.page), width: whole(1, REVIEW_LIMITS.side), height: whole(1, REVIEW_LIMITS.side), picture, before: picture.nullable().defined() });

const author = () => words(REVIEW_LIMITS.author);
const pages = list(page, REVIEW_LIMITS.pages).min(1, 'a version needs a picture').test('names', 'two pages have the same name', (all) => all === undefined || new Set(all.map(({ name }) => name)).size === all.length);

/** What is asked of the server. */
export const requests = {
  open: shape({ title: words(REVIEW_LIMITS.title), days: whole(1, REVIEW_LIMITS.days) }),
  /** `after` is the version that was the last one when this was made: another artist may have published since. */
  publish: shape({ after: whole(0, 1e6), note: text(REVIEW_LIMITS.note), pages }),
  /** `id` is given by who writes: asked twice, it is written once. */
  remark: shape({ id: id(), page: words(REVIEW_LIMITS.page), version: whole(1, 1e6), place, marks: list(mark, REVIEW_LIMITS.marks), author: author(), text: words(REVIEW_LIMITS.text) }),
  answer: shape({ id: id(), author: author(), text: words(REVIEW_LIMITS.text) }),
  settle: shape({ resolved: yup.boolean().strict().defined() }),
};
export type OpenRequest = yup.InferType<typeof requests.open>;
export type PublishRequest = yup.InferType<typeof requests.publish>;
export type RemarkRequest = yup.InferType<typeof requests.remark>;
export type AnswerRequest = yup.InferType<typeof requests.answer>;
export type Place = yup.InferType<typeof place>;
export type PagePicture = yup.InferType<typeof picture>;
export type Page = yup.InferType<typeof page>;
/** A client who was sent the link, or the studio that published. */
export const ROLES = ['client', 'studio'] as const;
export type Role = (typeof ROLES)[number];

const by = () => yup.string<Role>().strict().oneOf(ROLES).defined();
const events = {
  /** Only hashes of what the links hold are kept: who reads the files cannot enter. */
  opened: shape({ type: text(20), at: time(), id: id(), title: words(REVIEW_LIMITS.title), until: time(), client: hash(), studio: hash() }),
  published: shape({ type: text(20), at: time(), note: text(REVIEW_LIMITS.note), pages }),
  remarked: requests.remark.shape({ type: text(20), at: time(), by: by() }),
  answered: requests.answer.shape({ type: text(20), at: time(), by: by(), remark: id() }),
  settled: shape({ type: text(20), at: time(), by: by(), remark: id(), resolved: yup.boolean().strict().defined() }),
  /** A new link for the client: the one before leads nowhere any more. */
  relinked: shape({ type: text(20), at: time(), client: hash(), until: time() }),
  /** No link of the client leads anywhere any more. */
  closed: shape({ type: text(20), at: time() }),
};
export type ReviewEvent = { [K in keyof typeof events]: Omit<yup.InferType<(typeof events)[K]>, 'type'> & { readonly type: K } }[keyof typeof events];

/** An event as it stands in a log. @throws Error with a sentence if it is none */
export function readEvent(value: unknown): ReviewEvent {
  const type = (value as { type?: unknown } | null)?.type;
  if (typeof type !== 'string' || !Object.hasOwn(events, type)) throw new Error(`There is no event “${String(type)}” in reviews.`);
  return events[type as keyof typeof events].validateSync(value) as ReviewEvent;
}
