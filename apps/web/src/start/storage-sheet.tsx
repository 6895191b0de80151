import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { toast } from 'sonner';
import { getEngine } from '../engine.ts';
import { showReport, withProgress } from '../notices.tsx';
import { makeBackup, restoreBackup } from '../storage/backup.ts';
import { keepForGood, room, storageError } from '../storage/database.ts';
import { sweepFiles } from '../storage/files.ts';
import { storageShares } from '../storage/shares.ts';
import { Button } from '../ui/button.tsx';
import { Sheet } from '../ui/dialog.tsx';
import { download } from '../ui/download.ts';
import { FileButton } from '../ui/file-button.tsx';
import { bytesText } from './bytes-text.ts';

const SHARES = ['storage shares'];
const ROOM = ['room'];

/** What takes how much, all of it in one file, and back. */
export function StorageSheet({ open, onClose, onChanged }: { readonly open: boolean; readonly onClose: () => void; readonly onChanged: () => Promise<unknown> }) {
  const client = useQueryClient();
  const [isBusy, setBusy] = useState(false);
  const { data: shares } = useQuery({ queryKey: SHARES, queryFn: storageShares, enabled: open, staleTime: 0, gcTime: 0 });
  const { data: space } = useQuery({ queryKey: ROOM, queryFn: room, enabled: open, staleTime: 0, gcTime: 0 });
  const look = async () => {
    await Promise.all([client.invalidateQueries({ queryKey: SHARES }), client.invalidateQueries({ queryKey: ROOM }), onChanged()]);
  };
  const attempt = async (title: string, what: string, work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      if (!['AbortError', 'Cancelled'].includes((error as Error).name)) showReport(title, [storageError(error, what).message]);
    } finally {
      setBusy(false);
      await look();
    }
  };
  const backUp = () =>
    attempt('There is no backup', 'the backup', async () => {
      const { blob, documents, problems } = await withProgress('Backing up', (report, signal) => makeBackup((share, name) => report(share, name), signal));
      const name = `tazzel-backup-${new Date().toISOString().slice(0, 10)}.zip`;
      download(name, [blob], 'application/zip');
      toast(`${name}, ${bytesText(blob.size)} with ${documents} ${documents === 1 ? 'document' : 'documents'}, is in your downloads.`);
      showReport('Backed up with gaps', problems);
    });
  const restore = ([file]: readonly File[]) =>
    attempt('The backup was not put back whole', 'the backup', async () => {
      const engine = await getEngine();
      const hash = (blob: Blob) => engine.hash({ name: file.name, size: blob.size, handle: blob });
      const { documents, known, problems } = await withProgress('Putting a backup back', (report, signal) => restoreBackup(file, hash, (share, name) => report(share, name), signal));
      toast(documents === 0 ? `Nothing is new: ${known === 1 ? 'its document is' : `its ${known} documents are`} here already.` : `${documents} ${documents === 1 ? 'document' : 'documents'} put back${known > 0 ? `, ${known} were here already` : ''}.`);
      showReport('Put back with gaps', problems);
    });
  return (
    <Sheet open={open} title="Storage" onClose={onClose} description="Everything lies in this browser, on this machine.">
      {space && (
        <div className="mb-3 flex items-center gap-3">
          <span className="flex-1">
            <span className="figure">
              {bytesText(space.usedBytes)} of about {bytesText(space.bytes)}
            </span>{' '}
            are used. {space.persistent ? 'The browser keeps them until you delete them.' : 'The browser may clear them when the disk runs full.'}
          </span>
          {!space.persistent && <Button onClick={() => void keepForGood().then(look)}>Ask it to keep them</Button>}
        </div>
      )}
      <table className="mb-3 w-full">
        <thead>
          <tr className="lettering border-b border-ink text-left text-[10px] text-faint">
            <th className="py-1 font-normal">Document</th>
            <th className="py-1 text-right font-normal">Its files</th>
            <th className="py-1 text-right font-normal">Only its own</th>
          </tr>
        </thead>
        <tbody>
          {shares?.documents.map(({ id, name, bytes, ownBytes }) => (
            <tr key={id} className="border-b">
              <td className="max-w-0 truncate py-1 pr-2">{name}</td>
              <td className="figure w-24 py-1 text-right">{bytesText(bytes)}</td>
              <td className="figure w-24 py-1 text-right">{bytesText(ownBytes)}</td>
            </tr>
          ))}
          {shares?.documents.length === 0 && (
            <tr>
              <td colSpan={3} className="py-1 text-faint">
                No document is stored.
              </td>
            </tr>
          )}
        </tbody>
      </table>
      {shares !== undefined && shares.looseBytes > 0 && (
        <div className="mb-3 flex items-center gap-3">
          <span className="flex-1">
            <span className="figure">{bytesText(shares.looseBytes)}</span> are files of renders before, which no document needs any more. They go by themselves when nobody could undo to them.
          </span>
          <Button disabled={isBusy} onClick={() => void attempt('They were not removed', 'it', () => sweepFiles(Number.POSITIVE_INFINITY))}>
            Remove them now
          </Button>
        </div>
      )}
      <p className="mb-2 text-faint">A backup holds every document with its files, looks, recipes, skies, settings and links of reviews. Put back, here or elsewhere, it overwrites nothing.</p>
      <div className="flex gap-1.5">
        <Button look="main" className="h-8 flex-1" disabled={isBusy} onClick={() => void backUp()}>
          Back up everything
        </Button>
        <FileButton text="Put a backup back …" label="Backup file" accept=".zip" onFiles={(files) => void restore(files)} />
      </div>
    </Sheet>
  );
}
