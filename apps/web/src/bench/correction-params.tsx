import { blendsOf, cardKey, completeParams, correctionBlend, correctionById, type CorrectionUse, enteringDocument, isCorrectionId, type KeptValues, type Zone } from '@tazzel/core';
import { useQuery } from '@tanstack/react-query';
import { type ReactNode, useMemo } from 'react';
import { EnteringValues } from '../fields/curve-fields.tsx';
import { ParamFields } from '../fields/param-fields.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';

interface CorrectionParamsProps {
  readonly use: CorrectionUse;
  readonly layerId: string;
  readonly zone: Zone;
  /** In the layer's chain; null is the layer itself. */
  readonly correctionId: string | null;
}

/** The fields of a correction, made from its declaration. */
export function CorrectionParams({ use, layerId, zone, correctionId }: CorrectionParamsProps) {
  const { sources } = useDocument();
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
      <Line label="Takes">
        <Choice
          label="What of it is taken"
          value={use.blend}
          options={blendsOf(correction, zone, correctionId !== null).map((id) => ({ value: id, label: correctionBlend(id).label, hint: correctionBlend(id).summary }))}
          onChange={(blend) => actions.edit({ type: 'set-correction-blend', layerId, ...(correctionId === null ? {} : { correctionId }), blend })}
        />
      </Line>
      {kinds.has('point') && <p className="text-[12px] text-faint">Drag the handle on the picture to move its centre.</p>}
    </>
  );
}

/** Fields that show how the values are spread which the correction works on. */
function Measured({ layerId, correctionId, children }: { layerId: string; correctionId: string | null; children: ReactNode }) {
  const { engine } = useWorkspace();
  const document = useDocument();
  const entering = useMemo(() => enteringDocument(document, layerId, correctionId), [document, layerId, correctionId]);
  const { data = null } = useQuery({ queryKey: ['measure', document.id, cardKey(entering, {}), 'picture'], queryFn: ({ signal }) => engine.measure(entering, { options: {}, scale: 'picture', mask: null, signal }), gcTime: 0, staleTime: Number.POSITIVE_INFINITY, retry: false, placeholderData: (before) => before });
  return <EnteringValues value={data}>{children}</EnteringValues>;
}
