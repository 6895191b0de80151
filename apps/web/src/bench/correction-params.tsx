import { completeParams, correctionById, type CorrectionUse, isCorrectionId } from '@tazzel/core';
import { NumberField } from '../ui/number-field.tsx';

/** The fields of a correction, made from its declaration. */
export function CorrectionParams({ use, onChange }: { use: CorrectionUse; onChange: (params: Record<string, number>, gesture: string) => void }) {
  if (!isCorrectionId(use.type)) return <p className="text-faint">This version does not know this correction. It stays in the document as it is, and does nothing.</p>;
  const correction = correctionById(use.type);
  const values = completeParams(correction, use.params);
  return Object.entries(correction.params).map(([name, { label, min, max, step, digits, unit, help, default: initial }]) => (
    <NumberField key={name} label={label} value={values[name]} min={min} max={max} step={step} digits={digits} unit={unit} initial={initial} help={help} onChange={(value, gesture) => onChange({ [name]: value }, gesture)} />
  ));
}
