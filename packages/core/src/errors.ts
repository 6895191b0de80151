/** Every reason for which the core refuses something. The sentence is for people, the code is for programs. */
export type CoreErrorCode =
  | 'unknown-operation'
  | 'bad-parameter'
  | 'bad-document'
  | 'newer-document'
  | 'edit-refused'
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
