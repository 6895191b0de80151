import { mkdtempSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { createApp } from '../app.ts';
import { ReviewStore, sha256 } from './store.ts';

const JPEG = Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 1, 2, 3, 4);
const HASH = sha256(JPEG);
const servers: Server[] = [];
const root = mkdtempSync(join(tmpdir(), 'tazzel-web-'));
writeFileSync(join(root, 'index.html'), '<!doctype html>');

async function started(studioKey: string | null = null, writesPerMinute?: number, folder = mkdtempSync(join(tmpdir(), 'tazzel-reviews-'))) {
  const server = createApp(root, { store: new ReviewStore(folder), studioKey, writesPerMinute }).listen(0, '127.0.0.1');
  servers.push(server);
  await new Promise((resolve) => server.once('listening', resolve));
  const { port } = server.address() as { port: number };
  return { folder, server, at: `http://localhost:${port}/api/reviews` };
}
const call = async (address: string, method = 'GET', body?: unknown, headers: Record<string, string> = {}) => {
  const isBytes = body instanceof Uint8Array;
  const answer = await fetch(address, { method, ...(body === undefined ? {} : { body: isBytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }), headers: { ...(body === undefined ? {} : { 'content-type': isBytes ? 'image/jpeg' : 'application/json' }), ...headers } });
  const text = await answer.text();
  return { status: answer.status, headers: answer.headers, text, json: answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : null };
};
const pageNamed = (name: string) => ({ name, width: 1200, height: 800, picture: { hash: HASH, type: 'jpg' }, before: null });
const words = (id: string, more: object = {}) => ({ id, page: 'Day', version: 1, place: { x: 0.5, y: 0.5 }, marks: [], author: 'Ada', text: 'Darker, please', ...more });

let at = '';
let links = { client: '', studio: '' };
const client = () => `${at}/${links.client}`;
const studio = () => `${at}/${links.studio}`;
const begin = async (address: string) => {
  at = address;
  links = (await call(at, 'POST', { title: 'Kiln Yard', days: 30 })).json;
  await call(`${studio()}/pictures/${HASH}`, 'PUT', JPEG);
  await call(`${studio()}/versions`, 'POST', { after: 0, note: 'First look', pages: [pageNamed('Day')] });
};
beforeAll(async () => begin((await started()).at));
afterAll(() => {
  for (const server of servers) server.close();
});

describe('a review by its link', () => {
  it('the client sees pictures, remarks and answers; the studio settles; both have them as a list', async () => {
    const seen = await call(client());
    expect(seen.json).toMatchObject({ role: 'client', review: { title: 'Kiln Yard', versions: [{ number: 1, note: 'First look' }] } });
    const picture = await fetch(`${client()}/pictures/${HASH}`);
    expect([picture.status, picture.headers.get('content-type'), picture.headers.get('x-content-type-options')]).toEqual([200, 'image/jpeg', 'nosniff']);
    expect(new Uint8Array(await picture.arrayBuffer())).toEqual(JPEG);
    expect((await call(`${client()}/remarks`, 'POST', words('r1'))).status).toBe(201);
    expect((await call(`${client()}/remarks/r1/answers`, 'POST', { id: 'a1', author: 'Ada', text: 'By a stop' })).json.review.remarks[0].answers).toHaveLength(1);
    expect((await call(`${client()}/remarks/r1/settled`, 'PUT', { resolved: true })).status).toBe(403);
    expect((await call(`${studio()}/remarks/r1/settled`, 'PUT', { resolved: true })).json.review.remarks[0].resolved).toBe(true);
    expect((await call(`${client()}/remarks/r1/settled`, 'PUT', { resolved: false })).json.review.remarks[0].resolved).toBe(false);
    const csv = await call(`${studio()}/remarks.csv`);
    expect(csv.headers.get('content-disposition')).toContain('remarks.csv');
    expect(csv.text).toContain('Darker, please');
    expect((await call(`${client()}/remarks.md`)).text).toContain('# Kiln Yard');
  });
  it('asked twice because no answer came, it is written once', async () => {
    const before = (await call(client())).json.review.remarks.length;
    for (let i = 0; i < 3; i++) expect((await call(`${client()}/remarks`, 'POST', words('again'))).status).toBe(201);
    expect((await call(client())).json.review.remarks).toHaveLength(before + 1);
  });
  it('the client’s link publishes nothing and closes nothing; no link is found by trying', async () => {
    expect((await call(`${client()}/versions`, 'POST', { after: 1, note: '', pages: [pageNamed('Day')] })).status).toBe(403);
    expect((await call(`${client()}/pictures/${HASH}`, 'PUT', JPEG)).status).toBe(403);
    expect((await call(`${client()}/close`, 'POST')).status).toBe(403);
    const id = links.client.slice(0, 24);
    const answers = await Promise.all([`${id}-${'x'.repeat(32)}`, `${'0'.repeat(24)}-${'x'.repeat(32)}`, '..%2f..%2fetc', '%00'].map((link) => call(`${at}/${link}`)));
    expect(new Set(answers.map(({ status, text }) => `${status} ${text}`)).size).toBe(1);
    expect(answers[0].status).toBe(404);
  });
  it('two artists at once: the second is told, and nothing is overwritten', async () => {
    const both = await Promise.all(['Day', 'Night'].map((name) => call(`${studio()}/versions`, 'POST', { after: 1, note: '', pages: [pageNamed(name)] })));
    expect(both.map(({ status }) => status).toSorted()).toEqual([201, 409]);
    expect(both.find(({ status }) => status === 409)?.json.problem).toContain('Version 2 was published in the meantime');
  });
  it('pages need pictures that arrived', async () => {
    const absent = { ...pageNamed('Day'), picture: { hash: 'cd'.repeat(32), type: 'jpg' } };
    expect((await call(`${studio()}/versions`, 'POST', { after: 2, note: '', pages: [absent] })).status).toBe(404);
    expect((await call(`${studio()}/pictures/${'cd'.repeat(32)}`, 'PUT', JPEG)).json.problem).toContain('did not arrive whole');
    expect((await call(`${studio()}/pictures/${HASH}`, 'PUT', JPEG, { 'content-type': 'text/html' })).status).toBe(415);
  });
});

