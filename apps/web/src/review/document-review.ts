/** The review of the document at hand. Where it is is kept in this browser, not in the document, which may be passed on. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { useStore } from 'zustand';
import { createStore } from 'zustand/vanilla';
import { keepReviewPlace, type ReviewPlace, reviewPlace } from '../storage/library.ts';
import { usePart } from '../workspace/context.ts';
import { eventsSource } from './events-source.ts';
import { pagesOf } from './publish.ts';
import { serverSource } from './source.ts';
import { useReview } from './use-review.ts';

/** Which remark is at hand in the workspace. */
const picked = createStore<{ readonly remarkId: string | null }>(() => ({ remarkId: null }));
export const pickRemark = (remarkId: string | null): void => picked.setState({ remarkId });
export const usePickedRemark = (): string | null => useStore(picked, ({ remarkId }) => remarkId);

/** The page that the picture on the screen is. */
export const usePageName = (): string => usePart((document) => pagesOf(document).find(({ schemeId }) => schemeId === document.schemes.chosenId)?.name ?? '');

/** The events of a review that goes by file. */
export async function eventsOf(documentId: string) {
  const place = await reviewPlace(documentId);
  return place && 'events' in place ? place.events : [];
}

export function useDocumentReview() {
  const documentId = usePart(({ id }) => id);
  const queries = useQueryClient();
  const queryKey = ['review place', documentId];
  const { data: place = null, isPending } = useQuery({ queryKey, queryFn: () => reviewPlace(documentId) });
  const link = place && 'studio' in place ? place.studio : null;
  const isByFile = place !== null && 'events' in place;
  const source = useMemo(() => {
    if (link !== null) return serverSource(link);
    if (!isByFile) return null;
    const write = (events: Extract<ReviewPlace, { events: unknown }>['events']) => keepReviewPlace(documentId, { events });
    return eventsSource({ key: `events ${documentId}`, role: 'studio', read: () => eventsOf(documentId), write, addressOf: () => null });
  }, [link, isByFile, documentId]);
  const review = useReview(source);
  const keep = async (next: ReviewPlace | null) => {
    await keepReviewPlace(documentId, next);
    queries.setQueryData(queryKey, next);
    // What was said by file before is another review now.
    await queries.invalidateQueries({ queryKey: ['review'] });
    pickRemark(null);
  };
  return { place, isPending, review, keep };
}
