/** The one function that the tests take from the reference library. */
declare module 'culori' {
  export function converter(mode: string): (color: Record<string, unknown>) => Record<string, number>;
}
