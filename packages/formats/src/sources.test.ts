import { expect, it } from 'vitest';
import { safeName } from './sources.ts';

it('file names are plain wherever they go', () => {
  expect(safeName('Kiln Yard: dusk')).toBe('kiln-yard-dusk');
  expect(safeName('  Hörsaal / Süd #2 ')).toBe('horsaal-sud-2');
  expect(safeName('図書館')).toBe('図書館');
  expect(safeName('../../:*?')).toBe('picture');
});

it('file names are such as every system takes', () => {
  for (const name of ['CON', 'nul', 'Com1', 'lpt9']) expect(safeName(name)).toBe(`${name.toLowerCase()}-picture`);
  expect(safeName('console')).toBe('console');
  expect(new TextEncoder().encode(safeName('図'.repeat(500))).length).toBeLessThanOrEqual(100);
  expect(safeName('x'.repeat(300))).toHaveLength(100);
  expect(safeName(`${'x'.repeat(59)} y`, 60)).toBe('x'.repeat(59));
});
