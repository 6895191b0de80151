import { blendsOf, completeParams, computesInLight, type Correction, correctionBlend, correctionById, type CorrectionUse, enteringDocument, isCorrectionId, type KeptValues, type LayerAddress, maskUseAt, spreadOf, srgbDecode, type Zone } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { WandSparkles } from 'lucide-react';
import { type ComponentType, memo, type ReactNode, useMemo, useState } from 'react';
import { fetchAnswer, questions, useAnswer } from '../answers.ts';
import { EnteringValues } from '../fields/curve-fields.tsx';
import { Entering } from '../fields/entering.tsx';
import { LensDrawing } from '../fields/lens-drawing.tsx';
import { ParamFields } from '../fields/param-fields.tsx';
import { CorrectionFiles } from './correction-files.tsx';
import { RepaintFigures } from './repaint-figures.tsx';
import { MatchSection } from './match-section.tsx';
import { PickButton } from '../fields/pick-button.tsx';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, useDocument, usePart, useWorkspace } from '../workspace/context.ts';

interface CorrectionParamsProps {
  readonly use: CorrectionUse;
  readonly layerId: string;
  readonly zone: Zone;
  /** In the layer's chain; null is the layer itself. */
  readonly correctionId: string | null;
}

const addressOf = (layerId: string, correctionId: string | null): LayerAddress => (correctionId === null ? { layerId } : { layerId, correctionId });

/** What is known about a correction where it works, by its id. */
const FIGURES: Readonly<Record<string, ComponentType<{ use: CorrectionUse; layerId: string }>>> = { repaint: RepaintFigures };

/** What is set on a drawing as well, by its id. */
const DRAWINGS: Readonly<Record<string, typeof LensDrawing>> = { focus: LensDrawing, streaks: LensDrawing };

/** The fields of a correction, made from its declaration. */
export function CorrectionParams({ use, layerId, zone, correctionId }: CorrectionParamsProps) {
  const sources = usePart((document) => document.sources);
  const actions = useActions();
  if (!isCorrectionId(use.type)) return <p className="text-faint">This version does not know this correction. It stays in the document as it is, and does nothing.</p>;
  const correction = correctionById(use.type);
  const missing = (correction.reads ?? []).filter(({ roles, isOptional }) => !isOptional && !sources.some(({ role }) => roles.includes(role)));
  const [Figures, Drawing] = [FIGURES[use.type], DRAWINGS[use.type]];
  const kinds = new Set(Object.values(correction.params).map(({ kind }) => kind));
  const change = (params: KeptValues, gesture?: string) => actions.edit({ type: 'set-params', ...addressOf(layerId, correctionId), params }, gesture);
  const values = completeParams(correction, use.params);
  const fields = (
    <>
      {Drawing && <Drawing values={values} onChange={change} />}
      <Entering correction={correction} values={values} />
      <ParamFields params={correction.params} values={values} onChange={change} />
    </>
  );
  return (
    <>
      {missing.map(({ label }) => (
        <p key={label} className="mb-1 text-warn">
          The document has no {label}, and without it nothing is changed. Add that element of the render.
        </p>
      ))}
      {kinds.has('curve') || correction.marks ? (
        <Measured layerId={layerId} correctionId={correctionId}>
          {fields}
        </Measured>
      ) : (
        fields
      )}
      {correction.facts && <p className="pb-1 text-[12px] text-faint">{correction.facts(values)}</p>}
      {Figures && correctionId === null && <Figures use={use} layerId={layerId} />}
      <CorrectionFiles type={use.type} params={values} name={correction.label} onChange={(params) => change(params)} />
      <SetByPicture correction={correction} use={use} layerId={layerId} zone={zone} correctionId={correctionId} />
      {correction.match && <MatchSection correction={correction} layerId={layerId} zone={zone} correctionId={correctionId} onFound={change} />}
      <TakesField type={use.type} blend={use.blend} layerId={layerId} zone={zone} correctionId={correctionId} />
      {kinds.has('point') && <p className="text-[12px] text-faint">Drag the handle on the picture to move its centre.</p>}
    </>
  );
}

/** What sets parameters from the picture: by a click, or by itself from how the values that come in are spread, within the mask if there is one. */
function SetByPicture({ correction, use, layerId, zone, correctionId }: CorrectionParamsProps & { correction: Correction }) {
  const { session, engine } = useWorkspace();
  const actions = useActions();
  const client = useQueryClient();
  const [problem, setProblem] = useState('');
  const { picks = [], automatic } = correction;
  if (picks.length === 0 && !automatic) return null;
  const measured = async () => {
    const { document } = session.getState();
    const mask = maskUseAt(document, layerId, correctionId);
    const isLight = computesInLight(correction, zone);
    // Over the tone line light is that of the picture's values.
    const measure = await fetchAnswer(client, engine, questions.measure(enteringDocument(document, layerId, correctionId), {}, isLight && zone === 'scene' ? 'light' : 'picture', mask), new AbortController().signal);
    const params = measure && measure.pixels > 0 ? automatic?.(spreadOf(measure, isLight && zone === 'picture' ? srgbDecode : undefined), completeParams(correction, use.params)) : null;
    setProblem(params ? '' : 'Nothing to go by: what comes in is black or empty.');
    if (params) actions.edit({ type: 'set-params', ...addressOf(layerId, correctionId), params });
  };
  return (
    <div className="flex flex-wrap gap-x-1.5 pb-1">
      {automatic && (
        <Button className="mt-1" onClick={() => void measured().catch((error: Error) => setProblem(error.message))}>
          <WandSparkles size={13} aria-hidden /> Set by the picture
        </Button>
      )}
      {picks.map(({ label }, index) => (
        <PickButton key={label} label={label} index={index} before={() => actions.selectLayer(layerId, correctionId)} />
      ))}
      {problem && (
        <p role="alert" className="mt-1 text-[12px] text-warn">
          {problem}
        </p>
      )}
    </div>
  );
}

/** What of the result is taken over. */
const TakesField = memo(function TakesField({ type, blend, layerId, zone, correctionId }: Omit<CorrectionParamsProps, 'use'> & Pick<CorrectionUse, 'type' | 'blend'>) {
  const actions = useActions();
  return (
    <Line label="Takes">
      <Choice
        label="What of it is taken"
        value={blend}
        options={blendsOf(correctionById(type), zone, correctionId !== null).map((id) => ({ value: id, label: correctionBlend(id).label, hint: correctionBlend(id).summary }))}
        onChange={(next) => actions.edit({ type: 'set-correction-blend', ...addressOf(layerId, correctionId), blend: next })}
      />
    </Line>
  );
});

/** Fields that show how the values are spread which the correction works on. */
function Measured({ layerId, correctionId, children }: { layerId: string; correctionId: string | null; children: ReactNode }) {
  const document = useDocument();
  const entering = useMemo(() => enteringDocument(document, layerId, correctionId), [document, layerId, correctionId]);
  const { data = null } = useAnswer(questions.measure(entering, {}, 'picture'), { keeps: ([what]) => what === 'measure' });
  return <EnteringValues value={data}>{children}</EnteringValues>;
}
