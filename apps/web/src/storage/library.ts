/** What an artist keeps for the next document: rules for roles, build-up recipes, looks, skies. */
import { isRoleRule, type Look, readLook, readRecipe, readShelfSky, type Recipe, type RoleRule, type ShelfSky } from '@tazzel/core';
import type { ReviewEvent } from '@tazzel/review';
import { setting, settingStore } from './database.ts';

export const roleRules = async (): Promise<RoleRule[]> => {
  const stored = await setting<unknown>('role-rules', []);
  return Array.isArray(stored) ? stored.filter(isRoleRule) : [];
};
export const keepRoleRules = (rules: readonly RoleRule[]): Promise<unknown> => settingStore.setItem('role-rules', rules);

export const recipes = async (): Promise<Recipe[]> => {
  const stored = await setting<unknown>('recipes', []);
  return Array.isArray(stored) ? stored.flatMap((item) => readable(item) ?? []) : [];
};
export const keepRecipes = (list: readonly Recipe[]): Promise<unknown> => settingStore.setItem('recipes', list);

function readable(item: unknown): Recipe | null {
  try {
    return readRecipe(item);
  } catch {
    return null;
  }
}

export const recipeFile = (recipe: Recipe): string => `${JSON.stringify({ format: 'tazzel-recipe', ...recipe }, null, 1)}\n`;

/** @throws Error with a sentence if the file holds something else */
export function readRecipeFile(text: string): Recipe {
  const { format, ...recipe } = (parse(text) ?? {}) as { format?: unknown };
  if (format !== 'tazzel-recipe') throw new Error('This file does not hold a recipe. Choose one that was exported here.');
  return readRecipe(recipe);
}

export const ownSkies = async (): Promise<ShelfSky[]> => {
  const stored = await setting<unknown>('skies', []);
  return Array.isArray(stored) ? stored.flatMap((item) => readShelfSky(item) ?? []) : [];
};
export const keepSkies = (list: readonly ShelfSky[]): Promise<unknown> => settingStore.setItem('skies', list);

export const looks = async (): Promise<Look[]> => {
  const stored = await setting<unknown>('looks', []);
  return Array.isArray(stored) ? stored.flatMap((item) => readableLook(item) ?? []) : [];
};
export const keepLooks = (list: readonly Look[]): Promise<unknown> => settingStore.setItem('looks', list);

function readableLook(item: unknown): Look | null {
  try {
    return readLook(item).look;
  } catch {
    return null;
  }
}

export const lookFile = (look: Look): string => `${JSON.stringify(look, null, 1)}\n`;

/** @throws CoreError with a sentence if the file holds something else */
export const readLookFile = (text: string): ReturnType<typeof readLook> => readLook(parse(text));

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** Where the review of a document is: on a server, by what stands behind its address for the client and for the studio; or here, as its events, if it goes by file. */
export type ReviewPlace = { readonly client: string; readonly studio: string } | { readonly events: readonly ReviewEvent[] };
const reviewKey = (documentId: string) => `review ${documentId}`;
export const reviewPlace = (documentId: string): Promise<ReviewPlace | null> => setting<ReviewPlace | null>(reviewKey(documentId), null);
export const keepReviewPlace = async (documentId: string, place: ReviewPlace | null): Promise<void> => {
  if (place) await settingStore.setItem(reviewKey(documentId), place);
  else await settingStore.removeItem(reviewKey(documentId));
};
