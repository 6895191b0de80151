/** Keeps the application and its demo, and answers from there. A newer version waits until it is asked for: nobody is interrupted. */
import { type AppFile, clearOut, fileFor, howMuch, isStartOfAnother, keptOf, layOutStart, NAMED_BY_CONTENTS, type Outside, startShelfOf, takeAlong } from './kept-files.ts';

declare const self: ServiceWorkerGlobalScope;
/** Not in TypeScript's library yet. */
interface InstallEvent extends ExtendableEvent {
  readonly addRoutes?: (rules: readonly { condition: { urlPattern: URLPattern; requestMode?: RequestMode }; source: { cacheName: string } }[]) => Promise<void>;
}

/** The build writes the list in here: see vite.config.ts. */
const FILES: readonly AppFile[] = JSON.parse('__APP_FILES__');
const SHELF = 'tazzel-application';

const outside: Outside = {
  fetch: (path) => fetch(path, { cache: 'no-cache' }),
  // Its own: what it shared with the page would become a file that it has to import, and it is a plain script.
  hash: async (bytes) => [...new Uint8Array(await crypto.subtle.digest('SHA-256', bytes))].map((byte) => byte.toString(16).padStart(2, '0')).join(''),
};
/** Opened once for as long as this worker lives. */
let opened: Promise<Cache> | null = null;
const shelf = () => {
  opened ??= caches.open(SHELF).catch((error) => {
    opened = null;
    throw error;
  });
  return opened;
};

self.addEventListener('install', (event) => {
  event.waitUntil(takeProgram());
  // What the start consists of is found by the browser itself: waking this worker first would take longer than a server nearby.
  // Browsers that cannot do that ask below. https://w3c.github.io/ServiceWorker/#register-router-method
  (event as InstallEvent).addRoutes?.([
    { condition: { urlPattern: here(`${NAMED_BY_CONTENTS}*`) }, source: { cacheName: SHELF } },
    { condition: { urlPattern: here('/'), requestMode: 'navigate' }, source: { cacheName: startShelfOf(FILES) } },
  ]);
});
const here = (pathname: string) => new URLPattern({ pathname, baseURL: self.location.origin });
async function takeProgram(): Promise<void> {
  const open = await shelf();
  await takeAlong(FILES.filter(({ isDemo }) => !isDemo), open, outside);
  await layOutStart(FILES, open, await caches.open(startShelfOf(FILES)));
}

self.addEventListener('activate', (event) => event.waitUntil(clearOthers().then(() => self.clients.claim())));
async function clearOthers(): Promise<void> {
  await clearOut(FILES, await shelf());
  for (const name of await caches.keys()) if (isStartOfAnother(FILES, name)) await caches.delete(name);
}

self.addEventListener('fetch', (event) => {
  const file = fileFor(FILES, event.request, self.location.origin);
  if (file) event.respondWith(shelf().then((open) => keptOf(file, open)).then((kept) => kept ?? fetch(event.request)));
});

self.addEventListener('message', (event) => {
  const [answer] = event.ports;
  const tell = () => shelf().then((open) => howMuch(FILES, open)).then((kept) => answer?.postMessage(kept));
  if (event.data === 'use-this-version') void self.skipWaiting();
  if (event.data === 'how-much') event.waitUntil(tell());
  // Without a network, or with a server that was renewed: the next visit goes on.
  if (event.data === 'take-all-along') event.waitUntil(shelf().then((open) => takeAlong(FILES, open, outside)).catch(() => undefined).then(tell));
});
