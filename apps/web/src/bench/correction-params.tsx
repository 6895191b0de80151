import { blendsOf, completeParams, correctionBlend, correctionById, type CorrectionUse, enteringDocument, isCorrectionId, type KeptValues, type Zone } from '@tazzel/core';
import { memo, type ReactNode, useMemo } from 'react';
import { questions, useAnswer } from '../answers.ts';
import { EnteringValues } from '../fields/curve-fields.tsx';
import { ParamFields } from '../fields/param-fields.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, useDocument, usePart } from '../workspace/context.ts';

interface CorrectionParamsProps {
  readonly use: CorrectionUse;
  readonly layerId: string;
  readonly zone: Zone;
  /** In the layer's chain; null is the layer itself. */
  readonly correctionId: string | null;
}

/** The fields of a correction, made from its declaration. */
export function CorrectionParams({ use, layerId, zone, correctionId }: CorrectionParamsProps) {
  const sources = usePart((document) => document.sources);
  const actions = useActions();
  if (!isCorrectionId(use.type)) return <p className="text-faint">This version does not know this correction. It stays in the document as it is, and does nothing.</p>;
  const correction = correctionById(use.type);
  const missing = (correction.work === 'points' ? (correction.reads ?? []) : []).filter(({ roles, isOptional }) => !isOptional && !sources.some(({ role }) => roles.includes(role)));
  const kinds = new Set(Object.values(correction.params).map(({ kind }) => kind));
  const change = (params: KeptValues, gesture?: string) => actions.edit({ type: 'set-params', layerId, ...(correctionId === null ? {} : { correctionId }), params }, gesture);
  const fields = <ParamFields params={correction.params} values={completeParams(correction, use.params)} onChange={change} />;
  return (
    <>
      {missing.map(({ label }) => (
        <p key={label} className="mb-1 text-warn">
          The document has no {label}, and without it nothing is changed. Add that element of the render.
        </p>
      ))}
      {kinds.has('curve') ? (
        <Measured layerId={layerId} correctionId={correctionId}>
          {fields}
        </Measured>
      ) : (
        fields
      )}
      <TakesField type={use.type} blend={use.blend} layerId={layerId} zone={zone} correctionId={correctionId} />
      {kinds.has('point') && <p className="text-[12px] text-faint">Drag the handle on the picture to move its centre.</p>}
    </>
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
        onChange={(next) => actions.edit({ type: 'set-correction-blend', layerId, ...(correctionId === null ? {} : { correctionId }), blend: next })}
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
