import { CoreError, type CoreErrorCode } from '@tazzel/core';
import { FormatError, type FormatErrorCode } from '@tazzel/formats';
import type { WireError } from './protocol.ts';

export type EngineErrorCode = 'missing-file' | 'worker-failed' | 'out-of-memory' | 'stale' | 'bad-element';

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

export function toWire(error: unknown): WireError {
  if (error instanceof RangeError) return { name: 'EngineError', code: 'out-of-memory', fileName: '', message: `There is not enough memory (${error.message}). Close other documents or use fewer elements.` };
  if (!(error instanceof Error)) return { name: 'Error', code: '', fileName: '', message: String(error) };
  const { code, fileName } = error as Partial<WireError>;
  return { name: error.name, code: code ?? '', fileName: fileName ?? '', message: error.message };
}

export function fromWire({ name, code, fileName, message }: WireError): Error {
  if (name === 'FormatError') return new FormatError(code as FormatErrorCode, fileName, message.slice(fileName.length + 2));
  if (name === 'CoreError') return new CoreError(code as CoreErrorCode, message);
  if (name === 'EngineError') return new EngineError(code as EngineErrorCode, message);
  return new Error(message);
}
