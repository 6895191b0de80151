import { beautyOnly } from '@tazzel/core';
import { describe, expect, it, vi } from 'vitest';

const stored = new Map<string, unknown>();
vi.mock('localforage', () => ({
  default: { createInstance: () => ({ setItem: async (key: string, value: unknown) => void stored.set(key, value), getItem: async (key: string) => stored.get(key) ?? null }) },
}));
const { keepRecipes, keepRoleRules, readRecipeFile, recipeFile, recipes, roleRules } = await import('./library.ts');

describe('rules for roles', () => {
  const rule = { words: ['yard', 'gloss'], role: 'reflection' as const };
  it('are kept', async () => {
    expect(await roleRules()).toEqual([]);
    await keepRoleRules([rule]);
    expect(await roleRules()).toEqual([rule]);
  });
  it('that make no sense are left out', async () => {
    stored.set('role-rules', [rule, { words: [], role: 'gi' }, { words: ['a'], role: 'nonsense' }, null, 7]);
    expect(await roleRules()).toEqual([rule]);
  });
});

describe('recipes', () => {
  it('are kept, and travel as files; damaged ones are left out', async () => {
    await keepRecipes([beautyOnly]);
    stored.set('recipes', [...(stored.get('recipes') as unknown[]), { id: 'broken' }]);
    expect(await recipes()).toEqual([beautyOnly]);
    expect(readRecipeFile(recipeFile(beautyOnly))).toEqual(beautyOnly);
    for (const text of ['{"format":"other"}', 'x']) expect(() => readRecipeFile(text)).toThrow(/does not hold a recipe/);
    expect(() => readRecipeFile('{"format":"tazzel-recipe","id":"x"}')).toThrow(/not a recipe/);
  });
});
