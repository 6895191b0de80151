import { useEffect, useState } from 'react';

/**
 * Counts up to a number, some at each frame: what is drawn piece by piece holds nothing else up. Once it has been reached, what comes later is drawn
 * with the next frames.
 */
export function usePieces(count: number, step = 1, first = 0): number {
  const [shown, setShown] = useState(first);
  useEffect(() => {
    if (shown >= count) return;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const frame = requestAnimationFrame(() => {
      timer = setTimeout(() => setShown((before) => Math.min(count, before + step)));
    });
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(timer);
    };
  }, [shown, count, step]);
  return Math.min(shown, count);
}
