import { type Edit, PAINTED_LAYERS, type PaintedLayer, whyNot } from '@tazzel/core';
import { paintWith } from '@tazzel/editor';
import { useNavigate } from 'react-router';
import { Button } from '../ui/button.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';

export interface Way {
  readonly label: string;
  readonly help: string;
  readonly edit: Edit;
  /** Instead of the edit alone. */
  readonly run?: () => void;
}

/** Layers of a kind that are seen where they are painted. */
export function usePaintedWays(layer: (typeof PAINTED_LAYERS)[PaintedLayer]['layer']): readonly Way[] {
  const { session } = useWorkspace();
  const navigate = useNavigate();
  const paint = async (what: PaintedLayer) => {
    // Strokes and their brush have their fields there.
    if (paintWith(session, { type: 'paint-layer', what })) await navigate('../surfaces', { relative: 'path' });
  };
  return (Object.keys(PAINTED_LAYERS) as PaintedLayer[])
    .filter((what) => PAINTED_LAYERS[what].layer === layer)
    .map((what) => ({ label: WAYS[what], help: PAINTED_LAYERS[what].help, edit: { type: 'paint-layer', what }, run: () => void paint(what) }));
}
const WAYS: Readonly<Record<PaintedLayer, string>> = { mist: PAINTED_LAYERS.mist.label, smoke: PAINTED_LAYERS.smoke.label, heal: 'Heal a spot', clone: 'Copy a place', move: 'Move a place' };

/** Things that can be added, each with what it is, or why it cannot be. */
export function WaysSection({ title, ways }: { title: string; ways: readonly Way[] }) {
  const document = useDocument();
  const actions = useActions();
  return (
    <Section title={title}>
      <ul className="flex flex-col gap-2">
        {ways.map(({ label, help, edit, run }) => {
          const lack = whyNot(document, edit);
          return (
            <li key={label}>
              <Button className="w-full justify-start" disabled={lack !== null} onClick={run ?? (() => void actions.edit(edit))}>
                {label}
              </Button>
              <p className="pt-0.5 text-[12px] text-faint">{lack ?? help}</p>
            </li>
          );
        })}
      </ul>
    </Section>
  );
}
