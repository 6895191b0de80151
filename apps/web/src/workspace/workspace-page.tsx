import { isStage } from '@tazzel/editor';
import { startTransition, useEffect, useState } from 'react';
import { Link, Navigate, useParams } from 'react-router';
import { Button } from '../ui/button.tsx';
import { WorkspaceProvider } from './context.ts';
import { Frame } from './frame.tsx';
import { LeaveGuard } from './leave-guard.tsx';
import { type Opened, openWorkspace } from './open-workspace.ts';
import { inTurn } from './turns.ts';

export function WorkspacePage() {
  const { id = '', stage } = useParams();
  const [opened, setOpened] = useState<Opened | null>(null);
  const [failure, setFailure] = useState<Error | null>(null);
  /** The document that was asked for again, although another tab has it: it is taken over. */
  const [asked, setAsked] = useState<{ id: string } | null>(null);
  useEffect(() => {
    let left = false;
    let mine: Opened | null = null;
    inTurn(async () => {
      if (left) return;
      mine = await openWorkspace(id, asked?.id === id, () => {
        mine = { kind: 'elsewhere' };
        if (!left) setOpened(mine);
      });
      // The sheet is drawn in pieces, so that nothing else waits for it.
      if (!left) startTransition(() => setOpened(mine));
    }).catch((error: Error) => !left && setFailure(error));
    return () => {
      left = true;
      setOpened(null);
      void inTurn(async () => (mine?.kind === 'open' ? mine.close() : undefined));
    };
  }, [id, asked]);

  if (failure) throw failure;
  if (!isStage(stage)) return <Navigate to={`/document/${id}/build-up`} replace />;
  if (opened?.kind === 'missing') return <Message title="There is no such document" text="It may have been deleted, or it was made in another browser. A project file brings it here." />;
  if (opened?.kind === 'elsewhere')
    return (
      <Message title="Open in another tab" text="This document is being worked on in another tab of this browser. Go on there, or take it over: the other tab saves it and lets go of it.">
        <Button look="main" onClick={() => setAsked({ id })}>
          Take over here
        </Button>
      </Message>
    );
  if (!opened) return <main className="h-full bg-field" aria-busy="true" aria-label="Opening the document" />;
  return (
    <WorkspaceProvider value={opened.workspace}>
      <Frame key={id} stage={stage} />
      <LeaveGuard documentId={id} />
    </WorkspaceProvider>
  );
}

const Message = ({ title, text, children }: { title: string; text: string; children?: React.ReactNode }) => (
  <main className="grid h-full place-items-center">
    <div className="max-w-md border border-ink bg-sheet p-4">
      <h1 className="lettering mb-2">{title}</h1>
      <p className="mb-3">{text}</p>
      <div className="flex items-center gap-4">
        {children}
        <Link to="/" className="underline">
          All documents
        </Link>
      </div>
    </div>
  </main>
);
