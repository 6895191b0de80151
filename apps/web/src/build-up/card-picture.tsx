import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { SmallPicture } from '../ui/small-picture.tsx';

interface CardPictureProps {
  readonly kind: 'own' | 'so far';
  readonly layerId: string;
}

/** A small picture of a layer: its own, or everything up to it. */
export function CardPicture({ kind, layerId }: CardPictureProps) {
  const question = useCallback((document: Parameters<typeof questions.card>[0]) => questions.card(document, kind === 'own' ? { only: layerId } : { upto: layerId }), [kind, layerId]);
  return <SmallPicture question={question} className="h-full w-full object-contain" />;
}
