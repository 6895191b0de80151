/** Where a review lies: on a server, or in a file that was sent. What is shown of it is the same. */
import { type AnswerRequest, type PagePicture, type PublishRequest, readReview, type RemarkRequest, type Review, type Role } from '@tazzel/review';

export interface Seen {
  readonly role: Role;
  readonly review: Review;
}

export interface ReviewSource {
  /** Tells it from others. */
  readonly key: string;
  readonly isOnServer: boolean;
  load(): Promise<Seen>;
  /** Null if the picture is not there any more. */
  addressOf(picture: PagePicture): string | null;
  remark(remark: RemarkRequest): Promise<Seen>;
  answer(remarkId: string, answer: AnswerRequest): Promise<Seen>;
  settle(remarkId: string, resolved: boolean): Promise<Seen>;
}

/** What a review server says when it does not do what was asked, in a sentence of its own; `status` 0 if it was not reached. */
export class ReviewProblem extends Error {
  override readonly name = 'ReviewProblem';
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

export const REVIEWS = '/api/reviews';

/** @throws ReviewProblem with a sentence */
export async function ask(path: string, init: RequestInit = {}): Promise<unknown> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch (error) {
    if ((error as Error).name === 'AbortError') throw error;
    throw new ReviewProblem(0, 'The review server cannot be reached. What you wrote is still here; try again in a moment.');
  }
  const answer = (await response.json().catch(() => null)) as { problem?: unknown } | null;
  if (response.ok && answer !== null) return answer;
  throw new ReviewProblem(response.status, typeof answer?.problem === 'string' ? answer.problem : response.ok ? 'Something else than a review server answers at this address.' : `The review server answered with ${response.status}. Try again.`);
}

export const sending = (method: string, body: unknown): RequestInit => ({ method, body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });

/** @param link of the client or of the studio */
export function serverSource(link: string): ReviewSource & { publish(version: PublishRequest): Promise<Seen> } {
  const at = `${REVIEWS}/${encodeURIComponent(link)}`;
  const seen = async (path: string, init?: RequestInit) => readReview(await ask(`${at}${path}`, init));
  return {
    key: link,
    isOnServer: true,
    load: () => seen(''),
    addressOf: ({ hash }) => `${at}/pictures/${hash}`,
    remark: (remark) => seen('/remarks', sending('POST', remark)),
    answer: (remarkId, answer) => seen(`/remarks/${remarkId}/answers`, sending('POST', answer)),
    settle: (remarkId, resolved) => seen(`/remarks/${remarkId}/settled`, sending('PUT', { resolved })),
    publish: (version) => seen('/versions', sending('POST', version)),
  };
}
