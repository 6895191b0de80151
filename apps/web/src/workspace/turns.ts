/** Opening and closing documents follow each other: one is closed, with its last state saved, before the next one is opened. */
let last: Promise<unknown> = Promise.resolve();

export function inTurn<T>(task: () => Promise<T>): Promise<T> {
  const mine = last.then(task);
  last = mine.catch(() => undefined);
  return mine;
}

/** Resolves when every document that was left is saved and closed. */
export const allClosed = (): Promise<unknown> => last;
