import { parentPort } from 'node:worker_threads';
import { deflate } from 'node:zlib';
import { promisify } from 'node:util';
import type { RequestMessage } from './render/protocol.ts';
import { serveRenderWorker } from './render/worker.ts';

const pack = promisify(deflate);
const answer = serveRenderWorker({ deflate: (raw) => pack(raw, { level: 6 }), allocateShared: (bytes) => new SharedArrayBuffer(bytes) }, (message) => parentPort?.postMessage(message));
parentPort?.on('message', (message: RequestMessage) => void answer(message));
