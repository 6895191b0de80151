import { describe, expect, it } from 'vitest';
import { after, material, smallDocument } from '../../../../tests/documents.ts';
import { mergedMaterials } from './merge-rows.ts';
import type { Material, TazzelDocument } from '../model/model.ts';
import { planRefresh } from './refresh.ts';

const row = (n: number, patch: Partial<Material> = {}): Material => ({ ...material(n, 'source-3'), colorKey: 100 + n, ...patch });
const tagged = (n: number) => `M0${n}`;
const withRows = (rows: readonly Material[]): TazzelDocument => ({ ...smallDocument(), materials: rows });
/** As a newer render has them: numbered by area, whatever they were before. */
const found = (colors: readonly number[], names: readonly string[] = []) => colors.map((colorKey, i) => row(i + 1, { colorKey, tag: tagged(i + 1), name: names[i] ?? tagged(i + 1) }));
const told = (rows: readonly Material[]) => rows.map(({ id, tag, name, colorKey }) => [id, tag, name, colorKey]);

describe('rows of a newer render', () => {
  const before = withRows([1, 2, 3].map((n) => row(n, { tag: tagged(n), name: tagged(n) })));
  it('without names keep id, tag and name though their areas changed places', () => {
    expect(told(mergedMaterials(before, found([102, 101, 103])))).toEqual([['material-2', 'M02', 'M02', 102], ['material-1', 'M01', 'M01', 101], ['material-3', 'M03', 'M03', 103]]);
  });
  it('that are new get tags that nobody has, also not rows that are gone', () => {
    const merged = mergedMaterials(before, found([109, 101, 103]));
    expect(told(merged)).toEqual([[expect.any(String), 'M04', 'M04', 109], ['material-1', 'M01', 'M01', 101], ['material-3', 'M03', 'M03', 103]]);
    expect(['material-1', 'material-2', 'material-3']).not.toContain(merged[0].id);
    const refreshed = after(after(before, { type: 'correct-material', materialIds: ['material-2'], correction: 'exposure', zone: 'scene' }), { type: 'refresh', sources: before.sources, materials: found([109, 101, 103]), size: before.size });
    expect(refreshed.materials.map(({ tag, area }) => [tag, area > 0])).toEqual([['M04', true], ['M01', true], ['M03', true], ['M02', false]]);
  });
  it('keep what the artist called them, and take names that the render brings now', () => {
    const named = withRows([row(1, { tag: 'M01', name: 'Facade' }), row(2, { tag: 'M02', name: 'M02' })]);
    expect(told(mergedMaterials(named, found([102, 101], ['glass', 'brick'])))).toEqual([['material-2', 'M02', 'glass', 102], ['material-1', 'M01', 'Facade', 101]]);
  });
  it('are known by their names where colours were made up while rendering, and by their hash before all', () => {
    const named = withRows([row(1, { tag: 'M01', name: 'brick' }), row(2, { tag: 'M02', name: 'glass' })]);
    expect(told(mergedMaterials(named, found([501, 502], ['glass', 'brick'])))).toEqual([['material-2', 'M02', 'glass', 501], ['material-1', 'M01', 'brick', 502]]);
    // The same colours, given to other things this time.
    expect(mergedMaterials(named, found([101, 102], ['glass', 'brick'])).map(({ id }) => id)).toEqual(['material-2', 'material-1']);
    const covered = withRows([row(1, { tag: 'M01', coverage: { sourceId: 'source-4', hash: 7 } }), row(2, { tag: 'M02', coverage: { sourceId: 'source-4', hash: 8 } })]);
    const swapped = found([101, 102]).map((next, i) => ({ ...next, coverage: { sourceId: 'source-4', hash: [8, 7][i] } }));
    expect(mergedMaterials(covered, swapped).map(({ id }) => id)).toEqual(['material-2', 'material-1']);
  });
  it('a plan of a refresh says the same', () => {
    const plan = planRefresh(before, before.sources, found([109, 101, 103]), before.size);
    expect([plan.newMaterials, plan.goneMaterials.map(({ name }) => name)]).toEqual([['M04'], ['M02']]);
  });
});
