/** What this browser keeps: documents, the bytes of their files, small pictures, settings. */
import localforage from 'localforage';

const store = (name: string) => localforage.createInstance({ name: 'tazzel', storeName: name });

export const documentStore = store('documents');
export const fileStore = store('files');
export const pictureStore = store('pictures');
export const settingStore = store('settings');

/** True if the browser refused to store because there is no room. */
export function isFull(error: unknown): boolean {
  const names = [error, (error as { target?: { error?: unknown } } | null)?.target?.error].map((e) => (e as { name?: string } | null)?.name ?? '');
  return names.some((name) => name === 'QuotaExceededError' || name === 'NS_ERROR_DOM_QUOTA_REACHED');
}

export const storageSentence = (error: unknown): string =>
  isFull(error)
    ? 'The browser’s storage is full: the last changes are not saved. Delete documents on the start page, or save this one as a project file; saving is tried again with every change.'
    : `The browser could not save: ${error instanceof Error ? error.message : String(error)}. Save the document as a project file.`;

export async function setting<T>(key: string, fallback: T): Promise<T> {
  return ((await settingStore.getItem<T>(key).catch(() => null)) ?? fallback) as T;
}

export const keepSetting = (key: string, value: unknown): void => void settingStore.setItem(key, value).catch(() => undefined);
