import type { TazzelDocument } from '@tazzel/core';
import { Cancelled } from '@tazzel/engine';
import { safeName } from '@tazzel/formats';
import { latestVersion, type PagePicture, type Remark, remarksCsv, remarksMarkdown, type ReviewEvent, reviewOf, withRemarksFile } from '@tazzel/review';
import { Copy, ExternalLink } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { download } from '../ui/download.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { sha256Of } from '../sha256.ts';
import { keepSetting, setting } from '../storage/database.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Menu, type MenuItem } from '../ui/menu.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import { eventsOf, pickRemark, useDocumentReview, usePickedRemark } from './document-review.ts';
import { closeReview, openReview, pagesOf, publishedPages, putPicture, relink } from './publish.ts';
import { RemarkList } from './remark-list.tsx';
import { reviewPage, sentArchive } from './sent-file.ts';
import { ReviewProblem, serverSource } from './source.ts';
import { isGone, newId } from './use-review.ts';

const DAYS = 60;
const KEY = 'studio key';
const addressOf = (link: string) => `${window.location.origin}/review/${link}`;

/** What clients are shown of the document, and what they say to it: by a link, or by a file where there is no server. */
export function ReviewSection() {
  const { engine, session } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const { place, isPending, review, keep } = useDocumentReview();
  const picked = usePickedRemark();
  const [note, setNote] = useState('');
  const [days, setDays] = useState(DAYS);
  const [withBefore, setWithBefore] = useState(true);
  const [key, setKey] = useState<string | null>(null);
  const [isBusy, setBusy] = useState(false);
  const links = place && 'studio' in place ? place : null;
  const isByFile = place !== null && links === null;

  /** Whatever goes wrong is said; a key that is missing is asked for. */
  const attempt = async (title: string, work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      if (error instanceof ReviewProblem && error.status === 401 && key === null) setKey('');
      if (!(error instanceof Cancelled) && (error as Error).name !== 'AbortError') showNotes(title, [(error as Error).message]);
    } finally {
      setBusy(false);
    }
  };
  const pictures = (now: TazzelDocument, put: Parameters<typeof publishedPages>[0]['put']) => withProgress('Publishing', (report, signal) => publishedPages({ engine, document: now, put, withBefore, signal, onProgress: report }));
  const publish = () =>
    attempt('Nothing was published', async () => {
      const now = session.getState().document;
      const known = key ?? (await setting(KEY, ''));
      const to = links ?? (await openReview(now.name, days, known));
      if (key) keepSetting(KEY, key);
      if (!links) await keep(to);
      const source = serverSource(to.studio);
      const { pages, problems } = await pictures(now, (bytes) => putPicture(to.studio, bytes));
      const seen = await source.publish({ after: review.seen?.review.versions.length ?? 0, note: note.trim(), pages });
      review.take(seen);
      setNote('');
      toast(`Version ${seen.review.versions.length} is published. Send the link to your client.`);
      showNotes('Published, with remarks', problems);
    });
  const saveFile = () =>
    attempt('The file was not made', async () => {
      const now = session.getState().document;
      const page = await reviewPage();
      const made = new Map<string, { picture: PagePicture; bytes: Uint8Array }>();
      const { pages, problems } = await pictures(now, async (bytes) => {
        const picture = { hash: await sha256Of(bytes), type: 'jpg' as const };
        made.set(picture.hash, { picture, bytes });
        return picture;
      });
      const at = Date.now();
      const before = await eventsOf(now.id);
      const events = [...(before.length > 0 ? before : [openedHere(now.name, at)]), { type: 'published' as const, at, note: note.trim(), pages }];
      await keep({ events });
      const { versions } = reviewOf(events);
      const name = `${safeName(now.name)}-review-${versions.length}.zip`;
      download(name, [sentArchive(page, events, made) as Uint8Array<ArrayBuffer>], 'application/zip');
      setNote('');
      toast(`${name} is in your downloads. Send it to your client; what comes back is read here.`);
      showNotes('Saved, with remarks', problems);
    });
  const readRemarks = ([file]: readonly File[]) =>
    attempt('The remarks were not read', async () => {
      const { events, added } = withRemarksFile(await eventsOf(document.id), await file.text());
      await keep({ events });
      toast(added === 0 ? 'There is nothing new in this file.' : `${added} ${added === 1 ? 'entry is' : 'entries are'} new.`);
    });
  const saveList = (name: string, text: string, type: string) => download(`${safeName(document.name)}-${name}`, [text], type);
  const copy = async (link: string) => {
    await navigator.clipboard.writeText(addressOf(link)).then(
      () => toast('The link is in the clipboard.'),
      () => showNotes('The link was not copied', ['The browser does not allow it. Select the link, and copy it by hand.']),
    );
  };
  const show = (remark: Remark) => {
    pickRemark(remark.id === picked ? null : remark.id);
    const page = pagesOf(document).find(({ name }) => name === remark.page);
    if (page && page.schemeId !== document.schemes.chosenId) actions.edit({ type: 'choose-scheme', schemeId: page.schemeId });
  };

  if (isPending) return null;
  const { seen, problem } = review;
  const latest = seen && latestVersion(seen.review);
  const next = (latest?.number ?? 0) + 1;
  const pages = pagesOf(document).length;
  const more = (): MenuItem[] => [
    ...(links
      ? [
          { label: 'A new link; the old one ends', onSelect: () => void attempt('There is no new link', async () => keep({ ...links, client: await relink(links.studio, days) }).then(review.refresh)) },
          { label: 'Close the review', onSelect: () => void attempt('The review was not closed', async () => closeReview(links.studio).then(review.refresh)) },
        ]
      : []),
    { label: 'Remarks as a table', disabled: !seen, onSelect: () => seen && saveList('remarks.csv', remarksCsv(seen.review), 'text/csv') },
    { label: 'Remarks as text', disabled: !seen, onSelect: () => seen && saveList('remarks.md', remarksMarkdown(seen.review), 'text/markdown') },
    { label: 'Begin another review', onSelect: () => void keep(null) },
  ];
  return (
    <Section title="Review" action={latest && <span className="text-[11px] text-faint">version {latest.number}</span>}>
      {place === null && <p className="mb-1 text-faint">For your client: the picture, each scheme and what was rendered, to look at closely and to put remarks in. By a link, without an account; or as a file, without a server.</p>}
      {links && (
        <div className="mb-1 flex items-center gap-1">
          <input readOnly aria-label="Link for the client" className="field figure min-w-0 flex-1 text-[11px]" value={addressOf(links.client)} onFocus={(event) => event.currentTarget.select()} />
          <IconButton label="Copy the link" onClick={() => void copy(links.client)}>
            <Copy size={13} aria-hidden />
          </IconButton>
          <a href={addressOf(links.client)} target="_blank" rel="noreferrer" aria-label="Open as the client sees it" data-hint="Open as the client sees it" className="grid size-6 place-items-center border border-transparent hover:border-rule">
            <ExternalLink size={13} aria-hidden />
          </a>
        </div>
      )}
      {problem && (
        <p role="status" className="mb-1 text-warn">
          {problem.message}
        </p>
      )}
      {seen?.review.closed && <p className="mb-1 text-warn">This review is closed: the link leads nowhere. A new link opens it again.</p>}
      {isGone(problem) ? (
        <Button className="h-8 w-full" onClick={() => void keep(null)}>
          Begin another review
        </Button>
      ) : (
        <>
          {place === null && <NumberField label="Link valid" value={days} min={1} max={730} usual={[7, 120]} step={1} digits={0} unit="days" initial={DAYS} help="How long the link works. A new one can be made at any time." onChange={(value) => setDays(Math.round(value))} />}
          {key !== null && <input aria-label="Studio key" placeholder="Studio key" className="field figure mb-1 w-full" autoComplete="off" value={key} onChange={(event) => setKey(event.currentTarget.value.trim())} />}
          <textarea aria-label="Note to this version" placeholder="What is new, or what you ask for" rows={2} maxLength={1000} className="field mb-1 !h-auto w-full resize-y py-1" value={note} onChange={(event) => setNote(event.currentTarget.value)} />
          <Check label="With what was rendered, to compare" checked={withBefore} onChange={setWithBefore} />
          <div className="mt-1.5 flex flex-wrap gap-1.5">
            {!isByFile && (
              <Button look="main" className="h-8 flex-1" disabled={isBusy} onClick={() => void publish()}>
                {latest ? `Publish version ${next}` : 'Publish for review'}
              </Button>
            )}
            {!links && (
              <Button look={isByFile ? 'main' : 'plain'} className={`h-8 ${isByFile ? 'flex-1' : ''}`} disabled={isBusy} onClick={() => void saveFile()}>
                {isByFile ? `Save version ${next} as a file` : 'As a file'}
              </Button>
            )}
            {place && <Menu trigger={<Button className="h-8">More …</Button>} items={more} />}
            {isByFile && <FileButton text="Read remarks …" label="File of remarks" accept=".json" onFiles={(files) => void readRemarks(files)} />}
          </div>
          {pages > 1 && (
            <p className="mt-1 text-[11px] text-faint">
              {pages} pictures: the main one and each scheme.
            </p>
          )}
        </>
      )}
      {seen && seen.review.remarks.length > 0 && (
        <div className="-mx-3 mt-2 max-h-[60vh] overflow-auto border-t">
          <RemarkList remarks={seen.review.remarks} by="studio" review={review} selectedId={picked} onSelect={show} showsPage={pages > 1} latest={latest?.number ?? 1} />
        </div>
      )}
    </Section>
  );
}

/** Nobody enters a file by a link: there is nothing that its hashes would belong to. */
const openedHere = (title: string, at: number): ReviewEvent => ({ type: 'opened', at, id: newId().replaceAll('-', ''), title, until: at + 1e12, client: '0'.repeat(64), studio: '0'.repeat(64) });
