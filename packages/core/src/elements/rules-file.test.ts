import { expect, it } from 'vitest';
import type { CoreError } from '../errors.ts';
import { readRulesFile, rulesFile } from './rules-file.ts';

const rule = { words: ['yard', 'gloss'], role: 'reflection' as const };

it('rules come back from their file, and nothing but their fields', () => {
  expect(readRulesFile(rulesFile([rule]))).toEqual([rule]);
  expect(readRulesFile(rulesFile([{ ...rule, more: 1 } as never]))).toEqual([rule]);
});

it.each(['', 'no json', 'null', '7', '{}', '{"format":"tazzel-role-rules","rules":[{"words":["a"],"role":"nonsense"}]}', '{"format":"tazzel-role-rules","rules":[{"words":[],"role":"gi"}]}', '{"format":"other","rules":[]}'])('%s is refused', (text) => {
  const code = () => {
    try {
      readRulesFile(text);
    } catch (error) {
      return (error as CoreError).code;
    }
    return null;
  };
  expect(code()).toBe('bad-rules');
});
