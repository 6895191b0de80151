import { findSource, type GlareVerdict, glareQuestions, glareVerdict, type PictureLayer, type Source, type TazzelDocument } from '@tazzel/core';
import { questions, useAnswer } from '../answers.ts';
import { useDocument } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';

const SAID: Readonly<Record<GlareVerdict, string>> = {
  held: 'The beauty holds this glare already: added to it, lamps shine twice. Render without it, build the picture from its elements, or take it away with Subtract.',
  apart: 'The beauty does not hold this glare: added, it is there once.',
  open: 'The beauty may hold this glare already: nowhere is it darker than it. If lamps shine too much, they shine twice.',
};

export const isGlare = ({ role, encoding }: Source) => role === 'glare' && encoding !== 'data';

function ElementFields({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const source = findSource(document, String(layer.params.source));
  return (
    <>
      <LayerFields layer={layer} />
      {source && isGlare(source) && <GlareNote document={document} source={source} />}
    </>
  );
}

export function GlareNote({ document, source }: { document: TazzelDocument; source: Source }) {
  const asked = glareQuestions(document, source);
  const of = (about: TazzelDocument | null | undefined) => (about ? questions.measure(about, {}, 'light') : null);
  const [glare, beauty, less, sum] = [useAnswer(of(asked?.glare)), useAnswer(of(asked?.beauty)), useAnswer(of(asked?.less)), useAnswer(of(asked?.sum))];
  if (!asked || !glare.data || !beauty.data || !less.data || (asked.sum && !sum.data)) return null;
  const verdict = glareVerdict({ glare: glare.data, beauty: beauty.data, less: less.data, sum: sum.data ?? null });
  return <p className={verdict === 'apart' ? 'text-faint' : 'text-warn'}>{SAID[verdict]}</p>;
}

export const elementKind: LayerKind = { hatch: 'hatch-element', Fields: ElementFields };
