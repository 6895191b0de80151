import { CoreError, type CoreErrorCode, isShortage } from '@tazzel/core';
import { FormatError, type FormatErrorCode } from '@tazzel/formats';
import type { WireError } from './protocol.ts';

export type EngineErrorCode = 'missing-file' | 'worker-failed' | 'out-of-memory' | 'too-deep' | 'unexpected' | 'bad-element';

export class EngineError extends Error {
  override readonly name = 'EngineError';
  constructor(
    readonly code: EngineErrorCode,
    message: string,
  ) {
    super(message);
  }
}

/** Thrown when work was cancelled; nobody needs to be told. */
export class Cancelled extends Error {
  override readonly name = 'Cancelled';
}

const wire = (error: EngineError | FormatError | CoreError, fileName = ''): WireError => ({ name: error.name, code: error.code, fileName, message: error.message });

/** Errors of ours cross as they are. What an engine says in its own words never reaches people as it is: `what` names what was being done. */
export function toWire(error: unknown, what = ''): WireError {
  if (error instanceof CoreError || error instanceof EngineError) return wire(error);
  if (error instanceof FormatError) return wire(error, error.fileName);
  const subject = what === '' ? '' : `${what}: `;
  const message = error instanceof Error ? error.message : String(error);
  if (isShortage(error)) return wire(new EngineError('out-of-memory', `${subject}there is not enough memory. Close other documents and tabs, or use fewer or smaller elements.`));
  if (error instanceof RangeError && /call stack/i.test(message)) return wire(new EngineError('too-deep', `${subject}its parts lie too deep inside each other to be followed.`));
  if (error instanceof Error && error.name === 'NotReadableError') return wire(new EngineError('missing-file', `${subject}the file cannot be read any more. It was moved, changed or deleted; add it again.`));
  if (error instanceof TypeError && /fetch/i.test(message)) return wire(new EngineError('worker-failed', `${subject}a part of the program could not be loaded. Check that the server is reachable and try again.`));
  return wire(new EngineError('unexpected', `${subject}something unexpected happened (${message}). The document is saved.`));
}

export function fromWire({ name, code, fileName, message }: WireError): Error {
  if (name === 'FormatError') return new FormatError(code as FormatErrorCode, fileName, message.slice(fileName.length + 2));
  if (name === 'CoreError') return new CoreError(code as CoreErrorCode, message);
  if (name === 'EngineError') return new EngineError(code as EngineErrorCode, message);
  return new Error(message);
}
