import { expect, it } from 'vitest';
import { printable } from './printable.ts';

it('names cannot steer the terminal', () => {
  expect(printable('plain Grün 図 “quoted”')).toBe('plain Grün 図 “quoted”');
  expect(printable('\u001b[2Jgone\u0007')).toBe('\\u{1b}[2Jgone\\u{7}');
  expect(printable('a\nb')).toBe('a\\u{a}b');
  expect(printable('a\nb\r', true)).toBe('a\nb\\u{d}');
  expect(printable('\u202egpj.exr')).toBe('\\u{202e}gpj.exr');
});
