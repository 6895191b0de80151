import { useMemo } from 'react';
import { useParams } from 'react-router';
import { Button } from '../ui/button.tsx';
import { ReviewView } from './review-view.tsx';
import { REVIEWS, serverSource } from './source.ts';
import { isGone, useReview } from './use-review.ts';

/** What a client sees who was sent a link. */
export function ReviewPage() {
  const { link = '' } = useParams();
  const source = useMemo(() => serverSource(link), [link]);
  const inHand = useReview(source);
  const { seen, problem } = inHand;
  if (seen && !isGone(problem))
    return (
      <ReviewView
        source={source}
        seen={seen}
        inHand={inHand}
        foot={
          <p className="mt-auto px-3 py-2 text-[12px] text-faint">
            {problem && <span role="status">The server cannot be reached at the moment; what is shown may be old. </span>}
            All remarks as a list:{' '}
            <a className="underline" href={`${REVIEWS}/${link}/remarks.csv`}>
              table
            </a>
            ,{' '}
            <a className="underline" href={`${REVIEWS}/${link}/remarks.md`}>
              text
            </a>
            .
          </p>
        }
      />
    );
  return (
    <main aria-busy={!problem} className="grid h-full place-items-center p-4">
      {problem && (
        <div className="max-w-lg border border-ink bg-sheet p-4">
          <h1 className="lettering mb-2">This review cannot be shown</h1>
          <p className="mb-3">{problem.message}</p>
          {!isGone(problem) && <Button onClick={inHand.refresh}>Try again</Button>}
        </div>
      )}
    </main>
  );
}
