/** A review that goes by file: what was published, and what comes back. */
import * as yup from 'yup';
import { type AnswerRequest, readEvent, type RemarkRequest, requests, type ReviewEvent, type Role } from './events.ts';
import { reviewOf } from './review.ts';

const FORMAT = 'tazzel-remarks';
/** What somebody says, in contrast to what the studio publishes. */
const SAID: ReadonlySet<string> = new Set<ReviewEvent['type']>(['remarked', 'answered', 'settled']);

/** What was said in a review, as a file for whoever published it. */
export const remarksFile = (events: readonly ReviewEvent[]): string => `${JSON.stringify({ format: FORMAT, review: reviewOf(events).id, events: events.filter(({ type }) => SAID.has(type)) }, null, 1)}\n`;

const file = yup.object({ format: yup.string().strict().oneOf([FORMAT]).defined(), review: yup.string().strict().defined(), events: yup.array().strict().defined().max(100_000) }).strict().defined();

/**
 * A review with what a file of remarks adds to it; what is there already is not added again.
 * @throws Error with a sentence if it is no such file, or of another review
 */
export function withRemarksFile(events: readonly ReviewEvent[], text: string): { readonly events: readonly ReviewEvent[]; readonly added: number } {
  let content: yup.InferType<typeof file>;
  try {
    content = file.validateSync(JSON.parse(text));
  } catch {
    throw new Error('This file does not hold remarks. Choose the one that your client saved in the review.');
  }
  const { id, remarks, title } = reviewOf(events);
  if (content.review !== id) throw new Error(`These remarks are of another review than “${title}”.`);
  const said = content.events.map(readEvent).filter(({ type }) => SAID.has(type));
  const states = new Map(remarks.map((remark) => [remark.id, remark.resolved]));
  const known = new Set(remarks.flatMap((remark) => [remark.id, ...remark.answers.map((answer) => answer.id)]));
  const fresh = said.filter((event) => {
    // What the studio settled stays settled, unless the client opened it again later.
    if (event.type === 'settled') return states.get(event.remark) !== event.resolved && !events.some((each) => each.type === 'settled' && each.remark === event.remark && each.at >= event.at);
    return 'id' in event && !known.has(event.id);
  });
  return { events: [...events, ...fresh], added: fresh.length };
}

/** What was said, as an event. @throws Error with a sentence if the shape does not allow it */
export const said = {
  remark: (remark: RemarkRequest, by: Role, at: number): ReviewEvent => ({ type: 'remarked', by, at, ...requests.remark.validateSync(remark) }),
  answer: (remark: string, answer: AnswerRequest, by: Role, at: number): ReviewEvent => ({ type: 'answered', by, at, remark, ...requests.answer.validateSync(answer) }),
  settle: (remark: string, resolved: boolean, by: Role, at: number): ReviewEvent => ({ type: 'settled', by, at, remark, resolved }),
};

