import type { LaunchOptions } from '@playwright/test';

/** Debian's Chromium, without anything that would look for a network. */
export const browserOptions: LaunchOptions = {
  executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
};
