/** Openings by runs of neighbours: rows of an opening are added up from sums of two, four or eight neighbours that were made once. */
import type { Taps } from '@tazzel/core';

export interface Runs extends Taps {
  /** Each stands for 2 ** log neighbours, from `dx` on to the right. Behind the first `full` of them it is one. */
  readonly log: Uint8Array;
  /** The largest of them. */
  readonly halvings: number;
}

/** Longer runs would need more sums than they spare. */
const MOST_HALVINGS = 3;
/** What a sum of neighbours costs, beside adding one of them. */
const SUM_COST = 1.6;

const known = new WeakMap<Taps, Runs>();

export function runsOf(taps: Taps): Runs {
  let runs = known.get(taps);
  if (!runs) {
    runs = found(taps);
    known.set(taps, runs);
  }
  return runs;
}

function found({ full, dx, dy, weights }: Taps): Runs {
  const rows = rowsOf(dx.subarray(0, full), dy.subarray(0, full));
  const ways = Array.from({ length: MOST_HALVINGS + 1 }, (_, halvings) => ({ halvings, pieces: rows.flatMap((row) => piecesOf(row, halvings)) }));
  const cost = ({ halvings, pieces }: (typeof ways)[number]) => pieces.length + SUM_COST * halvings;
  const { halvings, pieces } = ways.reduce((best, way) => (cost(way) < cost(best) ? way : best));
  const rest = Array.from(dx.subarray(full), (x, n) => ({ dx: x, dy: dy[full + n], log: 0, weight: weights[full + n] }));
  const all = [...pieces.map((piece) => ({ ...piece, weight: weights[0] })), ...rest];
  return { full: pieces.length, halvings, dx: Int32Array.from(all, (one) => one.dx), dy: Int32Array.from(all, (one) => one.dy), log: Uint8Array.from(all, (one) => one.log), weights: Float32Array.from(all, (one) => one.weight) };
}

interface Row {
  readonly dx: number;
  readonly dy: number;
  readonly length: number;
}

/** Neighbours that lie side by side. */
function rowsOf(dx: Int32Array, dy: Int32Array): Row[] {
  const rows: { dx: number; dy: number; length: number }[] = [];
  const order = Array.from(dx, (_, n) => n).toSorted((a, b) => dy[a] - dy[b] || dx[a] - dx[b]);
  for (const n of order) {
    const last = rows.at(-1);
    if (last && last.dy === dy[n] && last.dx + last.length === dx[n]) last.length++;
    else rows.push({ dx: dx[n], dy: dy[n], length: 1 });
  }
  return rows;
}

function piecesOf({ dx, dy, length }: Row, halvings: number): { dx: number; dy: number; log: number }[] {
  const pieces: { dx: number; dy: number; log: number }[] = [];
  for (let log = halvings, at = 0; at < length; ) {
    if (at + 2 ** log > length) log--;
    else {
      pieces.push({ dx: dx + at, dy, log });
      at += 2 ** log;
    }
  }
  return pieces;
}
