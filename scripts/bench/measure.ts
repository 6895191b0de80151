import type { Engine } from '@tazzel/engine';

/** A whole picture, whose memory the next one gets: nothing collects shared memory by itself. */
export const flattened = async (engine: Engine, request: Parameters<Engine['flatten']>[0]): Promise<void> => engine.giveBack((await engine.flatten(request)).pixels);

/** Two things measured in turns in one run, so that a busy machine slows both. */
export interface Comparison {
  readonly ours: number;
  readonly theirs: number;
  /** Median of ours over median of theirs. */
  readonly ratio: number;
}

export const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

export async function timed(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return performance.now() - start;
}

/** Time that all threads together are busy, in milliseconds. */
export async function costOf(work: () => Promise<unknown>): Promise<number> {
  const before = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
}

export async function compare(ours: () => Promise<unknown>, theirs: () => Promise<unknown>, rounds = 5): Promise<Comparison> {
  await ours();
  await theirs();
  const a: number[] = [];
  const b: number[] = [];
  for (let i = 0; i < rounds; i++) {
    a.push(await timed(ours));
    b.push(await timed(theirs));
  }
  return { ours: median(a), theirs: median(b), ratio: median(a) / median(b) };
}

export const report = (title: string, { ours, theirs, ratio }: Comparison, goal?: number) =>
  console.log(`${title.padEnd(64)} ${ours.toFixed(0).padStart(6)} ms ${theirs.toFixed(0).padStart(6)} ms   ratio ${ratio.toFixed(2)}${goal === undefined ? '' : ` (goal ≤ ${goal})`}`);
