/** What drawings of histograms have in common. */

/** The count that the fullest bins have; two in a hundred may be fuller, so that one flat surface does not press all others down. The ends do not count. */
export function fullestOf(bins: readonly number[]): number {
  const inner = [...bins.slice(1, -1)].sort((a, b) => b - a);
  return inner[Math.floor(inner.length * 0.02)];
}

/** Inks of the channels; lines are dashed apart as well. */
export const CHANNEL_INKS = { red: '#b3392b', green: '#2f7a3a', blue: '#2b55a8' } as const;
