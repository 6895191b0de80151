import { correctionPlace, corrections, findLayer, isTrails, layersInOrder, layerSpec, readyGroups, sourceIdOf, TRAILS } from '@tazzel/core';
import { drawCourse, layerHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { GlareNote, isGlare } from '../layers/element.tsx';
import { layerKind } from '../layers/registry.ts';
import { isOfLens, LensSchedule } from '../schedules/lens-schedule.tsx';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { type Way, WaysSection } from '../bench/ways-section.tsx';
import { Section } from '../ui/section.tsx';
import { useDocument, useSession, useWorkspace } from '../workspace/context.ts';
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
  const isLens = layer != null && (isOfLens(layer) || isTrails(layer));
  const shown = new Set(layersInOrder(document).flatMap(({ layer: each }) => (each.visible ? sourceIdOf(each) ?? [] : [])));
  const glares = document.sources.filter((source) => isGlare(source) && shown.has(source.id));
  return (
    <>
      {isLens && <LayerHere />}
      {glares.length > 0 && (
        <Section title="Glare of the renderer">
          {glares.map((source) => (
            <GlareNote key={source.id} document={document} source={source} />
          ))}
        </Section>
      )}
      <AddLens />
    </>
  );
}

/** Everything that lens and film do, and some of it together. */
function AddLens() {
  const { session } = useWorkspace();
  const document = useDocument();
  // It goes over what is there: the last thing that happens to the light, or to the picture.
  const edits = LENS.map((correction): Way => ({ label: correction.label, help: correction.summary, edit: { type: 'add-correction-layer', correction: correction.id, ...correctionPlace(correction, null) } }));
  const trails: Way = { label: layerSpec(TRAILS).label, help: layerSpec(TRAILS).summary, edit: { type: 'draw-course', at: [document.size.width / 2, document.size.height - 1], goesOn: false }, run: () => drawCourse(session) };
  const groups = readyGroups.flatMap(({ id, label, summary, ...ready }): readonly Way[] => (ready.isOfLens ? [{ label, help: summary, edit: { type: 'add-ready-group', group: id } }] : []));
  return (
    <>
      <WaysSection title="Add" ways={[...edits, trails]} />
      <WaysSection title="Together" ways={groups} />
    </>
  );
}

export const lensStage: Stage = {
  Schedules,
  Bench,
  pointsAtMaterials: false,
  handles: (session) => layerHandles(session, (layer) => layerKind(layer.type).handles?.(layer, session) ?? null),
};
