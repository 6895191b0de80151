/** The first job, beside the work: one step at a time, ticked off by what was done. */
import { firstJob, type Moment, nextStep, type StageId } from '@tazzel/editor';
import { Check as Tick, X } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import { useStore } from 'zustand';
import { Button, IconButton } from '../ui/button.tsx';
import { endFirstJob, firstJobProgress, setFirstJob } from './first-job-progress.ts';
import { usePart, useWorkspace } from '../workspace/context.ts';

export function FirstJob({ stage }: { readonly stage: StageId }) {
  const { session } = useWorkspace();
  const id = usePart((document) => document.id);
  const { documentId, done } = useStore(firstJobProgress);
  const isHere = documentId === id;
  const navigate = useNavigate();
  const step = isHere ? nextStep(new Set(done)) : null;
  const began = useRef<{ readonly stepId: string; readonly at: Moment } | null>(null);
  useEffect(() => {
    if (!step) return;
    if (began.current?.stepId !== step.id) began.current = { stepId: step.id, at: session.getState() };
    return session.subscribe((now) => {
      if (began.current?.stepId === step.id && step.isDone(now, began.current.at)) setFirstJob({ documentId: id, done: [...firstJobProgress.getState().done.filter((each) => each !== step.id), step.id] });
    });
  }, [session, step, id]);
  if (!isHere) return null;
  const count = done.length;
  return (
    <section aria-label="First job" className="absolute bottom-2 left-2 w-[300px] border border-ink bg-panel">
      <div className="flex h-7 items-center gap-2 border-b px-2">
        <h3 className="lettering flex-1 text-[10px] text-faint">First job</h3>
        <span className="figure text-[11px] text-faint">
          {count} of {firstJob.length}
        </span>
        <IconButton label="End the first job" className="!size-5" onClick={endFirstJob}>
          <X size={12} aria-hidden />
        </IconButton>
      </div>
      <div className="h-0.5 bg-hair">
        <div className="h-full bg-accent" style={{ width: `${(100 * count) / firstJob.length}%` }} />
      </div>
      {step ? (
        <div className="p-2" aria-live="polite">
          <p className="mb-0.5 font-semibold">{step.title}</p>
          <p className="mb-2 text-[12px] leading-snug">{step.words}</p>
          <div className="flex gap-1.5">
            {step.stage !== stage && (
              <Button look="main" onClick={() => void navigate(`/document/${id}/${step.stage}`)}>
                Go there
              </Button>
            )}
            <Button onClick={() => setFirstJob({ documentId: id, done: [...done, step.id] })}>Skip</Button>
            {count > 0 && (
              <Button look="quiet" onClick={() => setFirstJob({ documentId: id, done: done.slice(0, -1) })}>
                Back
              </Button>
            )}
          </div>
        </div>
      ) : (
        <div className="p-2" aria-live="polite">
          <p className="mb-1 flex items-center gap-1.5 font-semibold">
            <Tick size={14} aria-hidden /> That is the whole way
          </p>
          <p className="mb-2 text-[12px] leading-snug">From a render to a delivered picture, and every step can still be changed. Your own render goes the same way: drop its files on the start page. “?” shows the keys, Ctrl K finds everything by its name.</p>
          <Button look="main" onClick={endFirstJob}>
            Done
          </Button>
        </div>
      )}
    </section>
  );
}
