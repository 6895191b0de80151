import { existsSync } from 'node:fs';
import type { LaunchOptions } from '@playwright/test';

const WHOLE = process.env.CHROMIUM_PATH ?? '/usr/bin/chromium';
/** The same engine without the parts that windows need: it starts and paints in three quarters of the time. */
const SHELL = '/usr/bin/chromium-headless-shell';

/** Debian's Chromium, without anything that would look for a network. As people have it: to be measured, and for what only a whole browser does. */
export const wholeBrowser: LaunchOptions = {
  executablePath: WHOLE,
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
};
export const browserOptions: LaunchOptions = { ...wholeBrowser, executablePath: process.env.CHROMIUM_PATH || !existsSync(SHELL) ? WHOLE : SHELL };
