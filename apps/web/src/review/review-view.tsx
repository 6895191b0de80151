import { latestVersion, type Page, pageOf, type PagePicture, type Remark, remarksOn, type Review, type Version } from '@tazzel/review';
import { MessageSquarePlus, PenLine } from 'lucide-react';
import { RadioGroup } from 'radix-ui';
import { useState } from 'react';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { RemarkList, Writer } from './remark-list.tsx';
import { type Draft, SheetPicture, type SheetTool } from './sheet-picture.tsx';
import type { ReviewSource, Seen } from './source.ts';
import type { ReviewInHand } from './use-review.ts';

const date = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' });

interface Other {
  readonly id: string;
  readonly label: string;
  readonly picture: PagePicture;
}
/** What a page can be compared with: the render before it was finished, the other pages of its version, itself in earlier ones. */
function othersOf(review: Review, version: Version, page: Page, isThere: (picture: PagePicture) => boolean): readonly Other[] {
  const isAlike = (other: Page) => Math.abs(other.width / other.height - page.width / page.height) < 0.01;
  const others: readonly Other[] = [
    ...(page.before ? [{ id: 'before', label: 'As rendered', picture: page.before }] : []),
    ...review.versions.filter(({ number }) => number < version.number).toReversed().flatMap((earlier) => {
      const there = pageOf(earlier, page.name);
      return there && isAlike(there) ? [{ id: `version ${earlier.number}`, label: `Version ${earlier.number}`, picture: there.picture }] : [];
    }),
    ...version.pages.filter((other) => other.name !== page.name && isAlike(other)).map((other) => ({ id: `page ${other.name}`, label: other.name, picture: other.picture })),
  ];
  return others.filter(({ picture }) => isThere(picture));
}

