/** What the tests take from the reference library. */
declare module 'culori' {
  export function differenceCiede2000(): (one: Record<string, unknown>, other: Record<string, unknown>) => number;
  export function converter(mode: string): (color: Record<string, unknown>) => Record<string, number>;
}
