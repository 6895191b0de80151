import type { Mask, TazzelDocument } from '@tazzel/core';
import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { useSession } from '../workspace/context.ts';
import { SmallPicture } from './small-picture.tsx';

/** A mask as a small matte. */
export function MaskPicture({ mask, className = '' }: { mask: Mask; className?: string }) {
  const { width, height } = useSession(({ document }) => document.size);
  const question = useCallback((document: TazzelDocument) => questions.maskPicture(document, mask), [mask]);
  return <SmallPicture question={question} className={`border border-rule bg-black object-contain ${className}`} style={{ aspectRatio: `${width} / ${height}` }} />;
}
