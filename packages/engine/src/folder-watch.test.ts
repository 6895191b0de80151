import { describe, expect, it } from 'vitest';
import { FolderWatch } from './folder-watch.ts';

const file = (path: string, bytes: number, changed = 0) => ({ path, bytes, changed });

describe('a folder that renders are put into', () => {
  it('gives files when nothing has changed between two looks, and once', () => {
    const watch = new FolderWatch();
    expect(watch.look([file('a', 10)])).toEqual([]);
    expect(watch.look([file('a', 20)])).toEqual([]);
    expect(watch.look([file('a', 20)])).toEqual(['a']);
    watch.done();
    expect(watch.look([file('a', 20)])).toEqual([]);
  });
  it('a render of several files waits for the last of them; then only what is new comes', () => {
    const watch = new FolderWatch();
    watch.look([file('a', 10)]);
    expect(watch.look([file('a', 10), file('b', 3)])).toEqual([]);
    expect(watch.look([file('a', 10), file('b', 3)])).toEqual(['a', 'b']);
    watch.done();
    watch.look([file('a', 10), file('b', 4)]);
    expect(watch.look([file('a', 10), file('b', 4)])).toEqual(['b']);
    watch.done();
    // Written again with as many bytes.
    watch.look([file('a', 10, 5), file('b', 4)]);
    expect(watch.look([file('a', 10, 5), file('b', 4)])).toEqual(['a']);
  });
  it('an empty folder gives nothing, what was taken away is forgotten', () => {
    const watch = new FolderWatch();
    expect([watch.look([]), watch.look([])]).toEqual([[], []]);
    watch.look([file('a', 1)]);
    watch.look([file('a', 1)]);
    watch.done();
    watch.look([]);
    watch.look([]);
    watch.done();
    watch.look([file('a', 1)]);
    expect(watch.look([file('a', 1)])).toEqual(['a']);
  });
});
