/** The sheet: stages above, schedules left, picture, bench right, build-up and title block below. */
import type { StageId } from '@tazzel/editor';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { toast } from 'sonner';
import { Bench } from '../bench/bench.tsx';
import { BuildUp } from '../build-up/build-up.tsx';
import { CommandFinder } from '../help/command-finder.tsx';
import { Shortcuts } from '../help/shortcuts.tsx';
import { chosen } from '../files.ts';
import { PICTURE_FILES, takeIn } from '../intake.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { whileFilesArrive } from '../storage/locks.ts';
import { PictureView } from '../picture/picture-view.tsx';
import { Schedules } from '../schedules/schedules.tsx';
import { usePieces } from '../ui/pieces.ts';
import { useCommandHost, useHotkeysOf } from './commands.tsx';
import { Divider } from './divider.tsx';
import { type Panel, restoreLayout, useLayout } from './layout.ts';
import { useSession, useWorkspace } from './context.ts';
import { StageBar } from './stage-bar.tsx';
import { TitleBlock } from './title-block.tsx';

export function Frame({ stage }: { stage: StageId }) {
  const { engine, session, flush } = useWorkspace();
  const input = useRef<HTMLInputElement>(null);
  const [sheet, setSheet] = useState<'shortcuts' | 'finder' | null>(null);
  const [renameSignal, setRenameSignal] = useState(0);
  const refusal = useSession((state) => state.refusal);
  const documentName = useSession((state) => state.document.name);

  useEffect(() => {
    document.title = `${documentName} – Tazzel`;
    return () => {
      document.title = 'Tazzel';
    };
  }, [documentName]);
  useEffect(() => {
    if (refusal) toast(refusal.message);
  }, [refusal]);

  const addFiles = useCallback(
    async (files: readonly File[]) => {
      if (files.length === 0) return;
      try {
        // Until the document that refers to them is stored, nobody may sweep the files.
        const problems = await whileFilesArrive(async () => {
          const taken = await withProgress(`Reading ${files.length} ${files.length === 1 ? 'file' : 'files'}`, (report, signal) =>
            takeIn(engine, session.getState().document, files, ({ share, name }) => report(share, name), signal),
          );
          if (taken.sources.length > 0) session.actions.addElements(taken.sources, taken.facts);
          else if (taken.problems.length > 0) session.actions.refreshSources();
          await flush();
          return taken.problems;
        });
        showNotes('About these files', problems);
      } catch (error) {
        showNotes('The files were not added', [(error as Error).message]);
      }
    },
    [engine, session, flush],
  );
  const { getRootProps, isDragActive } = useDropzone({ onDrop: (files) => void addFiles(files), noClick: true, noKeyboard: true });
  const host = useCommandHost(stage, {
    addFiles: () => input.current?.click(),
    showShortcuts: () => setSheet('shortcuts'),
    findCommand: () => setSheet('finder'),
    renameSelected: () => setRenameSignal((n) => n + 1),
  });
  useHotkeysOf(host, sheet === null);

  const pieces = usePieces(5);
  useEffect(() => void restoreLayout(), []);
  const { sizes, folded, isAlone } = useLayout((layout) => layout);
  const isShown = (panel: Panel) => !isAlone && !folded[panel];
  return (
    <div {...getRootProps()} className="flex h-full flex-col">
      {!isAlone && (pieces > 0 ? <StageBar host={host} /> : <header className="h-[34px] shrink-0" />)}
      <div className="flex min-h-0 flex-1">
        {isShown('schedules') && (
          <div className="flex min-h-0 shrink-0 flex-col" style={{ width: sizes.schedules }}>
            {pieces > 3 && <Schedules stage={stage} />}
          </div>
        )}
        {!isAlone && <Divider panel="schedules" side="left" />}
        <PictureView stage={stage} host={host} />
        {!isAlone && <Divider panel="bench" side="right" />}
        {isShown('bench') && (
          <div className="flex min-h-0 shrink-0 flex-col" style={{ width: sizes.bench }}>
            {pieces > 2 && <Bench stage={stage} />}
          </div>
        )}
      </div>
      {!isAlone && <Divider panel="buildUp" side="below" />}
      {isShown('buildUp') && (
        <div className="flex shrink-0" style={{ height: sizes.buildUp }}>
          {pieces > 4 ? <BuildUp renameSignal={renameSignal} /> : <section className="flex-1" />}
          <div className="flex shrink-0" style={{ width: sizes.bench + 5 }}>
            {pieces > 1 && <TitleBlock />}
          </div>
        </div>
      )}
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Picture files to add"
        accept={PICTURE_FILES}
        onChange={(event) => void addFiles(chosen(event.currentTarget))}
      />
      <Shortcuts open={sheet === 'shortcuts'} onClose={() => setSheet(null)} />
      <CommandFinder open={sheet === 'finder'} host={host} onClose={() => setSheet(null)} />
      {isDragActive && <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center border-2 border-accent bg-panel/80 text-[16px]">Drop to add to the document</div>}
    </div>
  );
}
