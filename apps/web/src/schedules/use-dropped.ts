import { useEffect, useRef } from 'react';
import { useWorkspace } from '../workspace/context.ts';
import type { Point } from '@tazzel/core';

/** What is dragged from a shelf over the picture is taken where it is let go of: a place in pixels of the full picture. `mime` is what it is called while it is dragged. */
export function useDropped(mime: string, take: (id: string, at: Point) => void): void {
  const { viewport } = useWorkspace();
  const latest = useRef(take);
  latest.current = take;
  useEffect(() => {
    const pictureUnder = ({ dataTransfer, target }: DragEvent) => (dataTransfer?.types.includes(mime) && target instanceof Element ? target.closest('[data-drop="picture"]') : null);
    const over = (event: DragEvent) => void (pictureUnder(event) && event.preventDefault());
    const drop = (event: DragEvent) => {
      const picture = pictureUnder(event);
      if (!picture) return;
      event.preventDefault();
      const box = (picture.querySelector('canvas') ?? picture).getBoundingClientRect();
      latest.current(event.dataTransfer?.getData(mime) ?? '', viewport.pointAt(event.clientX - box.left, event.clientY - box.top));
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, [mime, viewport]);
}
