/** Long work in progress and what came of it: one place for all pages. */
import { useStore } from 'zustand';
import { createStore } from 'zustand/vanilla';
import { Button } from './ui/button.tsx';
import { Sheet } from './ui/dialog.tsx';

interface Work {
  readonly title: string;
  readonly detail: string;
  /** 0…1, or null if it cannot be told. */
  readonly share: number | null;
  readonly cancel: (() => void) | null;
}

interface NoticeState {
  readonly work: Work | null;
  /** What was not read yet, the first one first. */
  readonly reports: readonly Report[];
}

interface Report {
  readonly title: string;
  readonly lines: readonly string[];
}

const store = createStore<NoticeState>(() => ({ work: null, reports: [] }));

/** More lines than anybody reads; the rest is counted. */
const MOST_LINES = 200;

/** Sentences that must be read, not only seen passing by. One report does not take the place of another that was not read yet. */
export const showReport = (title: string, lines: readonly string[]) => {
  const different = [...new Set(lines)];
  if (different.length === 0) return;
  const shown = different.length > MOST_LINES ? [...different.slice(0, MOST_LINES), `… and ${different.length - MOST_LINES} more.`] : different;
  store.setState(({ reports }) => {
    const same = reports.find((report) => report.title === title && report.lines.join('\n') === shown.join('\n'));
    return { reports: same ? reports : [...reports, { title, lines: shown }] };
  });
};

/** Shows progress while `task` runs. A cancelled task must settle by itself. */
export async function withProgress<T>(title: string, task: (report: (share: number | null, detail?: string) => void, signal: AbortSignal) => Promise<T>): Promise<T> {
  const abort = new AbortController();
  const show = (share: number | null, detail = '') => store.setState({ work: { title, detail, share, cancel: () => abort.abort() } });
  // Short work shows nothing, so that the page does not flicker.
  let latest: [number | null, string?] = [null];
  const timer = setTimeout(() => show(...latest), 300);
  try {
    return await task((share, detail) => {
      latest = [share, detail];
      if (store.getState().work) show(share, detail);
    }, abort.signal);
  } finally {
    clearTimeout(timer);
    store.setState({ work: null });
  }
}

export function Notices() {
  const { work, reports } = useStore(store);
  const close = () => store.setState({ reports: [] });
  return (
    <>
      {work && (
        <div role="status" className="fixed bottom-6 left-1/2 z-50 w-96 max-w-[90vw] -translate-x-1/2 border border-ink bg-panel p-3">
          <div className="flex items-center justify-between gap-3">
            <div className="min-w-0">
              <div>{work.title}</div>
              <div className="truncate text-faint">{work.detail || ' '}</div>
            </div>
            {work.cancel && <Button onClick={work.cancel}>Cancel</Button>}
          </div>
          <div role="progressbar" aria-label={work.title} aria-valuemin={0} aria-valuemax={100} aria-valuenow={work.share === null ? undefined : Math.round(work.share * 100)} className="mt-2 h-1 overflow-hidden bg-hair">
            <div className="h-full bg-accent" style={work.share === null ? { width: '30%', animation: 'pass 1.2s linear infinite' } : { width: `${work.share * 100}%` }} />
          </div>
        </div>
      )}
      <Sheet open={reports.length > 0} title={reports[0]?.title ?? ''} onClose={close}>
        {reports.map(({ title, lines }, i) => (
          <div key={`${title} ${lines[0]}`} className={i > 0 ? 'mt-4 border-t border-ink pt-2' : ''}>
            {i > 0 && <h2 className="lettering mb-1.5">{title}</h2>}
            <ul className="list-disc space-y-1.5 pl-4">{lines.map((line) => <li key={line}>{line}</li>)}</ul>
          </div>
        ))}
        <div className="mt-4 flex justify-end">
          <Button look="main" onClick={close}>
            Understood
          </Button>
        </div>
      </Sheet>
    </>
  );
}
