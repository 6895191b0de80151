import { isShortage } from '@tazzel/core';

/** Why a file was refused. */
export type FormatErrorCode =
  /** None of the formats that are read. */
  | 'not-recognised'
  /** The file ends too early. */
  | 'truncated'
  /** The contents contradict themselves. */
  | 'corrupt'
  /** A sound file of a kind that is not read. */
  | 'unsupported'
  /** Larger than the limits. */
  | 'too-large';

/** The sentence names the file, what was found and what to do. */
export class FormatError extends Error {
  override readonly name = 'FormatError';
  constructor(
    readonly code: FormatErrorCode,
    readonly fileName: string,
    message: string,
  ) {
    super(`${fileName}: ${message}`);
  }
}

/** What to throw when a decoder failed: its own sentence or a lack of memory as they are, everything else as what is said of it. */
export const failure = (error: unknown, otherwise: FormatError): unknown => (error instanceof FormatError || isShortage(error) ? error : otherwise);
