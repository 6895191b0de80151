import { expect, it } from 'vitest';
import { safeName } from './sources.ts';

it('file names are plain wherever they go', () => {
  expect(safeName('Kiln Yard: dusk')).toBe('kiln-yard-dusk');
  expect(safeName('  Hörsaal / Süd #2 ')).toBe('horsaal-sud-2');
  expect(safeName('図書館')).toBe('図書館');
  expect(safeName('../../:*?')).toBe('picture');
});
