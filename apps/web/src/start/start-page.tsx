import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { beginFirstJob } from '../help/first-job-progress.ts';
import { keptOffline } from '../offline/keep-offline.ts';
import { openDemo, openFiles } from '../opening.ts';
import { PICTURE_FILES } from '../intake.ts';
import { chosen } from '../files.ts';
import { download } from '../ui/download.ts';
import { room, storageError } from '../storage/database.ts';
import { deleteDocument, duplicateDocument, renameDocument, salvageDocument } from '../storage/documents.ts';
import { listDocuments } from '../storage/rows.ts';
import { Button } from '../ui/button.tsx';
import { Menu } from '../ui/menu.tsx';
import { WatchedFolder } from '../ui/watched-folder.tsx';
import { getEngine } from '../engine.ts';
import { ThemeButton } from '../ui/theme-button.tsx';
import { showReport } from '../notices.tsx';
import { lastPictureKept } from '../workspace/open-workspace.ts';
import { allClosed } from '../workspace/turns.ts';
import { bytesText } from './bytes-text.ts';
import { DocumentRowView } from './document-row.tsx';
import { StorageSheet } from './storage-sheet.tsx';

const KEY = ['documents'];
const ROOM = ['room'];
const OFFLINE = ['offline'];
/** For whom a folder is looked at from here. */
const PAGE = {};

