/** What this browser keeps: documents with a small row each, the bytes of their files, small pictures, settings. */
import localforage from 'localforage';

const DATABASE = 'tazzel';
const STORES = ['documents', 'rows', 'files', 'arrivals', 'pictures', 'settings'] as const;
/** What localForage keeps beside its stores, to find out whether the browser stores blobs. */
const PROBE = 'local-forage-detect-blob-support';
/** A page that does not close its database when it is asked to must not hold up this one. */
const PATIENCE_MS = 3000;

const store = (name: (typeof STORES)[number]) => localforage.createInstance({ name: DATABASE, storeName: name });

/** The database at a version, with all stores if it is made or made anew. */
const opened = (version?: number): Promise<IDBDatabase> =>
  new Promise((resolve, reject) => {
    const request = indexedDB.open(DATABASE, version);
    request.onupgradeneeded = () => {
      for (const name of missingIn(request.result)) request.result.createObjectStore(name);
    };
    request.onerror = () => reject(request.error);
    request.onsuccess = () => resolve(request.result);
  });
const missingIn = (database: IDBDatabase) => [...STORES, PROBE].filter((name) => !database.objectStoreNames.contains(name));

/**
 * Makes all stores at once, before anything is stored. Left to themselves they are made one by one as they are used, each as a new version of
 * the database; two pages that do so at the same time can wait for each other for ever.
 */
export async function prepareStores(): Promise<void> {
  const prepare = async () => {
    const database = await opened();
    const isComplete = missingIn(database).length === 0;
    const { version } = database;
    database.close();
    if (!isComplete) (await opened(version + 1)).close();
  };
  const patience = new Promise<void>((resolve) => setTimeout(resolve, PATIENCE_MS));
  await Promise.race([navigator.locks.request('tazzel-stores', prepare), patience]);
}

export const documentStore = store('documents');
/** What the start page says of each document, and the files that it needs: listing and sweeping read no whole document. */
export const rowStore = store('rows');
export const fileStore = store('files');
/** When each file was stored. */
export const arrivalStore = store('arrivals');
export const pictureStore = store('pictures');
export const settingStore = store('settings');

/** True if the browser refused to store because there is no room. */
export function isFull(error: unknown): boolean {
  const names = [error, (error as { target?: { error?: unknown } } | null)?.target?.error].map((e) => (e as { name?: string } | null)?.name ?? '');
  return names.some((name) => name === 'QuotaExceededError' || name === 'NS_ERROR_DOM_QUOTA_REACHED');
}

/** Why something could not be stored, in a sentence of ours; errors that are sentences already stay. */
export class StorageError extends Error {
  override readonly name = 'StorageError';
  constructor(
    readonly code: 'full' | 'elsewhere' | 'unreadable' | 'unsound' | 'failed',
    message: string,
  ) {
    super(message);
  }
}

/** `what` was to be stored. */
export function storageError(error: unknown, what: string): Error {
  if (error instanceof StorageError) return error;
  if (isFull(error)) return new StorageError('full', `The browser’s storage is full: ${what} could not be stored. Delete documents on the start page, which makes room at once, and try again.`);
  return error instanceof DOMException ? new StorageError('failed', `The browser could not store ${what} (${error.name}). Reload the page and try again.`) : error instanceof Error ? error : new Error(String(error));
}

export async function setting<T>(key: string, fallback: T): Promise<T> {
  return ((await settingStore.getItem<T>(key).catch(() => null)) ?? fallback) as T;
}

export const keepSetting = (key: string, value: unknown): void => void settingStore.setItem(key, value).catch(() => undefined);

export interface Room {
  readonly usedBytes: number;
  readonly bytes: number;
  /** Whether the browser promised not to clear the storage by itself. */
  readonly persistent: boolean;
}

/** How much is stored and may be; null where the browser does not say. */
export async function room(): Promise<Room | null> {
  try {
    const [{ usage, quota }, persistent] = await Promise.all([navigator.storage.estimate(), navigator.storage.persisted()]);
    return usage === undefined || quota === undefined ? null : { usedBytes: usage, bytes: quota, persistent };
  } catch {
    return null;
  }
}

/** Asks the browser to keep what is stored, whatever else needs room. */
export async function keepForGood(): Promise<void> {
  await navigator.storage?.persist?.().catch(() => false);
}
