import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { type AppFile, clearOut, fileFor, howMuch, isStartOfAnother, keptOf, layOutStart, startShelfOf, takeAlong } from './kept-files.ts';

const ORIGIN = 'http://localhost:4870';
const hashOf = (text: string) => createHash('sha256').update(text).digest('hex');
const file = (path: string, text: string, isDemo = false): AppFile => ({ path, hash: hashOf(text), isDemo });

/** As browsers keep answers: under addresses. */
function shelf() {
  const kept = new Map<string, Response>();
  const addressOf = (request: RequestInfo | URL) => new URL(typeof request === 'string' ? request : request instanceof URL ? request.href : request.url, ORIGIN).href;
  return {
    kept,
    match: async (request: RequestInfo | URL) => kept.get(addressOf(request))?.clone(),
    put: async (request: RequestInfo | URL, response: Response) => void kept.set(addressOf(request), response),
    delete: async (request: RequestInfo | URL) => kept.delete(addressOf(request)),
    keys: async () => [...kept.keys()].map((address) => new Request(address)),
  };
}

/** A server with these files, and what was asked of it. */
function server(texts: Readonly<Record<string, string>>) {
  const asked: string[] = [];
  return {
    asked,
    fetch: async (path: string) => {
      asked.push(path);
      return Object.hasOwn(texts, path) ? new Response(texts[path], { headers: { 'Cross-Origin-Embedder-Policy': 'require-corp', 'Content-Type': 'text/html' } }) : new Response('', { status: 404 });
    },
    hash: async (bytes: ArrayBuffer) => hashOf(new TextDecoder().decode(bytes)),
  };
}

const first = [file('/index.html', 'one'), file('/assets/a.js', 'a')];
const request = (path: string, more: Partial<Pick<Request, 'method' | 'mode'>> & { headers?: Record<string, string> } = {}) => ({ method: 'GET', mode: 'cors' as RequestMode, ...more, url: `${ORIGIN}${path}`, headers: new Headers(more.headers) });

describe('files of the application that are kept', () => {
  it('are fetched once, with the headers that isolation needs', async () => {
    const [there, on] = [shelf(), server({ '/index.html': 'one', '/assets/a.js': 'a' })];
    expect(await howMuch(first, there)).toEqual({ isComplete: false, files: 0, of: 2 });
    await takeAlong(first, there, on);
    await takeAlong(first, there, on);
    expect(on.asked).toEqual(['/index.html', '/assets/a.js']);
    expect(await howMuch(first, there)).toEqual({ isComplete: true, files: 2, of: 2 });
    const page = (await keptOf(first[0], there)) as Response;
    expect([await page.text(), page.headers.get('Cross-Origin-Embedder-Policy')]).toEqual(['one', 'require-corp']);
  });
  it('that are named by their contents lie under their own address, others are kept apart by it', async () => {
    const there = shelf();
    await takeAlong(first, there, server({ '/index.html': 'one', '/assets/a.js': 'a' }));
    expect([...there.kept.keys()]).toEqual([`${ORIGIN}/index.html?kept=${hashOf('one')}`, `${ORIGIN}/assets/a.js`]);
  });
  it('begin with the page, which lies ready under its address, for each version apart', async () => {
    const [there, ready] = [shelf(), shelf()];
    await expect(layOutStart(first, there, ready)).rejects.toThrow('There is no page to start with.');
    await takeAlong(first, there, server({ '/index.html': 'one', '/assets/a.js': 'a' }));
    await layOutStart(first, there, ready);
    expect(await (await ready.match('/'))?.text()).toBe('one');
    const second = [file('/index.html', 'two'), first[1]];
    expect(isStartOfAnother(second, startShelfOf(first))).toBe(true);
    expect([isStartOfAnother(first, startShelfOf(first)), isStartOfAnother(first, 'tazzel-application')]).toEqual([false, false]);
    expect(() => startShelfOf([first[1]])).toThrow('no page');
  });
  it('of a newer version are fetched as far as they are others; the older ones answer until they are cleared out', async () => {
    const [there, on] = [shelf(), server({ '/index.html': 'two', '/assets/a.js': 'a' })];
    await takeAlong(first, there, server({ '/index.html': 'one', '/assets/a.js': 'a' }));
    const second = [file('/index.html', 'two'), first[1]];
    await takeAlong(second, there, on);
    expect(on.asked).toEqual(['/index.html']);
    expect(await (await keptOf(first[0], there))?.text()).toBe('one');
    await clearOut(second, there);
    expect(await keptOf(first[0], there)).toBeNull();
    expect(await (await keptOf(second[0], there))?.text()).toBe('two');
    expect(there.kept.size).toBe(2);
  });
  it('that are missing, or of a server that was renewed in between, end it and name the file; the rest stays for the next time', async () => {
    const there = shelf();
    await expect(takeAlong(first, there, server({ '/index.html': 'one' }))).rejects.toThrow('/assets/a.js: 404');
    await expect(takeAlong(first, there, server({ '/index.html': 'one', '/assets/a.js': 'b' }))).rejects.toThrow('/assets/a.js is of another version.');
    expect(await howMuch(first, there)).toEqual({ isComplete: false, files: 1, of: 2 });
  });
  it('answer what is asked of this place alone: pages by the one page, everything else by its path', () => {
    const answers = (...args: Parameters<typeof request>) => fileFor(first, request(...args), ORIGIN)?.path ?? null;
    expect(answers('/', { mode: 'navigate' })).toBe('/index.html');
    expect(answers('/document/x/build-up', { mode: 'navigate' })).toBe('/index.html');
    expect(answers('/assets/a.js')).toBe('/assets/a.js');
    expect(answers('/assets/a.js?x=1')).toBe('/assets/a.js');
    expect([answers('/assets/b.js'), answers('/document/x'), answers('/assets/a.js', { method: 'POST' }), answers('/assets/a.js', { headers: { range: 'bytes=0-9' } }), answers('/picture.png', { mode: 'navigate' })]).toEqual([null, null, null, null, null]);
    expect(fileFor(first, { ...request('/assets/a.js'), url: 'http://elsewhere.example/assets/a.js' }, ORIGIN)).toBeNull();
  });
});
