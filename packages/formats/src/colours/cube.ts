/** Tables of colours as text: one value for each channel a line, red changing first. @source Adobe, “Cube LUT Specification”, version 1.0, 2013 */
import { halvesToText, type Lut, LUT_LIMITS, type LutStep } from '@tazzel/core';
import { FormatError } from '../errors.ts';

type Three = [number, number, number];
const numbersIn = (text: string): number[] => text.trim().split(/\s+/).map(Number);

/** @throws FormatError with the line that is wrong */
export function readCube(text: string, fileName: string): Lut {
  const fail = (line: number, what: string): never => {
    throw new FormatError('corrupt', fileName, `line ${line + 1}: ${what}`);
  };
  let title = '';
  let size = 0;
  let isCube = false;
  let [low, high]: [Three, Three] = [[0, 0, 0], [1, 1, 1]];
  const values: number[] = [];
  for (const [i, raw] of text.split(/\r\n|\r|\n/).entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) continue;
    const [word, ...rest] = line.split(/\s+/);
    if (/^[+\-.\d]/.test(word)) {
      const row = numbersIn(line);
      if (size === 0) fail(i, 'values stand before LUT_1D_SIZE or LUT_3D_SIZE');
      if (row.length !== 3 || !row.every(Number.isFinite)) fail(i, `expected three numbers, found “${line.slice(0, 40)}”`);
      values.push(...row);
      if (values.length > 3 * (isCube ? size ** 3 : size)) fail(i, `there are more values than a table of that size has`);
      continue;
    }
    if (word === 'TITLE') title = line.slice(5).trim().replace(/^"|"$/g, '');
    else if (word === 'LUT_1D_SIZE' || word === 'LUT_3D_SIZE') {
      isCube = word === 'LUT_3D_SIZE';
      size = Number(rest[0]);
      const most = isCube ? LUT_LIMITS.side : LUT_LIMITS.entries;
      if (!(Number.isInteger(size) && size >= 2 && size <= most)) fail(i, `a size from 2 to ${most} is read, found “${rest[0] ?? ''}”`);
    } else if (word === 'DOMAIN_MIN' || word === 'DOMAIN_MAX') {
      const ends = rest.map(Number);
      if (ends.length !== 3 || !ends.every(Number.isFinite)) fail(i, `${word} needs three numbers`);
      if (word === 'DOMAIN_MIN') low = ends as Three;
      else high = ends as Three;
    } else if (word === 'LUT_1D_INPUT_RANGE' || word === 'LUT_3D_INPUT_RANGE') {
      const [from, to] = rest.map(Number);
      if (!(from < to)) fail(i, `${word} needs two numbers, the smaller first`);
      [low, high] = [[from, from, from], [to, to, to]];
    } else fail(i, `“${word.slice(0, 40)}” is no word of such a table`);
  }
  if (size === 0) throw new FormatError('not-recognised', fileName, 'this is no table of colours: LUT_1D_SIZE or LUT_3D_SIZE is missing');
  const expected = isCube ? size ** 3 : size;
  if (values.length !== 3 * expected) throw new FormatError('truncated', fileName, `it holds ${values.length / 3} of ${expected} values`);
  if (low.some((value, c) => value >= high[c])) throw new FormatError('corrupt', fileName, 'DOMAIN_MIN must lie below DOMAIN_MAX');
  const step: LutStep = isCube ? { kind: 'cube', side: size, low, high, values: halvesToText(values) } : { kind: 'curve', entries: size, low, high, values: halvesToText(values) };
  return { name: (title || fileName).slice(0, LUT_LIMITS.name), steps: [step] };
}
