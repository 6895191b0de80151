/** Every reason for which the core refuses something. The sentence is for people, the code is for programs. */
export type CoreErrorCode =
  | 'unknown-operation'
  | 'bad-parameter'
  | 'bad-document'
  | 'newer-document'
  | 'edit-refused'
  | 'bad-lines'
  | 'too-many-colours'
  | 'bad-coverage'
  | 'bad-rules'
  | 'missing-source'
  | 'missing-mask';

export class CoreError extends Error {
  override readonly name = 'CoreError';
  constructor(
    readonly code: CoreErrorCode,
    message: string,
  ) {
    super(message);
  }
}

/** How engines call it when memory runs out; other errors of range have other reasons. */
const SHORTAGE = /allocation failed|out of memory|\boom\b|invalid array buffer length|array size exceeds|cannot (allocate|enlarge)|could not allocate|WebAssembly\.Memory|maximum memory size/i;
/** A length that is none is a fault of whoever asked for it, unless it is only too much. */
const LENGTH = /invalid (?:typed )?array length: (\d+)/i;
const HUGE = 2 ** 28;

/** Whether an error says that there is not enough memory, rather than that something is damaged. */
export function isShortage(error: unknown): boolean {
  if (!(error instanceof Error) || error.name === 'FormatError') return false;
  return SHORTAGE.test(error.message) || Number(LENGTH.exec(error.message)?.[1] ?? 0) >= HUGE;
}
