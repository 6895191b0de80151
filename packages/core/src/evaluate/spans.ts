/** How a region is walked: in spans that stay in the cache while all steps pass over them, and where sources lie in one. */
import type { Region } from '../raster/region.ts';
import type { SourceView } from '../raster/view.ts';

/** A run of pixels within one row: where it lies in the picture and where in the span. */
export interface SpanRun {
  readonly x: number;
  readonly y: number;
  readonly length: number;
  readonly at: number;
}

export interface Span {
  /** Where the span begins in the tile's planes. */
  readonly offset: number;
  readonly count: number;
  readonly runs: readonly SpanRun[];
}

/** Cuts a region into spans: several whole rows where they fit, parts of a row where they do not. */
export function* spansOf(region: Region, spanLength: number): Generator<Span> {
  if (region.width >= spanLength) {
    // Parts of about equal length, so that no short rest remains.
    const part = Math.ceil(region.width / Math.ceil(region.width / spanLength));
    for (let row = 0; row < region.height; row++) {
      for (let x = 0; x < region.width; x += part) {
        const count = Math.min(part, region.width - x);
        yield { offset: row * region.width + x, count, runs: [{ x: region.x + x, y: region.y + row, length: count, at: 0 }] };
      }
    }
    return;
  }
  const rowsPerSpan = Math.floor(spanLength / region.width);
  for (let row = 0; row < region.height; row += rowsPerSpan) {
    const rows = Math.min(rowsPerSpan, region.height - row);
    const runs = Array.from({ length: rows }, (_, i) => ({ x: region.x, y: region.y + row + i, length: region.width, at: i * region.width }));
    yield { offset: row * region.width, count: rows * region.width, runs };
  }
}

/** A part of a span that a source covers: where it lies in the span and where its samples begin in the source's planes. */
export interface Part {
  readonly at: number;
  readonly start: number;
  readonly length: number;
}

export function overlaps(span: Span, source: SourceView): Part[] {
  const { width, height } = source.color[0];
  const parts: Part[] = [];
  for (const run of span.runs) {
    const row = run.y - source.y;
    if (row < 0 || row >= height) continue;
    const from = Math.max(run.x, source.x);
    const to = Math.min(run.x + run.length, source.x + width);
    if (to > from) parts.push({ at: run.at + from - run.x, start: row * width + from - source.x, length: to - from });
  }
  // Rows that follow each other in the source as well are one part.
  return parts.length > 1 && parts.every((part, i) => i === 0 || follows(parts[i - 1], part)) ? [{ ...parts[0], length: parts.reduce((sum, part) => sum + part.length, 0) }] : parts;
}

const follows = (before: Part, part: Part) => part.at === before.at + before.length && part.start === before.start + before.length;
export const coversWhole = (span: Span, parts: readonly Part[]) => parts.reduce((sum, part) => sum + part.length, 0) === span.count;
