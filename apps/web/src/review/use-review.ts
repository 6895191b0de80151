import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { RemarkRequest } from '@tazzel/review';
import { ReviewProblem, type ReviewSource, type Seen } from './source.ts';

/** How often a server is asked for what others wrote. */
const EVERY_MS = 5000;

export const newId = (): string => crypto.randomUUID();

/** A review as it stands, and what may be said of it. What is sent keeps its identifier, so that sending it again writes it once. */
export function useReview(source: ReviewSource | null) {
  const queries = useQueryClient();
  const queryKey = ['review', source?.key ?? null];
  const query = useQuery({
    queryKey,
    enabled: source !== null,
    queryFn: () => (source as ReviewSource).load(),
    refetchInterval: ({ state }) => (source?.isOnServer && !isGone(state.error) ? EVERY_MS : false),
  });
  const take = { onSuccess: (seen: Seen) => void queries.setQueryData(queryKey, seen) };
  const to = () => source as ReviewSource;
  const remark = useMutation({ mutationFn: (what: RemarkRequest) => to().remark(what), ...take });
  const answer = useMutation({ mutationFn: ({ remarkId, ...what }: { remarkId: string; id: string; author: string; text: string }) => to().answer(remarkId, what), ...take });
  const settle = useMutation({ mutationFn: ({ remarkId, resolved }: { remarkId: string; resolved: boolean }) => to().settle(remarkId, resolved), ...take });
  return { seen: query.data ?? null, problem: query.error, refresh: () => void query.refetch(), take: take.onSuccess, remark, answer, settle };
}
export type ReviewInHand = ReturnType<typeof useReview>;

/** There is nothing to wait for. */
export const isGone = (error: unknown): boolean => error instanceof ReviewProblem && (error.status === 404 || error.status === 410);
