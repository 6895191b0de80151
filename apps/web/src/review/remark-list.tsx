import { type Remark, REVIEW_LIMITS, type Role } from '@tazzel/review';
import { type FormEvent, useEffect, useRef, useState } from 'react';
import { keepSetting, setting } from '../storage/database.ts';
import { Button } from '../ui/button.tsx';
import { newId, type ReviewInHand } from './use-review.ts';

const when = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

/** The name under which somebody writes, remembered in this browser. */
export function useAuthor(role: Role): readonly [author: string, setAuthor: (author: string) => void] {
  const key = `review author ${role}`;
  const [author, set] = useState(role === 'studio' ? 'Studio' : '');
  useEffect(() => {
    void setting<string | null>(key, null).then((kept) => kept !== null && set(kept));
  }, [key]);
  return [
    author,
    (next) => {
      set(next);
      keepSetting(key, next);
    },
  ];
}

interface WriterProps {
  readonly by: Role;
  readonly label: string;
  readonly send: string;
  readonly isBusy: boolean;
  readonly problem: Error | null;
  /** @param id the same until it was taken: sent again, it is written once */
  readonly onSend: (words: { id: string; author: string; text: string }) => Promise<unknown>;
  readonly onCancel: () => void;
  readonly children?: React.ReactNode;
}

/** A form for words, with the name of who writes. What was typed stays until it was taken. */
export function Writer({ by, label, send, isBusy, problem, onSend, onCancel, children }: WriterProps) {
  const [author, setAuthor] = useAuthor(by);
  const [text, setText] = useState('');
  const id = useRef(newId());
  const words = useRef<HTMLTextAreaElement>(null);
  useEffect(() => words.current?.focus(), []);
  const submit = async (event?: FormEvent) => {
    event?.preventDefault();
    if (isBusy || text.trim() === '' || author.trim() === '') return;
    const isTaken = await onSend({ id: id.current, author: author.trim(), text: text.trim() }).then(
      () => true,
      () => false,
    );
    if (!isTaken) return;
    id.current = newId();
    setText('');
  };
  return (
    <form aria-label={label} className="flex flex-col gap-1.5 border border-ink bg-sheet p-2" onSubmit={(event) => void submit(event)}>
      {children}
      <textarea
        ref={words}
        aria-label={label}
        dir="auto"
        rows={3}
        maxLength={REVIEW_LIMITS.text}
        className="field !h-auto resize-y py-1"
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void submit();
          else if (event.key === 'Escape') onCancel();
        }}
      />
      <div className="flex flex-wrap items-center gap-1.5">
        <input aria-label="Your name" placeholder="Your name" autoComplete="name" dir="auto" maxLength={REVIEW_LIMITS.author} className="field min-w-0 flex-1 basis-28" value={author} onChange={(event) => setAuthor(event.currentTarget.value)} />
        <Button onClick={onCancel}>Cancel</Button>
        <Button type="submit" look="main" disabled={isBusy || text.trim() === '' || author.trim() === ''}>
          {send}
        </Button>
      </div>
      {problem && (
        <p role="alert" className="text-warn">
          {problem.message}
        </p>
      )}
    </form>
  );
}

interface RemarkListProps {
  readonly remarks: readonly Remark[];
  readonly by: Role;
  readonly review: ReviewInHand;
  readonly selectedId: string | null;
  readonly onSelect: (remark: Remark) => void;
  /** Said before each, as its page. */
  readonly showsPage?: boolean;
  readonly latest: number;
}

/** Remarks with their answers, those that are open first. */
export function RemarkList({ remarks, by, review, selectedId, onSelect, showsPage = false, latest }: RemarkListProps) {
  const [answering, setAnswering] = useState<string | null>(null);
  const { answer, settle } = review;
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    if (selectedId !== null) list.current?.querySelector(`[data-remark="${CSS.escape(selectedId)}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [selectedId]);
  const sorted = remarks.toSorted((a, b) => Number(a.resolved) - Number(b.resolved) || a.number - b.number);
  return (
    <ol ref={list} aria-label="Remarks" className="flex flex-col">
      {sorted.map((remark) => (
        <li key={remark.id} data-remark={remark.id} data-resolved={remark.resolved} className={`border-b py-2 pr-2 pl-2 ${remark.id === selectedId ? 'border-l-[3px] border-l-accent bg-sheet !pl-[5px]' : ''}`}>
          <button type="button" className="flex w-full items-baseline gap-2 text-left" onClick={() => onSelect(remark)}>
            <span className={`figure shrink-0 border px-1 text-[12px] ${remark.resolved ? 'border-rule text-faint' : 'border-ink'}`}>{remark.number}</span>
            <span className="min-w-0 flex-1">
              <bdi className={`block break-words whitespace-pre-wrap ${remark.resolved ? 'text-faint' : ''}`}>{remark.text}</bdi>
              <span className="text-[11px] text-faint">
                {showsPage && (
                  <>
                    <bdi>{remark.page}</bdi> ·{' '}
                  </>
                )}
                <bdi>{remark.author}</bdi> · {when.format(remark.at)}
                {remark.version !== latest && ` · version ${remark.version}`}
                {remark.resolved && ' · done'}
              </span>
            </span>
          </button>
          {remark.answers.map((each) => (
            <p key={each.id} className="mt-1 ml-7 border-l border-rule pl-2">
              <bdi className="block break-words whitespace-pre-wrap">{each.text}</bdi>
              <span className="text-[11px] text-faint">
                <bdi>{each.author}</bdi> · {when.format(each.at)}
              </span>
            </p>
          ))}
          {remark.id === selectedId && (
            <div className="mt-1.5 ml-7">
              {answering === remark.id ? (
                <Writer by={by} label={`Answer to remark ${remark.number}`} send="Answer" isBusy={answer.isPending} problem={answer.error} onCancel={() => setAnswering(null)} onSend={(words) => answer.mutateAsync({ remarkId: remark.id, ...words }).then(() => setAnswering(null))} />
              ) : (
                <div className="flex gap-1.5">
                  <Button onClick={() => setAnswering(remark.id)}>Answer</Button>
                  {(by === 'studio' || remark.resolved) && (
                    <Button disabled={settle.isPending} onClick={() => settle.mutate({ remarkId: remark.id, resolved: !remark.resolved })}>
                      {remark.resolved ? 'Open again' : 'Done'}
                    </Button>
                  )}
                </div>
              )}
              {settle.error && (
                <p role="alert" className="mt-1 text-warn">
                  {settle.error.message}
                </p>
              )}
            </div>
          )}
        </li>
      ))}
    </ol>
  );
}
