import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { type Command, text, UsageError } from '../command.ts';

/** The server is a program of its own: this starts it with what was asked for, until it is ended. */
export const review: Command = {
  name: 'review',
  summary: 'Serves the program and reviews: clients look at published pictures by a link, and pin remarks to places.',
  usage: 'review --data reviews',
  options: {
    data: { type: 'string', value: 'FOLDER', help: 'Where reviews are kept, as plain files; tazzel-reviews by default. Copy the folder, and all of them are copied.' },
    port: { type: 'string', value: 'NUMBER', help: 'The port; the first free one from 4800 by default.' },
    host: { type: 'string', value: 'ADDRESS', help: 'The address to listen at. By default only this machine reaches it; 0.0.0.0 is everybody in the network, who must know the studio key to publish.' },
    public: { type: 'string', value: 'URL', help: 'The address under which a proxy with TLS hands requests on to it.' },
  },
  run: async (invocation) => {
    if (invocation.files.length > 0) throw new UsageError(`review takes no files, and “${invocation.files[0]}” is one. Open the document in the program and publish it in the stage Deliver.`);
    const server = fileURLToPath(new URL('../../server/dist/server.mjs', import.meta.url));
    if (!existsSync(server)) throw new Error('The server is not built. Build the whole program first: npm run build.');
    const options = ['port', 'host', 'public'].flatMap((name) => {
      const value = text(invocation, name);
      return value === undefined ? [] : [`--${name}`, value];
    });
    const child = spawn(process.execPath, [server, '--reviews', text(invocation, 'data') ?? 'tazzel-reviews', ...options], { stdio: ['ignore', 'pipe', 'pipe'] });
    let isReady = false;
    let early = '';
    child.stdout.on('data', (words) => {
      isReady = true;
      process.stdout.write(words);
    });
    child.stderr.on('data', (words) => {
      if (isReady) process.stderr.write(words);
      else early += words;
    });
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => child.kill(signal));
    const code = await new Promise<number>((ended) => child.once('close', (exit) => ended(exit ?? 0)));
    if (code !== 0) throw new Error(early.trim() || `The server ended with code ${code}.`);
  },
};
