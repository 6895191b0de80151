import type { Lut } from '@tazzel/core';
import { FormatError } from '../errors.ts';
import { readClf } from './clf.ts';
import { readCube } from './cube.ts';

/** A table of colours from the text of a file, by what it begins with. @throws FormatError */
export function readLut(text: string, fileName: string): Lut {
  const start = text.trimStart().slice(0, 200);
  if (start.startsWith('<')) return readClf(text, fileName);
  if (text.includes('\0')) throw new FormatError('not-recognised', fileName, 'this is no table of colours; .cube and .clf files are');
  return readCube(text, fileName);
}
