/** The production build, with a small demo in the place of the shipped one. */
import express from 'express';
import { createApp } from '../apps/server/src/app.ts';
import { fileURLToPath } from 'node:url';
import { makeSmallDemo, smallDemo } from './small-demo.ts';

makeSmallDemo();
const app = express();
app.use('/demo', express.static(smallDemo, { index: false, redirect: false }));
app.use(createApp(fileURLToPath(new URL('../apps/web/dist', import.meta.url))));
app.listen(Number(process.env.PORT), '127.0.0.1');
