import { remarksOn } from '@tazzel/review';
import { usePart, useViewport, useWorkspace } from '../workspace/context.ts';
import { pickRemark, useDocumentReview, usePageName, usePickedRemark } from './document-review.ts';

/** Remarks of clients where they were put, over the picture that one works on. */
export function ReviewPins() {
  const { viewport } = useWorkspace();
  const { review } = useDocumentReview();
  const size = usePart((document) => document.size);
  const page = usePageName();
  const picked = usePickedRemark();
  useViewport();
  if (!review.seen) return null;
  const { width, height } = size;
  const at = (x: number, y: number) => viewport.cssOf([x * width, y * height]);
  const remarks = remarksOn(review.seen.review, page).filter(({ resolved, id }) => !resolved || id === picked);
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden" data-testid="review-pins">
      <svg aria-hidden="true" className="absolute inset-0 h-full w-full">
        {remarks.flatMap(({ id, marks }) =>
          marks.map((mark, i) => {
            const d = mark.reduce((path, value, k) => (k % 2 === 1 ? path : `${path}${k === 0 ? 'M' : 'L'}${Object.values(at(value, mark[k + 1])).map((one) => one.toFixed(1)).join(' ')}`), '');
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: lines of a remark never change
              <g key={`${id} ${i}`} fill="none" strokeLinecap="round" strokeLinejoin="round">
                <path d={d} className="stroke-black/70" strokeWidth={4} />
                <path d={d} className="stroke-white" strokeWidth={id === picked ? 2 : 1.5} />
              </g>
            );
          }),
        )}
      </svg>
      {remarks.map(({ id, place, number, text }) => {
        const { x, y } = at(place.x, place.y);
        return (
          <button key={id} type="button" aria-label={`Remark ${number}: ${text.slice(0, 80)}`} aria-pressed={id === picked} onClick={() => pickRemark(id === picked ? null : id)} className={`figure pointer-events-auto absolute flex h-5 min-w-5 -translate-y-full items-center justify-center border-l-2 px-1 text-[11px] leading-none ${id === picked ? 'z-10 border-accent bg-accent text-on-accent' : 'border-ink bg-sheet text-ink'}`} style={{ left: x, top: y }}>
            {number}
          </button>
        );
      })}
    </div>
  );
}
