import { correctionById, correctionPlace, corrections, findLayer, isCorrectionId, readyGroups, whyNot } from '@tazzel/core';
import { layerHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { layerKind } from '../layers/registry.ts';
import { LensSchedule } from '../schedules/lens-schedule.tsx';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { Button } from '../ui/button.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import type { Stage } from './stage.ts';

const Schedules = () => (
  <>
    <LensSchedule />
    <MaskSchedule />
  </>
);

const LENS = corrections.filter(({ group }) => group === 'Lens');

function Bench() {
  const document = useDocument();
  const layerId = useSession((state) => state.selectedLayerId);
  const layer = layerId ? findLayer(document, layerId)?.layer : null;
  const isLens = layer?.kind === 'correction' && isCorrectionId(layer.correction.type) && correctionById(layer.correction.type).group === 'Lens';
  return (
    <>
      {isLens && <LayerHere />}
      <AddLens />
    </>
  );
}

/** Everything that lens and film do, and some of it together. */
function AddLens() {
  const document = useDocument();
  const actions = useActions();
  const ready = readyGroups.filter(({ isOfLens }) => isOfLens);
  // It goes over what is there: the last thing that happens to the light, or to the picture.
  const edits = LENS.map((correction) => ({ label: correction.label, help: correction.summary, edit: { type: 'add-correction-layer', correction: correction.id, ...correctionPlace(correction, null) } as const }));
  const groups = ready.map(({ id, label, summary }) => ({ label, help: summary, edit: { type: 'add-ready-group', group: id } as const }));
  return (
    <>
      {[['Add', edits] as const, ['Together', groups] as const].map(([title, ways]) => (
        <Section key={title} title={title}>
          <ul className="flex flex-col gap-2">
            {ways.map(({ label, help, edit }) => (
              <li key={label}>
                <Button className="w-full justify-start" disabled={whyNot(document, edit) !== null} onClick={() => void actions.edit(edit)}>
                  {label}
                </Button>
                <p className="pt-0.5 text-[12px] text-faint">{help}</p>
              </li>
            ))}
          </ul>
        </Section>
      ))}
    </>
  );
}

export const lensStage: Stage = {
  Schedules,
  Bench,
  pointsAtMaterials: false,
  handles: (session) => layerHandles(session, (layer) => layerKind(layer.type).handles?.(layer, session) ?? null),
};
