import { groundElement, heightAt, type Point, type TazzelDocument } from '@tazzel/core';
import type { ToolHost } from './define.ts';

/** How high what is seen at a place of the picture is, in metres: a floor, a stair, a wall; null where nothing says so. */
export async function surfaceHeight({ valuesAt }: Pick<ToolHost, 'valuesAt'>, document: TazzelDocument, at: Point): Promise<number | null> {
  const metres = groundElement(document);
  const there = metres && (await valuesAt(metres, Math.floor(at[0]), Math.floor(at[1])));
  return metres ? heightAt(document, at, there?.[0] ?? null, metres.role) : null;
}
