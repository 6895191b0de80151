import { spawn } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { calledFrom, program } from '../../../tests/shell.ts';
import { scratch } from '../../../tests/tools.ts';

const folder = scratch();
const run = calledFrom(folder);

/** Starts the server, and ends it when the work is done. */
async function whileServing<T>(options: readonly string[], work: (said: string) => Promise<T>): Promise<T> {
  const child = spawn(process.execPath, [program, 'review', '--port', '0', ...options], { cwd: folder });
  const ended = new Promise((resolve) => child.once('exit', resolve));
  try {
    const said = await new Promise<string>((resolve, reject) => {
      let text = '';
      child.stdout.on('data', (chunk) => {
        text += chunk;
        if (/Reviews are kept in .*\n/.test(text) && (!options.includes('--host') || /Studio key.*\n/.test(text))) resolve(text);
      });
      child.once('exit', () => reject(new Error(text)));
    });
    return await work(said);
  } finally {
    child.kill('SIGTERM');
    await ended;
  }
}
const open = (said: string, headers: Record<string, string> = {}) => fetch(`${/http:\/\/[^/\s]+/.exec(said)?.[0].replace(/\/\/(?!localhost)[^:]+/, '//localhost')}/api/reviews`, { method: 'POST', body: JSON.stringify({ title: 'Kiln Yard', days: 3 }), headers: { 'content-type': 'application/json', ...headers } });

it('serves reviews to this machine, and keeps them in the folder', async () => {
  const { client } = await whileServing(['--data', 'kept'], async (said) => {
    expect(said).toContain('Only this machine reaches them.');
    return (await open(said)).json();
  });
  expect(readFileSync(join(folder, 'kept', client.slice(0, 24), 'events.jsonl'), 'utf8')).toContain('"title":"Kiln Yard"');
  expect(existsSync(join(folder, 'kept', 'studio-key'))).toBe(false);
});
it('where others reach it, it asks for its key, the same after a start', async () => {
  const keyOf = (said: string) => /publishes: (\S+)/.exec(said)?.[1] ?? '';
  const first = await whileServing(['--data', 'guarded', '--host', '0.0.0.0'], async (said) => {
    expect((await open(said)).status).toBe(401);
    expect((await open(said, { authorization: `Bearer ${keyOf(said)}` })).status).toBe(201);
    return keyOf(said);
  });
  expect(await whileServing(['--data', 'guarded', '--host', '0.0.0.0'], async (said) => keyOf(said))).toBe(first);
});
it('wrong words: a sentence', async () => {
  expect(await run('review', 'x.png')).toMatchObject({ status: 2, stderr: expect.stringContaining('takes no files') });
  const proxy = await run('review', '--public', 'ftp://x');
  expect([proxy.status, proxy.stderr]).toEqual([1, expect.stringContaining('expected an address without a path')]);
});
