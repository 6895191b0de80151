import { describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { LIMITS } from '../limits.ts';
import { applyEdit } from './edits.ts';
import { planRefresh } from './refresh.ts';
import { documentWith } from './renders.ts';
import { parseDocument, readDocument } from './schema.ts';

const first = smallDocument();
const newer = (name: string) => ({ type: 'refresh' as const, sources: first.sources.map((each, i) => ({ ...each, file: { ...each.file, hash: `${name}${i}`.padEnd(64, '0') } })), materials: null, size: first.size, keeps: { name, at: 1 } });
const hashes = ({ sources }: typeof first) => sources.map(({ file }) => file.hash.slice(0, 2));

describe('renders before', () => {
  it('there and back: the same elements under the same build-up, however often', () => {
    const second = after(first, newer('a'));
    expect(second.renders.map(({ name, at }) => [name, at])).toEqual([['a', 1]]);
    expect(documentWith(second, second.renders[0]).sources).toEqual(first.sources);
    const back = after(second, { type: 'bring-render', renderId: 'render-1', keeps: { name: 'second', at: 2 } });
    expect([back.sources, back.materials, back.buildUp, back.masks]).toEqual([first.sources, first.materials, first.buildUp, first.masks]);
    const again = after(back, { type: 'bring-render', renderId: back.renders[0].id, keeps: { name: 'first', at: 3 } });
    expect(hashes(again)).toEqual(hashes(second));
    expect(again.renders).toHaveLength(1);
  });
  it('an element that only the newer render has stays, under an id that nothing else gets', () => {
    const more = after(first, newer('a'), { type: 'add-sources', sources: [source(9)] });
    const back = after(more, { type: 'bring-render', renderId: 'render-1', keeps: { name: 'second', at: null } }, { type: 'remove-source', sourceId: 'source-9' });
    expect(back.sources.map(({ id }) => id)).toEqual(first.sources.map(({ id }) => id));
    expect(after(back, { type: 'bring-render', renderId: back.renders[0].id, keeps: { name: 'first', at: null } }).sources.map(({ id }) => id)).toContain('source-9');
  });
  it('the earliest go when there are too many', () => {
    let document = first;
    for (let n = 0; n < LIMITS.renders + 3; n++) document = applyEdit(document, { ...newer('b'), keeps: { name: `Render ${n}`, at: n } });
    expect([document.renders.length, document.renders[0].name]).toEqual([LIMITS.renders, 'Render 3']);
  });
  it('stored and read again; a damaged one costs itself', () => {
    const kept = after(first, newer('a'), newer('b'));
    const json = JSON.parse(JSON.stringify(kept));
    expect(parseDocument(json)).toEqual(kept);
    for (const [damage, words] of [[{ sources: 7 }, 'elements are missing'], [{ size: { width: 0, height: 5 } }, 'width'], [{ name: '' }, 'name'], [{ sources: [{}] }, 'its element'], [{ materials: [{ ...first.materials[0], sourceId: 'gone' }] }, 'ID picture is missing']] as const) {
      const { document, problems } = readDocument({ ...json, renders: [{ ...json.renders[0], ...damage }, json.renders[1]] });
      expect(document.renders.map(({ name }) => name)).toEqual(['b']);
      expect(problems.join()).toContain(words);
    }
    expect(readDocument({ ...json, renders: 'x' }).document.renders).toEqual([]);
    expect(readDocument({ ...json, renders: undefined }).problems).toEqual([]);
  });
});

describe('a part that was rendered again', () => {
  const [beauty] = first.sources;
  const part = { ...beauty, id: 'source-30', x: 3, y: 2, width: 2, height: 2, file: { ...beauty.file, hash: 'c'.repeat(64) } };
  it('is offered to be laid over, in its place, under the same corrections and mask', () => {
    const corrected = after(first, { type: 'add-chain-correction', layerId: first.buildUp.scene[0].id, correction: 'exposure' });
    const { part: edit } = planRefresh(corrected, [part], [], first.size);
    if (!edit) throw new Error('It was not offered.');
    const laid = applyEdit(corrected, edit);
    const [below, above] = laid.buildUp.scene;
    expect([above.name, above.mask, laid.sources.at(-1)]).toMatchObject([`${below.name}, a part`, below.mask, { id: 'source-30', x: 3, y: 2, width: 2, inSum: 'out' }]);
    expect(above).toMatchObject({ chain: [{ type: 'exposure' }], params: { source: 'source-30' } });
    expect(laid.sources.slice(0, -1)).toEqual(corrected.sources);
  });
  it('is not, where the whole picture came, or nothing shows it plainly', () => {
    expect(planRefresh(first, [{ ...part, ...first.size, x: 0, y: 0 }], [], first.size).part).toBeNull();
    expect(planRefresh(first, [part], [], { width: 2, height: 2 }).part).toBeNull();
    const multiplied = after(first, { type: 'set-layer', layerId: first.buildUp.scene[0].id, patch: { blend: 'multiply' } });
    expect(planRefresh(multiplied, [part], [], first.size).part).toBeNull();
    expect(() => applyEdit(multiplied, { type: 'lay-over', sources: [part], over: { 'source-30': beauty.id } })).toThrow('can lie over nothing else');
  });
});
