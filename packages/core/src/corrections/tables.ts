/** Tables that corrections look numbers up in: the definition of what assembly/tables.ts does. */

/** @param table `steps` + 1 entries for 0…1, each `apart` numbers from the last; what lies beyond counts as the end, NaN as 0 */
export function looked(table: ArrayLike<number>, first: number, steps: number, x: number, apart = 1): number {
  const at = (x > 0 ? Math.min(1, x) : 0) * steps;
  const whole = Math.min(Math.floor(at), steps - 1);
  const a = table[first + whole * apart];
  return a + (at - whole) * (table[first + (whole + 1) * apart] - a);
}

/** Entries of a table for 0…1. */
export const tableOf = <T>(steps: number, value: (x: number) => T): T[] => Array.from({ length: steps + 1 }, (_, i) => value(i / steps));
