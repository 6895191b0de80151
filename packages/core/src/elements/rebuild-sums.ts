/** Products of columns of numbers with each other: what is known of all their sums without another look at the pixels. */
import { DARKEST } from './rebuild-figures.ts';

/** Products of columns, each pixel weighted by 1 / light²: a squared relative error. */
export class RebuildSums {
  /** (columns + 1)², row by row; the last column is the target. */
  readonly products: Float64Array;
  readonly #size: number;
  constructor(columnCount: number, products?: Float64Array) {
    this.#size = columnCount + 1;
    this.products = products ?? new Float64Array(this.#size ** 2);
  }

  /** `columns[i][c]`: channel c of column i; the target stands last. Linear light. */
  add(columns: readonly (readonly Float32Array[])[], count: number): void {
    const size = this.#size;
    const values = new Float64Array(size);
    for (let c = 0; c < 3; c++) {
      for (let p = 0; p < count; p++) {
        for (let i = 0; i < size; i++) values[i] = columns[i][c][p];
        const weight = 1 / Math.max(Math.abs(values[size - 1]), DARKEST);
        for (let i = 0; i < size; i++) values[i] *= weight;
        for (let i = 0; i < size; i++) {
          const v = values[i];
          if (v === 0) continue;
          for (let j = i; j < size; j++) this.products[i * size + j] += v * values[j];
        }
      }
    }
  }

  merge(other: Float64Array): void {
    for (let i = 0; i < other.length; i++) this.products[i] += other[i];
  }

  /** Product of columns i and j, in any order. */
  of(i: number, j: number): number {
    return this.products[Math.min(i, j) * this.#size + Math.max(i, j)];
  }

  /** Squared error of Σ weight × column against the target. */
  error(weights: readonly number[]): number {
    const target = this.#size - 1;
    const used = [...weights, -1].flatMap((weight, i) => (weight === 0 ? [] : [[i === weights.length ? target : i, weight] as const]));
    let sum = 0;
    for (const [i, a] of used) for (const [j, b] of used) sum += a * b * this.of(i, j);
    return Math.max(0, sum);
  }

  /** The factor of column i that brings the rest of a sum closest to the target; null if the column is empty. */
  bestFactor(weights: readonly number[], i: number): number | null {
    const own = this.of(i, i);
    if (own <= 0) return null;
    let wanted = this.of(i, this.#size - 1);
    for (const [j, weight] of weights.entries()) if (j !== i && weight !== 0) wanted -= weight * this.of(i, j);
    return wanted / own;
  }

  /** Factors of some columns, none below 0, that together bring a sum closest to the target (least squares). */
  bestAdditions(weights: readonly number[], columns: readonly number[]): number[] {
    const target = this.#size - 1;
    let used = columns.map((_, k) => k).filter((k) => this.of(columns[k], columns[k]) > 0);
    while (used.length > 0) {
      const matrix = used.map((k) => [...used.map((l) => this.of(columns[k], columns[l])), this.of(columns[k], target) - weights.reduce((sum, weight, j) => sum + (weight === 0 ? 0 : weight * this.of(columns[k], j)), 0)]);
      const found = solve(matrix);
      const negative = found ? used.filter((_, i) => found[i] < 0) : used;
      if (found && negative.length === 0) return columns.map((_, k) => (used.includes(k) ? found[used.indexOf(k)] : 0));
      used = used.filter((k) => !negative.includes(k));
    }
    return columns.map(() => 0);
  }
}

/** Solves rows of coefficients with the right side last, by elimination with pivots; null if they do not decide it. */
function solve(rows: number[][]): number[] | null {
  const n = rows.length;
  for (let i = 0; i < n; i++) {
    const pivot = rows.slice(i).reduce((best, row, k) => (Math.abs(row[i]) > Math.abs(rows[best][i]) ? i + k : best), i);
    [rows[i], rows[pivot]] = [rows[pivot], rows[i]];
    if (Math.abs(rows[i][i]) < 1e-12) return null;
    for (let k = 0; k < n; k++) {
      if (k === i) continue;
      const factor = rows[k][i] / rows[i][i];
      for (let c = i; c <= n; c++) rows[k][c] -= factor * rows[i][c];
    }
  }
  return rows.map((row, i) => row[n] / row[i]);
}

