/** The production build, with a small demo in the place of the shipped one, and a review server. */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import express from 'express';
import { createApp } from '../apps/server/src/app.ts';
import { ReviewStore } from '../apps/server/src/review/store.ts';
import { fileURLToPath } from 'node:url';
import { makeSmallDemo, smallDemo } from './small-demo.ts';

makeSmallDemo();
const app = express();
app.use('/demo', express.static(smallDemo, { index: false, redirect: false }));
app.use(createApp(fileURLToPath(new URL('../apps/web/dist', import.meta.url)), { store: new ReviewStore(mkdtempSync(join(tmpdir(), 'tazzel-reviews-'))), studioKey: null }));
app.listen(Number(process.env.PORT), '127.0.0.1');
