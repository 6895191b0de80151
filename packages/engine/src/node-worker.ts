import { parentPort } from 'node:worker_threads';
import { nodePlatform } from './node-platform.ts';
import type { RequestMessage } from './protocol.ts';
import { serveWorker } from './worker.ts';

const answer = serveWorker(nodePlatform, (message, transfer) => parentPort?.postMessage(message, transfer));
parentPort?.on('message', (message: RequestMessage) => void answer(message));
