/** A review as it stands: what its events come to. */
import * as yup from 'yup';
import { type Page, type Place, type ReviewEvent, ROLES, type Role } from './events.ts';

export interface Version {
  /** From 1. */
  readonly number: number;
  readonly at: number;
  readonly note: string;
  readonly pages: readonly Page[];
}

export interface Answer {
  readonly id: string;
  readonly at: number;
  readonly by: Role;
  readonly author: string;
  readonly text: string;
}

export interface Remark {
  readonly id: string;
  /** From 1, in the order in which they came. */
  readonly number: number;
  readonly at: number;
  readonly by: Role;
  readonly author: string;
  readonly text: string;
  readonly page: string;
  /** The version that was looked at. */
  readonly version: number;
  readonly place: Place;
  readonly marks: readonly (readonly number[])[];
  readonly answers: readonly Answer[];
  readonly resolved: boolean;
}

export interface Review {
  readonly id: string;
  readonly title: string;
  /** When the client's link ends, in milliseconds since 1970. */
  readonly until: number;
  readonly closed: boolean;
  readonly versions: readonly Version[];
  readonly remarks: readonly Remark[];
}

/** @throws Error if the first event does not open it */
export function reviewOf(events: readonly ReviewEvent[]): Review {
  const [first, ...rest] = events;
  if (first?.type !== 'opened') throw new Error('A review begins with its opening.');
  const { id, title, until } = first;
  return rest.reduce(withEvent, { id, title, until, closed: false, versions: [], remarks: [] } as Review);
}

/** The review after one more event; what speaks of a remark that is not there changes nothing. */
export function withEvent(review: Review, event: ReviewEvent): Review {
  const remark = (remarkId: string, change: (remark: Remark) => Remark): Review => ({ ...review, remarks: review.remarks.map((each) => (each.id === remarkId ? change(each) : each)) });
  switch (event.type) {
    case 'opened':
      return review;
    case 'published':
      return { ...review, versions: [...review.versions, { number: review.versions.length + 1, at: event.at, note: event.note, pages: event.pages }] };
    case 'remarked': {
      if (review.remarks.some(({ id }) => id === event.id)) return review;
      const { type: _, ...said } = event;
      return { ...review, remarks: [...review.remarks, { ...said, number: review.remarks.length + 1, answers: [], resolved: false }] };
    }
    case 'answered': {
      const { type: _, remark: to, ...said } = event;
      return remark(to, (each) => (each.answers.some(({ id }) => id === said.id) ? each : { ...each, answers: [...each.answers, said] }));
    }
    case 'settled':
      return remark(event.remark, (each) => ({ ...each, resolved: event.resolved }));
    case 'relinked':
      return { ...review, until: event.until, closed: false };
    case 'closed':
      return { ...review, closed: true };
  }
}

export const latestVersion = ({ versions }: Review): Version | null => versions.at(-1) ?? null;
/** A page of a version, by its name: remarks belong to names, so they stay in their place when only pixels change. */
export const pageOf = (version: Version | null, name: string): Page | null => version?.pages.find((page) => page.name === name) ?? null;

/** Remarks of a page; all versions show them, each with the version in which it was made. */
export const remarksOn = ({ remarks }: Review, page: string): readonly Remark[] => remarks.filter((remark) => remark.page === page);
/** Remarks of pages that the latest version has no longer. */
export function strayRemarks(review: Review): readonly Remark[] {
  const latest = latestVersion(review);
  return review.remarks.filter(({ page }) => pageOf(latest, page) === null);
}

const anything = () => yup.array().strict().defined();
const answer = yup.object({ role: yup.string<Role>().strict().oneOf(ROLES).defined(), review: yup.object({ id: yup.string().strict().defined(), title: yup.string().strict().defined(), until: yup.number().strict().defined(), closed: yup.boolean().strict().defined(), versions: anything(), remarks: anything() }).defined() }).defined();

/** What the server says of a review. Its parts came through the shapes of events. @throws Error if something else answers at that address */
export function readReview(value: unknown): { readonly role: Role; readonly review: Review } {
  return answer.validateSync(value) as unknown as { role: Role; review: Review };
}
