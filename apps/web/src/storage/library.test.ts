import { beautyOnly, SKY_SHELF } from '@tazzel/core';
import { describe, expect, it, vi } from 'vitest';

const stored = new Map<string, unknown>();
vi.mock('localforage', () => ({
  default: { createInstance: () => ({ setItem: async (key: string, value: unknown) => void stored.set(key, value), getItem: async (key: string) => stored.get(key) ?? null }) },
}));
const { keepRecipes, keepRoleRules, keepSkies, ownSkies, readRecipeFile, recipeFile, recipes, roleRules } = await import('./library.ts');

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

describe('skies', () => {
  it('are kept with all that they need; what is none, or a picture of another document, is left out', async () => {
    const [dawn] = SKY_SHELF;
    await keepSkies([dawn]);
    const damaged = [{ ...dawn, label: ' ' }, { ...dawn, brightness: 0 }, { ...dawn, altitudeDegrees: Number.NaN }, { ...dawn, params: { look: 'photograph' } }, { id: 'x' }, null, 7];
    stored.set('skies', [...(stored.get('skies') as unknown[]), ...damaged]);
    const [kept, ...more] = await ownSkies();
    expect(more).toEqual([]);
    expect(kept).toMatchObject({ ...dawn, params: { ...dawn.params, tint: [1, 1, 1], hasDisc: false } });
  });
});
