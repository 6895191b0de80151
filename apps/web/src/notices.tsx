/** Long work in progress and what came of it: one place for all pages. */
import { useStore } from 'zustand';
import { createStore } from 'zustand/vanilla';
import { Button } from './ui/button.tsx';
import { Sheet } from './ui/dialog.tsx';

interface Work {
  readonly id: number;
  readonly title: string;
  readonly detail: string;
  /** 0…1, or null if it cannot be told. */
  readonly share: number | null;
  readonly cancel: (() => void) | null;
}

interface NoticeState {
  /** What is under way, the longest first. */
  readonly works: readonly Work[];
  /** What was not read yet, the first one first. */
  readonly reports: readonly Report[];
  /** What was found along the way, the latest first; it can be looked at again. */
  readonly notes: readonly Report[];
  readonly notesOpen: boolean;
}

interface Report {
  readonly title: string;
  readonly lines: readonly string[];
  /** Not forgotten with the document that was open. */
  readonly leads?: boolean;
}

const store = createStore<NoticeState>(() => ({ works: [], reports: [], notes: [], notesOpen: false }));

/** More lines than anybody reads; the rest is counted. */
const MOST_LINES = 200;

const linesOf = (lines: readonly string[]) => {
  const different = [...new Set(lines)];
  return different.length > MOST_LINES ? [...different.slice(0, MOST_LINES), `… and ${different.length - MOST_LINES} more.`] : different;
};
const isSame = (title: string, lines: readonly string[]) => (report: Report) => report.title === title && report.lines.join('\n') === lines.join('\n');

/** Sentences that must be read, not only seen passing by. One report does not take the place of another that was not read yet. */
export const showReport = (title: string, lines: readonly string[]) => {
  const shown = linesOf(lines);
  if (shown.length > 0) store.setState(({ reports }) => ({ reports: reports.some(isSame(title, shown)) ? reports : [...reports, { title, lines: shown }] }));
};

const MOST_NOTES = 20;

/** What a drop or a build has found: said beside the work, which goes on, and kept to be looked at again. */
export const showNotes = (title: string, lines: readonly string[], { leads = false }: { /** To what comes after the document that is open. */ readonly leads?: boolean } = {}) => {
  const shown = linesOf(lines);
  if (shown.length > 0) store.setState(({ notes }) => ({ notes: [{ title, lines: shown, leads }, ...notes.filter((note) => !isSame(title, shown)(note))].slice(0, MOST_NOTES), notesOpen: true }));
};

/** They speak of the document that was open, but for those that lead on from it. */
export const forgetNotes = () =>
  store.setState(({ notes, notesOpen }) => {
    const left = notes.filter(({ leads }) => leads).map((note) => ({ ...note, leads: false }));
    return { notes: left, notesOpen: notesOpen && left.length > 0 };
  });

let lastWork = 0;

/** Shows progress while `task` runs, beside whatever else is under way. A cancelled task must settle by itself. */
export async function withProgress<T>(title: string, task: (report: (share: number | null, detail?: string) => void, signal: AbortSignal) => Promise<T>): Promise<T> {
  const abort = new AbortController();
  const id = ++lastWork;
  const isShown = () => store.getState().works.some((work) => work.id === id);
  const show = (share: number | null, detail = '') => {
    const work: Work = { id, title, detail, share, cancel: () => abort.abort() };
    store.setState(({ works }) => ({ works: works.some((other) => other.id === id) ? works.map((other) => (other.id === id ? work : other)) : [...works, work] }));
  };
  // Short work shows nothing, so that the page does not flicker.
  let latest: [number | null, string?] = [null];
  const timer = setTimeout(() => show(...latest), 300);
  try {
    return await task((share, detail) => {
      latest = [share, detail];
      if (isShown()) show(share, detail);
    }, abort.signal);
  } finally {
    clearTimeout(timer);
    store.setState(({ works }) => ({ works: works.filter((work) => work.id !== id) }));
  }
}

/** Opens the list of notes again, while there are some. */
export function NotesButton() {
  const { notes, notesOpen } = useStore(store);
  if (notes.length === 0) return null;
  return (
    <Button aria-pressed={notesOpen} className="h-[22px] px-2 text-[12px] aria-pressed:border-ink" onClick={() => store.setState({ notesOpen: !notesOpen })}>
      Notes {notes.reduce((sum, { lines }) => sum + lines.length, 0)}
    </Button>
  );
}

function Notes({ notes }: { notes: readonly Report[] }) {
  return (
    <section aria-label="Notes" className="fixed bottom-[206px] left-[256px] z-30 flex max-h-[38vh] w-[min(400px,60vw)] flex-col border border-ink bg-panel">
      <div className="flex items-center justify-between border-b border-ink px-3 py-1">
        <h2 className="lettering">Notes</h2>
        <Button className="h-[22px] px-2 text-[12px]" onClick={() => store.setState({ notesOpen: false })}>
          Close the notes
        </Button>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard */}
      <div role="status" tabIndex={0} className="min-h-0 overflow-auto px-3 py-2 -outline-offset-2">
        {notes.map(({ title, lines }, i) => (
          <div key={`${title} ${lines[0]}`} className={i > 0 ? 'mt-2.5 border-t pt-2' : ''}>
            <h3 className="mb-1 text-faint">{title}</h3>
            <ul className="list-disc space-y-1 pl-4">{lines.map((line) => <li key={line}>{line}</li>)}</ul>
          </div>
        ))}
      </div>
    </section>
  );
}

const Progress = ({ work: { title, detail, share, cancel } }: { work: Work }) => (
  <li role="status" className="p-3">
    <div className="flex items-center justify-between gap-3">
      <div className="min-w-0">
        <div>{title}</div>
        <div className="truncate text-faint">{detail || ' '}</div>
      </div>
      {cancel && <Button onClick={cancel}>Cancel</Button>}
    </div>
    <div role="progressbar" aria-label={title} aria-valuemin={0} aria-valuemax={100} aria-valuenow={share === null ? undefined : Math.round(share * 100)} className="mt-2 h-1 overflow-hidden bg-hair">
      <div className="h-full bg-accent" style={share === null ? { width: '30%', animation: 'pass 1.2s linear infinite' } : { width: `${share * 100}%` }} />
    </div>
  </li>
);

export function Notices() {
  const { works, reports, notes, notesOpen } = useStore(store);
  const close = () => store.setState({ reports: [] });
  return (
    <>
      {works.length > 0 && (
        <ul aria-label="Under way" className="fixed bottom-6 left-1/2 z-50 w-96 max-w-[90vw] -translate-x-1/2 divide-y border border-ink bg-panel">
          {works.map((work) => (
            <Progress key={work.id} work={work} />
          ))}
        </ul>
      )}
      {notesOpen && notes.length > 0 && <Notes notes={notes} />}
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