describe('hostile words', () => {
  it('are words: script, right to left, zero; too many are refused with a sentence, and the server goes on', async () => {
    const text = '<script>alert(1)</script> \u202eltr\u0000 "quoted" 🏛';
    const { json, headers } = await call(`${client()}/remarks`, 'POST', words('script', { text }));
    expect(json.review.remarks.at(-1).text).toBe(text);
    expect(headers.get('content-type')).toContain('application/json');
    expect((await call(`${client()}/remarks`, 'POST', words('large', { text: 'x'.repeat(10 * 2 ** 20) }))).json.problem).toBe('This is too large to be taken.');
    expect((await call(`${client()}/remarks`, 'POST', words('long', { text: 'x'.repeat(5000) }))).json.problem).toContain('more than 4000 letters');
    expect((await call(`${client()}/remarks`, 'POST', words('where', { page: 'Gone' }))).json.problem).toContain('not part of the review');
    const broken = await fetch(`${client()}/remarks`, { method: 'POST', body: '{"id":', headers: { 'content-type': 'application/json' } });
    expect([broken.status, await broken.json()]).toEqual([400, { problem: 'This cannot be read.' }]);
    expect((await call(`${client()}/remarks`, 'POST', { ...words('proto'), __proto__: 1, constructor: 2 })).status).toBe(400);
    expect((await call(client())).status).toBe(200);
  });
  it('another site cannot write through somebody’s browser', async () => {
    expect((await call(`${client()}/remarks`, 'POST', words('foreign'), { 'sec-fetch-site': 'cross-site' })).status).toBe(403);
    expect((await call(client())).headers.get('access-control-allow-origin')).toBeNull();
  });
});

describe('who may begin', () => {
  it('with a key: whoever knows it', async () => {
    const { at: guarded } = await started('the key');
    expect((await call(guarded, 'POST', { title: 'x', days: 1 })).json.problem).toContain('studio key');
    expect((await call(guarded, 'POST', { title: 'x', days: 1 }, { authorization: 'Bearer wrong' })).status).toBe(401);
    expect((await call(guarded, 'POST', { title: 'x', days: 1 }, { authorization: 'Bearer the key' })).status).toBe(201);
    expect((await call(guarded, 'POST', { title: '', days: 1 }, { authorization: 'Bearer the key' })).json.problem).toContain('title is empty');
  });
  it('not more than so often', async () => {
    const { at: limited } = await started(null, 3);
    const statuses = [];
    for (let i = 0; i < 5; i++) statuses.push((await call(limited, 'POST', { title: 'x', days: 1 })).status);
    expect(statuses).toEqual([201, 201, 201, 429, 429]);
  });
  it('where there is no review server, it is said', async () => {
    const server = createApp(root).listen(0, '127.0.0.1');
    servers.push(server);
    await new Promise((resolve) => server.once('listening', resolve));
    const none = await call(`http://127.0.0.1:${(server.address() as { port: number }).port}/api/reviews`, 'POST', {});
    expect([none.status, none.json.problem]).toEqual([404, 'There is no review server here.']);
  });
});

it('a server that dies and comes back knows everything that was taken', async () => {
  const first = await started();
  await begin(first.at);
  for (let i = 0; i < 5; i++) await call(`${client()}/remarks`, 'POST', words(`r${i}`));
  first.server.closeAllConnections();
  first.server.close();
  const second = await started(null, undefined, first.folder);
  at = second.at;
  expect((await call(client())).json.review.remarks.map(({ id }: { id: string }) => id)).toEqual(['r0', 'r1', 'r2', 'r3', 'r4']);
});
