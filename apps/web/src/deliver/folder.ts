/** A folder that the browser may write into, where it has such. */

interface FolderWindow {
  readonly showDirectoryPicker?: (options: { readonly mode: 'readwrite'; readonly id: string }) => Promise<FileSystemDirectoryHandle>;
}

export const hasFolders = (): boolean => (window as FolderWindow).showDirectoryPicker !== undefined;

/** Null if nothing was chosen. @throws Error with a sentence if it may not be used */
export async function chooseFolder(): Promise<FileSystemDirectoryHandle | null> {
  try {
    return (await (window as FolderWindow).showDirectoryPicker?.({ mode: 'readwrite', id: 'deliveries' })) ?? null;
  } catch (error) {
    if ((error as DOMException).name === 'AbortError') return null;
    throw new Error('The folder may not be written into. Choose another one, or take the zip.');
  }
}

/** Names of all that lies there. */
export async function filesIn(folder: FileSystemDirectoryHandle): Promise<ReadonlySet<string>> {
  const names = new Set<string>();
  for await (const name of folder.keys()) names.add(name);
  return names;
}

/** A new file in it. @throws Error with a sentence */
export async function writeInto(folder: FileSystemDirectoryHandle, name: string, parts: readonly Uint8Array[]): Promise<void> {
  try {
    const file = await (await folder.getFileHandle(name, { create: true })).createWritable();
    for (const part of parts) await file.write(part as Uint8Array<ArrayBuffer>);
    await file.close();
  } catch (error) {
    await folder.removeEntry(name).catch(() => undefined);
    throw new Error((error as DOMException).name === 'QuotaExceededError' ? 'There is no room left on the disk.' : 'It could not be written into the folder; perhaps it is gone, or may no longer be written into.');
  }
}
