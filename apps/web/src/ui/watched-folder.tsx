import { type Engine, FolderWatch, isHalfWritten, isPassedOver } from '@tazzel/engine';
import { useEffect, useRef, useState } from 'react';
import { showNotes } from '../notices.tsx';
import { Button } from './button.tsx';

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
/** For whom it is looked at, so that leaving and coming back goes on with it. */
const watched = new WeakMap<object, Watched>();

interface WatchedFolderProps {
  /** For whom it is looked at: an open document, or the page. */
  readonly owner: object;
  /** How long it is looked at, as in “while this stage is open”. */
  readonly while: string;
  readonly engine: () => Promise<Pick<Engine, 'inspect'>>;
  readonly onFiles: (files: readonly File[]) => Promise<void>;
  readonly className?: string;
}

/** A folder that renders are put into: new files of it are handed over once they are whole, as long as this is shown. */
export function WatchedFolder({ owner, while: span, engine, onFiles, className = '' }: WatchedFolderProps) {
  const [now, setNow] = useState<Watched | null>(() => watched.get(owner) ?? null);
  const [waits, setWaits] = useState('');
  const outside = useRef({ engine, onFiles });
  outside.current = { engine, onFiles };
  const watch = (folder: Folder | null) => {
    const next = folder && { folder, seen: new FolderWatch() };
    if (next) watched.set(owner, next);
    else watched.delete(owner);
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
        const half = await (await outside.current.engine()).inspect({ name: file.name, size: file.size, handle: file }).then(() => null, (error: Error) => error);
        if (isHalfWritten(half) && seen.wait()) return setWaits(`${file.name} is not whole yet. It is looked at again when something changes.`);
      }
      seen.done();
      setWaits('');
      await outside.current.onFiles(whole);
    };
    const next = () => {
      timer = setTimeout(() => {
        look()
          .catch((error: Error) => {
            showNotes('The folder is not looked at any more', [`${folder.name}: ${error.message}`]);
            watched.delete(owner);
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
  }, [now, owner]);
  const choose = chooser();
  if (now)
    return (
      <div role="status" className={className}>
        <p className="flex items-center gap-2">
          <span className="min-w-0 flex-1 truncate">Looking at “{now.folder.name}” {span}</span>
          <button type="button" className="underline" onClick={() => watch(null)}>
            Stop
          </button>
        </p>
        {waits && <p className="text-[12px] text-faint">{waits}</p>}
      </div>
    );
  return (
    <Button className={className} disabled={!choose} title={choose ? undefined : 'This browser gives no access to folders. Choose the files instead, or use “tazzel watch” in the shell.'} onClick={() => void choose?.().then(watch, () => undefined)}>
      Look at a folder …
    </Button>
  );
}
