/** Holds back who leaves a document while something of it is not stored. */
import { useEffect, useState } from 'react';
import { useBlocker } from 'react-router';
import { saveProject } from '../files.ts';
import { showReport, withProgress } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Sheet } from '../ui/dialog.tsx';
import { useSaveState, useWorkspace } from './context.ts';

export function LeaveGuard({ documentId }: { documentId: string }) {
  const { engine, session, flush, isSaved } = useWorkspace();
  const saved = useSaveState();
  const blocker = useBlocker(({ nextLocation }) => !nextLocation.pathname.startsWith(`/document/${documentId}/`) && !isSaved());
  const [asks, setAsks] = useState(false);
  const { state, proceed, reset } = blocker;
  useEffect(() => {
    if (state !== 'blocked') return;
    let over = false;
    // Usually it only needs a moment to be written.
    void flush().then((done) => {
      if (over) return;
      if (done) proceed();
      else setAsks(true);
    });
    return () => {
      over = true;
    };
  }, [state, flush, proceed]);
  const stay = () => {
    setAsks(false);
    reset?.();
  };
  const leave = () => {
    setAsks(false);
    proceed?.();
  };
  const save = async () => {
    try {
      const { missing } = await withProgress('Packing the project file', () => saveProject(engine, session.getState().document));
      showReport('Saved with gaps', missing);
    } catch (error) {
      showReport('The project file was not saved', [(error as Error).message]);
    }
  };
  return (
    <Sheet open={asks && state === 'blocked'} title="The last changes are not saved" onClose={stay}>
      <p className="mb-2">{saved.kind === 'failed' ? saved.sentence : 'The browser is still writing.'}</p>
      <p>Whoever leaves now loses what is not saved.</p>
      <div className="mt-4 flex flex-wrap justify-end gap-1.5">
        <Button onClick={leave}>Leave without saving</Button>
        <Button onClick={() => void save()}>Save a project file</Button>
        <Button look="main" onClick={stay}>
          Stay
        </Button>
      </div>
    </Sheet>
  );
}
