import { describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { lrvOf } from './lrv.ts';
import { scheduleCsv } from './schedule-csv.ts';

const start = smallDocument();
const measured = { ...start, materials: start.materials.map((row, i) => ({ ...row, mean: [0.4, 0.2, 0.1].map((v) => v * (1 - i)) as [number, number, number] })) };
const filtered = { ...measured, sources: [...measured.sources, source(9, { role: 'diffuse-filter' })] };

describe('light reflectance values', () => {
  // BS 8493: 100 · Y; Rec. 709 weights of the mean colour.
  it('are the luminance of the surface colour, and are not given without one', () => {
    expect(lrvOf(filtered, filtered.materials[0])).toBeCloseTo(100 * (0.2126 * 0.4 + 0.7152 * 0.2 + 0.0722 * 0.1), 6);
    expect(lrvOf(measured, measured.materials[0])).toBeNull();
    expect(lrvOf(filtered, { ...filtered.materials[0], mean: null })).toBeNull();
    // Black stands for glass and metal, whose reflection is in another element.
    expect(lrvOf(filtered, filtered.materials[1])).toBeNull();
  });
});

describe('the schedule as a table', () => {
  it('has a line for each row, with the layers that work on it', () => {
    const worked = after(filtered, { type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'scene' });
    const lines = scheduleCsv(worked).split('\r\n');
    expect(lines).toHaveLength(4);
    expect(lines[1]).toBe('M01,material,M01,,50.000,170,124,89,23.5,M01: exposure');
    expect(lines[2]).toBe('M02,material,M02,,50.000,0,0,0,,');
  });
  // RFC 4180; that a leading sign computes is known of spreadsheets, common practice, no published source.
  it('quotes what must be quoted, and nothing in it computes', () => {
    const named = after(filtered, { type: 'rename-material', materialId: 'material-1', name: '=1+1' }, { type: 'rename-material', materialId: 'material-2', name: 'Brick, "old"' });
    const csv = scheduleCsv(named);
    expect(csv).toContain(",'=1+1,");
    expect(csv).toContain(',"Brick, ""old""",');
  });
});
