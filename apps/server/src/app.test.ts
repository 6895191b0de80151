import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { createApp } from './app.ts';

let server: Server;
let address = '';
beforeAll(async () => {
  const root = mkdtempSync(join(tmpdir(), 'tazzel-server-'));
  mkdirSync(join(root, 'assets'));
  mkdirSync(join(root, 'demo'));
  writeFileSync(join(root, 'index.html'), '<!doctype html><title>Tazzel</title>');
  writeFileSync(join(root, 'assets/a-1234.js'), 'export {}');
  server = createApp(root).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  address = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
});
afterAll(() => server.close());

it('isolates the page, so that the browser grants shared memory', async () => {
  for (const path of ['/', '/document/x/surfaces', '/assets/a-1234.js']) {
    const { headers, status } = await fetch(address + path);
    expect(status).toBe(200);
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
    expect(headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    expect(headers.get('content-security-policy')).toContain("script-src 'self' 'wasm-unsafe-eval'");
  }
});
it('answers the application’s own routes with the page and missing files with 404', async () => {
  // There is a folder of that name, too; the route wins, without a detour.
  const demo = await fetch(`${address}/demo`, { redirect: 'manual' });
  expect(demo.status).toBe(200);
  expect(await demo.text()).toContain('<title>Tazzel</title>');
  expect((await fetch(`${address}/assets/gone.js`)).status).toBe(404);
  expect((await fetch(`${address}/..%2f..%2fpackage.json`)).status).toBe(404);
});
it('reviews are not found by searching', async () => {
  for (const path of ['/review/x', '/api/reviews/x']) expect((await fetch(address + path)).headers.get('x-robots-tag')).toBe('noindex, nofollow');
  expect((await fetch(`${address}/`)).headers.get('x-robots-tag')).toBeNull();
});
it('keeps built assets for long and the page never', async () => {
  expect((await fetch(`${address}/assets/a-1234.js`)).headers.get('cache-control')).toContain('immutable');
  expect((await fetch(`${address}/`)).headers.get('cache-control')).toBe('no-cache');
});
it('addresses that cannot be read get a sentence, never a stack trace or a path', async () => {
  for (const path of ['/%', '/assets/%E0%A4%A', '/%c0%af']) {
    const answer = await fetch(address + path);
    const text = await answer.text();
    expect([answer.status, text]).toEqual([400, 'This address cannot be read.']);
  }
});