/** A review as somebody sees it who was sent it. */
export function ReviewView({ source, seen: { role, review }, inHand, foot }: { readonly source: ReviewSource; readonly seen: Seen; readonly inHand: ReviewInHand; readonly foot?: React.ReactNode }) {
  const [pageName, setPageName] = useState<string | null>(null);
  /** Null is the latest, also when another one comes. */
  const [number, setNumber] = useState<number | null>(null);
  const [otherId, setOtherId] = useState('');
  const [showing, setShowing] = useState<'picture' | 'other' | 'wipe'>('picture');
  const [selectedId, setSelectedId] = useState<string | null>(null);
  const [tool, setTool] = useState<SheetTool>('move');
  const [draft, setDraft] = useState<Draft | null>(null);

  const isThere = (picture: PagePicture) => source.addressOf(picture) !== null;
  const latest = latestVersion(review);
  const versions = review.versions.filter(({ pages }) => pages.every(({ picture }) => isThere(picture)));
  const version = versions.find((each) => each.number === number) ?? latest;
  if (!version || !latest) return <p className="p-4">Nothing was published here yet. The page shows it as soon as there is something.</p>;
  const page = pageOf(version, pageName ?? '') ?? version.pages[0];
  const others = othersOf(review, version, page, isThere);
  const other = others.find(({ id }) => id === otherId) ?? others[0] ?? null;
  const shown = other ? showing : 'picture';
  const remarks = remarksOn(review, page.name);
  const open = review.remarks.filter(({ resolved }) => !resolved).length;
  const leave = () => {
    inHand.remark.reset();
    setDraft(null);
    setTool('move');
  };
  const turnTo = (name: string) => {
    setPageName(name);
    setSelectedId(null);
    leave();
  };
  const begin = () => {
    setTool('pin');
    setSelectedId(null);
  };
  const select = (remark: Remark) => {
    setSelectedId(remark.id === selectedId ? null : remark.id);
    if (pageOf(version, remark.page)) setPageName(remark.page);
  };
  return (
    <main className="flex h-full flex-col">
      <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-ink bg-panel px-3 py-1.5">
        <h1 className="min-w-0 truncate text-[15px] font-semibold">
          <bdi>{review.title}</bdi>
        </h1>
        <span className="flex flex-wrap items-center gap-1.5">
          {version.pages.length > 1 && <Choice label="Picture" value={page.name} options={version.pages.map(({ name }) => ({ value: name, label: name }))} onChange={turnTo} className="!h-8 max-w-44" />}
          {versions.length > 1 && <Choice label="Version" value={String(version.number)} options={versions.toReversed().map((each) => ({ value: String(each.number), label: `Version ${each.number}`, hint: [date.format(each.at), each.note].filter(Boolean).join(': ') }))} onChange={(chosen) => setNumber(Number(chosen) === latest.number ? null : Number(chosen))} className="!h-8" />}
          {other && (
            <>
              <RadioGroup.Root aria-label="Compare" value={shown} onValueChange={(what) => setShowing(what as typeof showing)} orientation="horizontal" className="flex border border-rule">
                {(['picture', 'wipe', 'other'] as const).map((what) => (
                  <RadioGroup.Item key={what} value={what} className="h-[30px] max-w-32 truncate px-2 data-[state=checked]:bg-ink data-[state=checked]:text-sheet">
                    {what === 'picture' ? 'Picture' : what === 'wipe' ? 'Wipe' : others.length > 1 ? 'Other' : other.label}
                  </RadioGroup.Item>
                ))}
              </RadioGroup.Root>
              {others.length > 1 && <Choice label="Other picture" value={other.id} options={others.map(({ id, label }) => ({ value: id, label }))} onChange={setOtherId} className="!h-8 max-w-40" />}
            </>
          )}
        </span>
        <span className="ml-auto text-[12px] text-faint">
          {open === 0 ? 'Nothing open' : `${open} open`} · {date.format(version.at)}
        </span>
      </header>
      <div className="flex min-h-0 flex-1 flex-col md:flex-row">
        <div className="flex min-h-[45%] min-w-0 flex-1 flex-col">
          <SheetPicture page={page} addressOf={source.addressOf} other={other} showing={shown} remarks={remarks} selectedId={selectedId} onSelect={setSelectedId} tool={tool} draft={draft} onPlace={(place) => setDraft({ place, marks: draft?.marks ?? [] })} onMark={(mark) => setDraft(draft && { ...draft, marks: [...draft.marks, mark] })} />
        </div>
        <aside aria-label="Remarks and answers" className="flex max-h-[50%] min-h-0 flex-col overflow-auto border-t border-ink bg-panel md:max-h-none md:w-[330px] md:border-t-0 md:border-l">
          <div className="p-2">
            {draft ? (
              <Writer
                by={role}
                label="New remark"
                send="Send"
                isBusy={inHand.remark.isPending}
                problem={inHand.remark.error}
                onCancel={leave}
                onSend={(words) =>
                  inHand.remark.mutateAsync({ ...words, page: page.name, version: version.number, place: draft.place, marks: draft.marks.map((mark) => [...mark]) }).then(() => {
                    leave();
                    setSelectedId(words.id);
                  })
                }
              >
                <div className="flex items-center gap-1.5">
                  <Button aria-pressed={tool === 'draw'} className="aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-sheet" onClick={() => setTool(tool === 'draw' ? 'pin' : 'draw')}>
                    <PenLine size={13} aria-hidden /> Draw
                  </Button>
                  {draft.marks.length > 0 && <Button onClick={() => setDraft({ ...draft, marks: draft.marks.slice(0, -1) })}>Undo a line</Button>}
                  <span className="text-[11px] text-faint">{tool === 'draw' ? 'Draw in the picture.' : 'Click another place to move it.'}</span>
                </div>
              </Writer>
            ) : tool === 'pin' ? (
              <div className="flex flex-wrap items-center gap-1.5 border border-ink bg-sheet p-2">
                <span className="flex-1">Click the place in the picture.</span>
                <Button onClick={() => setDraft({ place: { x: 0.5, y: 0.5 }, marks: [] })}>The whole</Button>
                <Button onClick={leave}>Cancel</Button>
              </div>
            ) : (
              <Button look="main" className="h-9 w-full" onClick={begin}>
                <MessageSquarePlus size={15} aria-hidden /> New remark
              </Button>
            )}
          </div>
          {version.note !== '' && (
            <p className="border-b px-3 pb-2 whitespace-pre-wrap">
              <bdi>{version.note}</bdi>
            </p>
          )}
          <RemarkList remarks={review.remarks} by={role} review={inHand} selectedId={selectedId} onSelect={select} showsPage={version.pages.length > 1 || review.remarks.some((remark) => remark.page !== page.name)} latest={latest.number} />
          {review.remarks.length === 0 && <p className="px-3 pb-2 text-faint">Nothing was said yet. Put a remark where something should change.</p>}
          {foot}
        </aside>
      </div>
    </main>
  );
}
