/** A review without a server: a list of events in this browser. What is said is added to it, and goes back to the studio as a file. */
import { type PagePicture, type ReviewEvent, reviewOf, type Role, said } from '@tazzel/review';
import { ReviewProblem, type ReviewSource } from './source.ts';

interface EventsOptions {
  readonly key: string;
  readonly role: Role;
  readonly read: () => Promise<readonly ReviewEvent[]>;
  /** @throws if nothing can be kept */
  readonly write: (events: readonly ReviewEvent[]) => Promise<void>;
  readonly addressOf: (picture: PagePicture) => string | null;
  readonly now?: () => number;
}

export function eventsSource({ key, role, read, write, addressOf, now = Date.now }: EventsOptions): ReviewSource {
  // One after the other: what is written was made from what was read.
  let turn: Promise<unknown> = Promise.resolve();
  const add = (make: () => ReviewEvent) => {
    const next = turn.then(async () => {
      const events = [...(await read()), make()];
      try {
        await write(events);
      } catch {
        throw new ReviewProblem(0, 'The browser does not keep this. Make room in its storage, or open the page in another browser.');
      }
      return { role, review: reviewOf(events) };
    });
    turn = next.catch(() => undefined);
    return next;
  };
  return {
    key,
    isOnServer: false,
    addressOf,
    load: async () => ({ role, review: reviewOf(await read()) }),
    remark: (remark) => add(() => said.remark(remark, role, now())),
    answer: (remarkId, answer) => add(() => said.answer(remarkId, answer, role, now())),
    settle: (remarkId, resolved) => add(() => said.settle(remarkId, resolved, role, now())),
  };
}