export function StartPage() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const { data: rows, error } = useQuery({ queryKey: KEY, queryFn: listDocuments, staleTime: 0, gcTime: 0 });
  const { data: space } = useQuery({ queryKey: ROOM, queryFn: room, staleTime: 0, gcTime: 0 });
  const { data: kept } = useQuery({ queryKey: OFFLINE, queryFn: keptOffline, staleTime: 0, gcTime: 0, refetchInterval: ({ state }) => (state.data?.isComplete ? false : 3000) });
  const refresh = () => Promise.all([client.invalidateQueries({ queryKey: KEY }), client.invalidateQueries({ queryKey: ROOM })]);
  // The document that was just left may still be writing its picture.
  useEffect(() => void allClosed().then(lastPictureKept).then(() => client.invalidateQueries({ queryKey: KEY })), [client]);
  const onError = (problem: Error) => showReport('That did not work', [storageError(problem, 'it').message]);
  const rename = useMutation({ mutationFn: ({ id, name }: { id: string; name: string }) => renameDocument(id, name), onSettled: refresh, onError });
  const duplicate = useMutation({ mutationFn: duplicateDocument, onSettled: refresh, onError });
  const remove = useMutation({
    mutationFn: deleteDocument,
    onError,
    onSuccess: ({ putBack, forget }) => void toast('The document was deleted.', { duration: 20_000, action: { label: 'Undo', onClick: () => void putBack().then(refresh, onError) }, onAutoClose: forget }),
    onSettled: refresh,
  });
  const salvage = useMutation({
    mutationFn: salvageDocument,
    onError,
    onSuccess: ({ name, bytes, missing }) => {
      download(name, [bytes as Uint8Array<ArrayBuffer>], 'application/zip');
      toast(missing === 0 ? `${name} is in your downloads.` : `${name} is in your downloads; ${missing} ${missing === 1 ? 'file' : 'files'} could not be read.`);
    },
  });
  const [isStorageOpen, setStorageOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const project = useRef<HTMLInputElement>(null);
  const go = (id: string | null) => id && navigate(`/document/${id}/build-up`);
  const firstJob = (id: string) => {
    beginFirstJob(id);
    go(id);
  };
  const take = async (files: readonly File[]) => {
    if (files.length > 0) go(await openFiles(files));
    await refresh();
  };
  /** A render that was put into the folder: a document of its own. Whoever is here is not sent there: the next one may be on its way. */
  const takeRender = async (files: readonly File[]) => {
    const id = await openFiles(files);
    await refresh();
    if (id) toast(`A new render: ${files.length} ${files.length === 1 ? 'file' : 'files'} of the folder became a document.`, { action: { label: 'Open', onClick: () => go(id) } });
  };
  const { getRootProps, isDragActive } = useDropzone({ onDrop: (files) => void take(files), noClick: true, noKeyboard: true });
  if (error) throw error;

  return (
    <div {...getRootProps()} className="relative h-full overflow-auto">
      <main className="mx-auto max-w-5xl px-8 py-8">
        <header className="flex items-end justify-between border-b-2 border-ink pb-3">
          <div>
            <h1 className="text-[34px] leading-none font-semibold tracking-tight" style={{ fontStretch: '88%' }}>
              Tazzel
            </h1>
            <p className="mt-2 text-faint">Render elements in, a layered document, a finished picture out.</p>
          </div>
          <ThemeButton />
        </header>

        <section aria-label="Begin" className="flex flex-wrap items-center gap-2 py-4">
          <Button look="main" className="h-9 px-4" onClick={() => input.current?.click()}>
            New from files …
          </Button>
          <Button className="h-9 px-3" onClick={() => project.current?.click()}>
            Open a project file …
          </Button>
          <Menu
            trigger={<Button className="h-9 px-3">Open the demo</Button>}
            items={() => [
              { label: 'The courtyard, turned to dusk', onSelect: () => void openDemo('courtyard').then(go, onError) },
              { label: 'The courtyard in clear late sun', onSelect: () => void openDemo('late-sun').then(go, onError) },
              { label: 'The courtyard on a misty winter morning', onSelect: () => void openDemo('misty-morning').then(go, onError) },
              { label: 'The reading room', onSelect: () => void openDemo('reading-room').then(go, onError) },
            ]}
          />
          <Button className="h-9 px-3" onClick={() => void openDemo('courtyard').then(firstJob, onError)}>
            First job, ten minutes
          </Button>
          <Button className="h-9 px-3" onClick={() => void navigate('/render')}>
            Render a scene …
          </Button>
          <WatchedFolder owner={PAGE} while="while this page is open" engine={getEngine} onFiles={takeRender} className="!h-9 px-3" />
          <span className="ml-auto text-faint">or drop files here</span>
          <input ref={input} type="file" multiple hidden accept={`${PICTURE_FILES},.ora`} aria-label="Picture files" onChange={(event) => void take(chosen(event.currentTarget))} />
          <input ref={project} type="file" hidden accept=".tazzel" aria-label="Project file" onChange={(event) => void take(chosen(event.currentTarget))} />
        </section>

        <section aria-labelledby="documents">
          <div className="flex items-baseline justify-between border-b border-ink pb-1">
            <h2 id="documents" className="lettering">
              Documents in this browser
            </h2>
            {rows && rows.length > 0 && <span className="figure text-faint">{rows.length}</span>}
          </div>
          {rows?.length === 0 && (
            <div className="max-w-xl py-8">
              <p className="mb-2 text-[15px]">There is no document yet.</p>
              <p className="text-faint">
                Choose the files of one render: the beauty, and whatever elements came with it. The beauty becomes the base of the build-up; a material ID picture fills the material schedule. To look around first, open the demo: a small library in the
                evening, with its elements; the first job leads from its render to a delivered picture in ten minutes. Or render a scene here and take its elements on.
              </p>
            </div>
          )}
          <ul>
            {rows?.map((row) => (
              <DocumentRowView key={row.id} row={row} onOpen={() => go(row.id)} onRename={(name) => rename.mutate({ id: row.id, name })} onDuplicate={() => duplicate.mutate(row.id)} onDelete={() => remove.mutate(row.id)} onSalvage={() => salvage.mutate(row.id)} />
            ))}
          </ul>
        </section>
        <footer className="pt-6 text-faint">Everything stays in this browser; nothing is sent anywhere. Save a project file to keep a document elsewhere.{kept?.isComplete && ' Tazzel and its demo are kept here, too: it starts without a network.'}{space !== null && space !== undefined && space.usedBytes > 0 && <span className="figure block pt-1">{`${bytesText(space.usedBytes)} of about ${bytesText(space.bytes)} are used; ${space.persistent ? 'the browser keeps them until you delete them.' : 'the browser may clear them when the disk runs full.'}`}</span>}</footer>
        <Button className="mt-2" onClick={() => setStorageOpen(true)}>
          Storage and backup …
        </Button>
        <StorageSheet open={isStorageOpen} onClose={() => setStorageOpen(false)} onChanged={refresh} />
      </main>
      {isDragActive && <div className="pointer-events-none absolute inset-3 grid place-items-center border-2 border-accent bg-panel/80 text-[16px]">Drop to open</div>}
    </div>
  );
}
