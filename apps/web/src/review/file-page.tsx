/** The page of a review that was sent as a file: opened from a folder, without a server and without the rest of the program. */
import '../styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { remarksFile, readEvent, type ReviewEvent, reviewOf } from '@tazzel/review';
import { Tooltip } from 'radix-ui';
import { createRoot } from 'react-dom/client';
import { download } from '../ui/download.ts';
import { Button } from '../ui/button.tsx';
import { eventsSource } from './events-source.ts';
import { ReviewView } from './review-view.tsx';
import { useReview } from './use-review.ts';

interface Sent {
  readonly events: readonly unknown[];
  /** Addresses of pictures beside the page, by their hash. */
  readonly pictures: Readonly<Record<string, string>>;
}

const sent = (window as unknown as { tazzelReview?: Sent }).tazzelReview;
const queries = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, networkMode: 'always' }, mutations: { networkMode: 'always' } } });

function begun({ events, pictures }: Sent) {
  const published = events.map(readEvent);
  const { id } = reviewOf(published);
  const key = `tazzel review ${id}`;
  const own = (): ReviewEvent[] => {
    try {
      return (JSON.parse(localStorage.getItem(key) ?? '[]') as unknown[]).map(readEvent);
    } catch {
      return [];
    }
  };
  const all = () => [...published, ...own()];
  const source = eventsSource({
    key,
    role: 'client',
    read: async () => all(),
    write: async (next) => localStorage.setItem(key, JSON.stringify(next.slice(published.length))),
    addressOf: ({ hash }) => pictures[hash] ?? null,
  });
  return { source, all };
}

function FilePage({ review: { source, all } }: { readonly review: ReturnType<typeof begun> }) {
  const inHand = useReview(source);
  if (!inHand.seen) return null;
  const { remarks, title } = inHand.seen.review;
  return (
    <ReviewView
      source={source}
      seen={inHand.seen}
      inHand={inHand}
      foot={
        <div className="mt-auto p-2">
          <p className="pb-1 text-[12px] text-faint">What you write is kept in this browser. Save it as a file when you are done, and send that back.</p>
          <Button look="main" className="h-9 w-full" disabled={remarks.length === 0} onClick={() => download(`${title.replace(/[^\p{L}\p{N}]+/gu, '-').slice(0, 80)}-remarks.json`, [remarksFile(all())], 'application/json')}>
            Save the remarks
          </Button>
        </div>
      }
    />
  );
}

const root = createRoot(document.getElementById('root') as HTMLElement);
if (sent) {
  root.render(
    <QueryClientProvider client={queries}>
      <Tooltip.Provider>
        <FilePage review={begun(sent)} />
      </Tooltip.Provider>
    </QueryClientProvider>,
  );
} else {
  root.render(<p className="p-4">Unpack the whole archive first, and open this page in its folder: the pictures lie beside it.</p>);
}
