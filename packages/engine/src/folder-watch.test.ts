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
  it('what is not whole is waited for, with all that came with it, until something changes; but not for ever', () => {
    const watch = new FolderWatch();
    const files = [file('a', 10), file('half', 3)];
    watch.look(files);
    expect(watch.look(files)).toEqual(['a', 'half']);
    expect(watch.wait()).toBe(true);
    for (let n = 0; n < 5; n++) expect(watch.look(files)).toEqual([]);
    const whole = [file('a', 10), file('half', 6)];
    watch.look(whole);
    expect(watch.look(whole)).toEqual(['a', 'half']);
    expect(watch.wait()).toBe(true);
    const later = Array.from({ length: 15 }, () => watch.look(whole));
    expect(later.slice(0, 14).flat()).toEqual([]);
    expect(later[14]).toEqual(['a', 'half']);
    // Broken: the others go on without it.
    expect(watch.wait()).toBe(false);
    watch.done();
    expect(watch.look(whole)).toEqual([]);
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
