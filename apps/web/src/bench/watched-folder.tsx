import { FolderWatch, isHalfWritten, isPassedOver } from '@tazzel/engine';
import { useEffect, useRef, useState } from 'react';
import { showNotes } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { useWorkspace } from '../workspace/context.ts';

/** What is used of a folder that the browser lets us read; where it has no such access there is none to be chosen. */
interface Folder {
  readonly name: string;
  values(): AsyncIterable<{ readonly kind: 'file' | 'directory'; readonly name: string; getFile?(): Promise<File> }>;
}
const chooser = (): (() => Promise<Folder>) | null => (globalThis as unknown as { showDirectoryPicker?: () => Promise<Folder> }).showDirectoryPicker?.bind(globalThis) ?? null;

/** How often it looks. What has changed between two looks is still being written. */
const EVERY_MS = 2000;

/** Files of a folder at this moment; those that cannot be read now are looked at again the next time. */
async function filesOf(folder: Folder): Promise<File[]> {
  const files: File[] = [];
  for await (const entry of folder.values()) {
    const file = entry.kind === 'file' && !isPassedOver(entry.name) ? await entry.getFile?.().catch(() => null) : null;
    if (file) files.push(file);
  }
  return files;
}

interface Watched {
  readonly folder: Folder;
  readonly seen: FolderWatch;
}
/** For each open document, so that leaving the stage and coming back goes on with it. */
const watched = new WeakMap<object, Watched>();

/** A folder that renders are put into: new files of it are handed over once they are whole, as long as this is shown. */
export function WatchedFolder({ onFiles }: { readonly onFiles: (files: readonly File[]) => Promise<void> }) {
  const { engine, session } = useWorkspace();
  const [now, setNow] = useState<Watched | null>(() => watched.get(session) ?? null);
  const [waits, setWaits] = useState('');
  const handOver = useRef(onFiles);
  handOver.current = onFiles;
  const watch = (folder: Folder | null) => {
    const next = folder && { folder, seen: new FolderWatch() };
    if (next) watched.set(session, next);
    else watched.delete(session);
    setNow(next);
  };
  useEffect(() => {
    if (!now) return;
    const { folder, seen } = now;
    let timer: ReturnType<typeof setTimeout>;
    let isOver = false;
    const look = async () => {
      const files = await filesOf(folder);
      const fresh = new Set(seen.look(files.map((file) => ({ path: file.name, bytes: file.size, changed: file.lastModified }))));
      const whole = files.filter((file) => fresh.has(file.name));
      if (whole.length === 0) return;
      for (const file of whole) {
        const half = await engine.inspect({ name: file.name, size: file.size, handle: file }).then(() => null, (error: Error) => error);
        if (isHalfWritten(half) && seen.wait()) return setWaits(`${file.name} is not whole yet. It is looked at again when something changes.`);
      }
      seen.done();
      setWaits('');
      await handOver.current(whole);
    };
    const next = () => {
      timer = setTimeout(() => {
        look()
          .catch((error: Error) => {
            showNotes('The folder is not looked at any more', [`${folder.name}: ${error.message}`]);
            watched.delete(session);
            setNow(null);
          })
          .finally(() => !isOver && next());
      }, EVERY_MS);
    };
    next();
    return () => {
      isOver = true;
      clearTimeout(timer);
    };
  }, [now, engine, session]);
  const choose = chooser();
  if (now)
    return (
      <div role="status" className="mt-1.5">
        <p className="flex items-center gap-2">
          <span className="min-w-0 flex-1 truncate">Looking at “{now.folder.name}” while this stage is open</span>
          <button type="button" className="underline" onClick={() => watch(null)}>
            Stop
          </button>
        </p>
        {waits && <p className="text-[12px] text-faint">{waits}</p>}
      </div>
    );
  return (
    <Button className="mt-1.5" disabled={!choose} title={choose ? undefined : 'This browser gives no access to folders. Choose the files instead, or use “tazzel watch” in the shell.'} onClick={() => void choose?.().then(watch, () => undefined)}>
      Look at a folder …
    </Button>
  );
}
