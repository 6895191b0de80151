/** Serves the built application, and reviews if it is told where they lie. All work happens in the browser; the server adds the headers that shared memory needs. */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { randomBytes } from 'node:crypto';
import { createApp } from './app.ts';
import { ReviewStore } from './review/store.ts';

process.env.NODE_ENV ??= 'production';

const PREFERRED_PORT = 4800;
const LOOPBACK = '127.0.0.1';

function isFree(port: number, host: string): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, host, () => probe.close(() => resolve(true)));
  });
}

async function choosePort(wanted: string | undefined, host: string): Promise<number> {
  if (wanted !== undefined && wanted !== '') {
    const port = Number(wanted);
    if (!Number.isInteger(port) || port < 0 || port > 65535) throw new Error(`The port is “${wanted}”; it must be a number from 0 to 65535.`);
    if (port !== 0 && !(await isFree(port, host))) throw new Error(`Port ${port} is in use. Choose another one, or leave it out.`);
    return port;
  }
  for (let port = PREFERRED_PORT; port < PREFERRED_PORT + 100; port++) if (await isFree(port, host)) return port;
  return 0;
}

/** Made once and kept beside the reviews. */
function studioKeyIn(folder: string): string {
  const path = join(folder, 'studio-key');
  if (!existsSync(path)) {
    mkdirSync(folder, { recursive: true });
    writeFileSync(path, `${randomBytes(18).toString('base64url')}\n`, { mode: 0o600 });
  }
  return readFileSync(path, 'utf8').trim();
}

try {
  const { values } = parseArgs({ options: { reviews: { type: 'string' }, host: { type: 'string', default: LOOPBACK }, port: { type: 'string' }, public: { type: 'string' } } });
  const { host } = values;
  const root = fileURLToPath(new URL('../../web/dist', import.meta.url));
  const folder = values.reviews === undefined ? null : resolve(values.reviews);
  if (values.public !== undefined && !/^https?:\/\/[^/\s]+$/.test(values.public)) throw new Error(`--public ${values.public}: expected an address without a path, as in https://review.studio.example.`);
  // Who else may come here must know the key to begin a review.
  const isOpen = values.public !== undefined || (host !== LOOPBACK && host !== 'localhost' && host !== '::1');
  const studioKey = folder !== null && isOpen ? studioKeyIn(folder) : null;
  const app = createApp(root, folder === null ? null : { store: new ReviewStore(folder), studioKey });
  if (values.public !== undefined) app.set('trust proxy', 1);
  const server = app.listen(await choosePort(values.port ?? process.env.PORT, host), host, (error) => {
    if (error) throw error;
    const address = server.address();
    const port = typeof address === 'object' && address ? address.port : PREFERRED_PORT;
    const at = values.public ?? `http://${host === LOOPBACK || host === '0.0.0.0' ? 'localhost' : host.includes(':') ? `[${host}]` : host}:${port}`;
    console.log(`Tazzel is ready: ${at}/${process.env.TAZZEL_OPEN ?? ''}`);
    if (folder !== null && process.env.TAZZEL_OPEN === undefined) console.log(`Reviews are kept in ${folder}.${isOpen ? '' : ' Only this machine reaches them.'}`);
    if (studioKey !== null) console.log(`Studio key, asked for once when somebody publishes: ${studioKey}`);
  });
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => server.close(() => process.exit(0)));
} catch (error) {
  console.error(error instanceof Error ? error.message : error);
  process.exitCode = 1;
}
