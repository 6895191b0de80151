import { cardKey } from '@tazzel/core';
import { useEffect, useRef } from 'react';
import { useWorkspace } from '../workspace/context.ts';
import { cardQueue } from './card-queue.ts';

interface CardPictureProps {
  readonly kind: 'own' | 'so far';
  readonly layerId: string;
}

/** A small picture of a layer: its own, or everything up to it. It follows the document by itself, without React. */
export function CardPicture({ kind, layerId }: CardPictureProps) {
  const { engine, session } = useWorkspace();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const options = kind === 'own' ? { only: layerId } : { upto: layerId };
    let shown = '';
    return cardQueue.follow(session, async (signal) => {
      const { document } = session.getState();
      const state = cardKey(document, options);
      if (state === shown) return;
      const { size, rgba } = await engine.card(document, options, signal);
      const target = canvas.current;
      if (!target || signal.aborted) return;
      target.width = size.width;
      target.height = size.height;
      target.getContext('2d')?.putImageData(new ImageData(rgba, size.width, size.height), 0, 0);
      shown = state;
    });
  }, [engine, session, kind, layerId]);
  return <canvas ref={canvas} width={3} height={2} aria-hidden className="h-full w-full object-contain" />;
}
