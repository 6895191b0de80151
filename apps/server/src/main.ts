/** Serves the built application. All work happens in the browser; the server only adds the headers that shared memory needs. */
import { createServer } from 'node:net';
import { fileURLToPath } from 'node:url';
import { createApp } from './app.ts';

process.env.NODE_ENV ??= 'production';

const PREFERRED_PORT = 4800;

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

async function choosePort(): Promise<number> {
  const wanted = process.env.PORT;
  if (wanted !== undefined && wanted !== '') {
    const port = Number(wanted);
    if (!Number.isInteger(port) || port < 0 || port > 65535) throw new Error(`PORT is “${wanted}”; it must be a number from 0 to 65535.`);
    if (port !== 0 && !(await isFree(port))) throw new Error(`Port ${port} is in use. Choose another PORT, or leave it out.`);
    return port;
  }
  for (let port = PREFERRED_PORT; port < PREFERRED_PORT + 100; port++) if (await isFree(port)) return port;
  return 0;
}

try {
  const root = fileURLToPath(new URL('../../web/dist', import.meta.url));
  const server = createApp(root).listen(await choosePort(), '127.0.0.1', () => {
    const address = server.address();
    const port = typeof address === 'object' && address ? address.port : PREFERRED_PORT;
    console.log(`Tazzel is ready: http://localhost:${port}/${process.env.TAZZEL_OPEN ?? ''}`);
  });
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => server.close(() => process.exit(0)));
} catch (error) {
  console.error(error instanceof Error ? error.message : error);
  process.exitCode = 1;
}
