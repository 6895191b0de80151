import { completeParams, correctionById, type CorrectionUse, isCorrectionId } from '@tazzel/core';
import { useDocument } from '../workspace/context.ts';
import { ParamFields } from './param-fields.tsx';

/** The fields of a correction, made from its declaration. */
export function CorrectionParams({ use, onChange }: { use: CorrectionUse; onChange: (params: Record<string, number>, gesture?: string) => void }) {
  const { sources } = useDocument();
  if (!isCorrectionId(use.type)) return <p className="text-faint">This version does not know this correction. It stays in the document as it is, and does nothing.</p>;
  const correction = correctionById(use.type);
  const missing = (correction.work === 'points' ? (correction.reads ?? []) : []).filter(({ roles, isOptional }) => !isOptional && !sources.some(({ role }) => roles.includes(role)));
  return (
    <>
      {missing.map(({ label }) => (
        <p key={label} className="mb-1 text-warn">
          The document has no {label}, and without it nothing is changed. Add that element of the render.
        </p>
      ))}
      <ParamFields params={correction.params} colors={correction.colors} values={completeParams(correction, use.params)} onChange={onChange} />
      {correction.points && <p className="text-[12px] text-faint">Drag the handle on the picture to move its centre.</p>}
    </>
  );
}
