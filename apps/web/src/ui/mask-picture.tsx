import { type Mask, maskKey, sizeAtLevel } from '@tazzel/core';
import { useEffect, useRef } from 'react';
import { cardQueue } from '../build-up/card-queue.ts';
import { useSession, useWorkspace } from '../workspace/context.ts';

/** Longest side of a small picture, in pixels. */
const SIDE = 128;

/** A mask as a small matte. It follows the document by itself, without React. */
export function MaskPicture({ mask, className = '' }: { mask: Mask; className?: string }) {
  const { engine, session } = useWorkspace();
  const { width, height } = useSession(({ document }) => document.size);
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useRef('');
  const latest = useRef(mask);
  latest.current = mask;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another recipe is looked at as soon as it comes
  useEffect(
    () =>
      cardQueue.follow(session, async (signal) => {
        const { document } = session.getState();
        const key = maskKey(document, latest.current);
        if (key === shown.current) return;
        const level = Math.max(0, Math.ceil(Math.log2(Math.max(document.size.width, document.size.height) / SIDE)));
        const size = sizeAtLevel(document.size, level);
        const rgba = await engine.maskPicture(document, latest.current, level, { x: 0, y: 0, ...size }, { inverted: false, matte: true }, signal);
        const target = canvas.current;
        if (!target || signal.aborted) return;
        target.width = size.width;
        target.height = size.height;
        target.getContext('2d')?.putImageData(new ImageData(rgba, size.width, size.height), 0, 0);
        shown.current = key;
      }),
    [engine, session, mask],
  );
  return <canvas ref={canvas} width={3} height={2} aria-hidden className={`border border-rule bg-black object-contain ${className}`} style={{ aspectRatio: `${width} / ${height}` }} />;
}
