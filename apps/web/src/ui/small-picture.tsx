import type { TazzelDocument } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { fetchAnswer, type Question, type SmallPicture as Picture } from '../answers.ts';
import { useWorkspace } from '../workspace/context.ts';
import { smallPictures } from './small-pictures.ts';

interface SmallPictureProps {
  /** What is shown of a document; null if there is nothing. The function must stay the same as long as it asks the same. */
  readonly question: (document: TazzelDocument) => Question<Picture> | null;
  /** Waits until it is scrolled into sight, and for all others: its file may not have been read yet. */
  readonly whenSeen?: boolean;
  readonly className?: string;
  readonly style?: React.CSSProperties;
}

/** A small picture that follows the document by itself, without React. */
export function SmallPicture({ question, whenSeen = false, className = '', style }: SmallPictureProps) {
  const { engine, session } = useWorkspace();
  const client = useQueryClient();
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useRef('');
  const [isSeen, setSeen] = useState(!whenSeen);
  useEffect(() => {
    if (isSeen) return;
    const watcher = new IntersectionObserver((entries) => entries.some(({ isIntersecting }) => isIntersecting) && setSeen(true));
    watcher.observe(canvas.current as HTMLCanvasElement);
    return () => watcher.disconnect();
  }, [isSeen]);
  useEffect(() => {
    if (!isSeen) return;
    return smallPictures.follow(session, async (signal) => {
      const asked = question(session.getState().document);
      const key = JSON.stringify(asked?.key);
      if (!asked || key === shown.current) return;
      const answer = await fetchAnswer(client, engine, asked, signal);
      const target = canvas.current;
      if (!target || !answer) return;
      const { size, rgba } = answer;
      target.width = size.width;
      target.height = size.height;
      target.getContext('2d')?.putImageData(new ImageData(rgba, size.width, size.height), 0, 0);
      shown.current = key;
    }, whenSeen);
  }, [client, engine, session, question, isSeen, whenSeen]);
  return <canvas ref={canvas} width={3} height={2} aria-hidden className={className} style={style} />;
}
