import { appendFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it, vi } from 'vitest';
import { readLink, ReviewStore, sha256 } from './store.ts';

const PNG = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1, 2, 3);
const folder = () => mkdtempSync(join(tmpdir(), 'tazzel-reviews-'));
const page = { name: 'Day', width: 12, height: 8, picture: { hash: sha256(PNG), type: 'png' as const }, before: null };
const remark = (id: string, text = 'A word') => ({ type: 'remarked' as const, by: 'client' as const, id, page: 'Day', version: 1, place: { x: 0, y: 1 }, marks: [], author: 'Ada', text });
const begun = async (now = () => 1000) => {
  const at = folder();
  const store = new ReviewStore(at, now);
  const links = await store.open('Kiln Yard', 30);
  const { id } = readLink(links.client);
  await store.putPicture(id, sha256(PNG), PNG);
  await store.add(id, () => ({ type: 'published', note: '', pages: [page] }));
  return { at, store, id, ...links, log: join(at, id, 'events.jsonl') };
};

describe('reviews in files', () => {
  it('another process reads what this one wrote; links open them, and nothing else does', async () => {
    const { at, store, id, client, studio } = await begun();
    await store.add(id, () => remark('r1'));
    const other = new ReviewStore(at, () => 1000);
    expect(await other.enter(readLink(client))).toMatchObject({ role: 'client', review: { title: 'Kiln Yard', remarks: [{ text: 'A word' }] } });
    expect((await other.enter(readLink(studio))).role).toBe('studio');
    expect(await other.ids()).toEqual([id]);
    await expect(other.enter({ id, secret: 'x'.repeat(32) })).rejects.toMatchObject({ status: 404 });
    await expect(other.enter({ id: '0'.repeat(24), secret: 'x'.repeat(32) })).rejects.toMatchObject({ status: 404 });
    for (const wrong of ['', '../../etc', `${id}-short`, `${id}/x`]) expect(() => readLink(wrong)).toThrow('no review at this address');
  });
  it('no link looks like the name of a file, which servers and proxies treat otherwise', async () => {
    const store = new ReviewStore(folder());
    for (let i = 0; i < 20; i++) expect(Object.values(await store.open('x', 1)).join()).not.toContain('.');
  });
  it('holds no secret that would open it', async () => {
    const { log, client, studio } = await begun();
    const text = readFileSync(log, 'utf8');
    for (const link of [client, studio]) expect(text).not.toContain(readLink(link).secret);
  });
  it('a line that a crash cut off is cut away, and what comes next is whole', async () => {
    const { at, store, id, client, log } = await begun();
    await store.add(id, () => remark('r1'));
    appendFileSync(log, '{"type":"remarked","at":1000,"by":"cl');
    const after = new ReviewStore(at, () => 1000);
    await after.add(id, () => remark('r2'));
    const again = await new ReviewStore(at, () => 1000).enter(readLink(client));
    expect(again.review.remarks.map((each) => each.id)).toEqual(['r1', 'r2']);
  });
  it('a line that is damaged is passed over, stays in its file, and takes nothing with it', async () => {
    const { at, store, id, client, log } = await begun();
    await store.add(id, () => remark('r1'));
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined);
    writeFileSync(log, readFileSync(log, 'utf8').replace('"A word"', '"A word'));
    const after = new ReviewStore(at, () => 1000);
    await after.add(id, () => remark('r2'));
    expect((await after.enter(readLink(client))).review.remarks.map((each) => each.id)).toEqual(['r2']);
    expect(said.mock.calls[0][0]).toContain('line 3, is passed over');
    expect(readFileSync(log, 'utf8')).toContain('"A word');
    said.mockRestore();
  });
  it('many at once: one after the other, none lost', async () => {
    const { at, store, id, client } = await begun();
    await Promise.all(Array.from({ length: 100 }, (_, i) => store.add(id, () => remark(`r${i}`))));
    const { review } = await new ReviewStore(at, () => 1000).enter(readLink(client));
    expect(review.remarks).toHaveLength(100);
    expect(new Set(review.remarks.map(({ number }) => number)).size).toBe(100);
  });
  it('what is refused in its turn is not written, and the next one is', async () => {
    const { store, id } = await begun();
    await expect(store.add(id, () => { throw new Error('no'); })).rejects.toThrow('no');
    expect((await store.add(id, () => remark('r1'))).remarks).toHaveLength(1);
  });
  it('a link ends with its days, with a new one, and when it is closed; the studio’s does not', async () => {
    let now = 0;
    const { store, id, client, studio } = await begun(() => now);
    now = 31 * 86_400_000;
    await expect(store.enter(readLink(client))).rejects.toMatchObject({ status: 410, message: expect.stringContaining('run out') });
    expect((await store.enter(readLink(studio))).role).toBe('studio');
    const next = await store.relink(id, 1);
    expect((await store.enter(readLink(next))).role).toBe('client');
    await expect(store.enter(readLink(client))).rejects.toMatchObject({ status: 404 });
    await store.add(id, () => ({ type: 'closed' }));
    await expect(store.enter(readLink(next))).rejects.toMatchObject({ status: 410, message: expect.stringContaining('closed') });
  });
  it('pictures are what they say that they are', async () => {
    const { store, id } = await begun();
    expect(await store.putPicture(id, sha256(PNG), PNG)).toEqual({ hash: sha256(PNG), type: 'png' });
    await expect(store.putPicture(id, 'ab'.repeat(32), PNG)).rejects.toMatchObject({ status: 400 });
    const page = new TextEncoder().encode('<html><script>');
    await expect(store.putPicture(id, sha256(page), page)).rejects.toMatchObject({ status: 415 });
    await expect(store.picture(id, '../events')).rejects.toMatchObject({ status: 404 });
  });
});
