import { type Mask, maskKey, sizeAtLevel } from '@tazzel/core';
import { useEffect, useRef } from 'react';
import { cardQueue } from '../build-up/card-queue.ts';
import { useDocument, useWorkspace } from '../workspace/context.ts';

/** Longest side of a small picture, in pixels. */
const SIDE = 128;

/** A mask as a small matte. */
export function MaskPicture({ mask, className = '' }: { mask: Mask; className?: string }) {
  const { engine } = useWorkspace();
  const document = useDocument();
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useRef('');
  const { width, height } = document.size;
  const level = Math.max(0, Math.ceil(Math.log2(Math.max(width, height) / SIDE)));
  const key = maskKey(document, mask);
  // The document changes with every edit; only what the mask depends on counts.
  const latest = useRef({ document, mask });
  latest.current = { document, mask };
  useEffect(() => {
    if (key === shown.current) return;
    return cardQueue.add(async (signal) => {
      const now = latest.current;
      const size = sizeAtLevel(now.document.size, level);
      const rgba = await engine.maskPicture(now.document, now.mask, level, { x: 0, y: 0, ...size }, { inverted: false, matte: true }, signal);
      const target = canvas.current;
      if (!target || signal.aborted) return;
      target.width = size.width;
      target.height = size.height;
      target.getContext('2d')?.putImageData(new ImageData(rgba, size.width, size.height), 0, 0);
      shown.current = key;
    });
  }, [engine, key, level]);
  return <canvas ref={canvas} width={3} height={2} aria-hidden className={`border border-rule bg-black object-contain ${className}`} style={{ aspectRatio: `${width} / ${height}` }} />;
}
