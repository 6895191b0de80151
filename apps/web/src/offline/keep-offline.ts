/** The page's side of what is kept: it asks for it, and offers newer versions. */
import { toast } from 'sonner';
import { allClosed } from '../workspace/turns.ts';
import type { Kept } from './kept-files.ts';

const worker = (): ServiceWorkerContainer | null => (import.meta.env.PROD && 'serviceWorker' in navigator ? navigator.serviceWorker : null);

function asked(what: 'how-much' | 'take-all-along', active: ServiceWorker): Promise<Kept> {
  const { port1, port2 } = new MessageChannel();
  return new Promise((resolve) => {
    port1.onmessage = ({ data }) => resolve(data as Kept);
    active.postMessage(what, [port2]);
  });
}

/** How much of the application is kept here; null where nothing is, or can be. */
export async function keptOffline(): Promise<Kept | null> {
  const active = worker()?.controller;
  return active ? asked('how-much', active) : null;
}

const reload = () => void allClosed().then(() => location.reload());

/** A newer version is used when somebody says so; another tab, which may be in mid-work, is told and left alone. */
function offer(waiting: ServiceWorker): void {
  toast('A newer version of Tazzel is here. What is open stays as it is until you use it.', {
    duration: Number.POSITIVE_INFINITY,
    action: {
      label: 'Use it now',
      onClick: () => {
        isAskedHere = true;
        waiting.postMessage('use-this-version');
      },
    },
  });
}
let isAskedHere = false;

function whenRenewed(): void {
  if (isAskedHere) reload();
  else toast('Tazzel was renewed in another tab. Load this one again before you go on for long.', { duration: Number.POSITIVE_INFINITY, action: { label: 'Load again', onClick: reload } });
}

/** Never throws: without it the application works as long as there is a network. */
export async function keepOffline(): Promise<void> {
  const container = worker();
  if (!container) return;
  try {
    // The first one that takes over renews nothing.
    if (container.controller) container.addEventListener('controllerchange', whenRenewed);
    else container.addEventListener('controllerchange', () => container.addEventListener('controllerchange', whenRenewed), { once: true });
    const registration = await container.register('/service-worker.js', { updateViaCache: 'none' });
    const offerWhenReady = (installing: ServiceWorker | null) => installing?.addEventListener('statechange', () => installing.state === 'installed' && container.controller && offer(installing));
    if (registration.waiting && container.controller) offer(registration.waiting);
    offerWhenReady(registration.installing);
    registration.addEventListener('updatefound', () => offerWhenReady(registration.installing));
    const { active } = await container.ready;
    if (active) await asked('take-all-along', active);
  } catch {
    // Private windows, and browsers that are told to keep nothing.
  }
}
