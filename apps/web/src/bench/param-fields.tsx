import type { ColorParams, NumberParam, ParamValues } from '@tazzel/core';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line } from '../ui/section.tsx';
import { ColorField } from '../ui/color-field.tsx';

interface ParamFieldsProps {
  readonly params: Readonly<Record<string, NumberParam>>;
  readonly values: ParamValues;
  /** Numbers that are one colour together. */
  readonly colors?: readonly ColorParams[];
  readonly onChange: (patch: Record<string, number>, gesture?: string) => void;
}

/** The fields of what is declared with parameters. */
export function ParamFields({ params, values, colors = [], onChange }: ParamFieldsProps) {
  const inColor = new Set(colors.flatMap(({ red, green, blue }) => [red, green, blue]));
  return (
    <>
      {colors.map(({ label, red, green, blue }) => (
        <ColorField key={label} isSurface label={label} value={[values[red], values[green], values[blue]]} onChange={([r, g, b], gesture) => onChange({ [red]: r, [green]: g, [blue]: b }, gesture)} />
      ))}
      {Object.entries(params)
        .filter(([name]) => !inColor.has(name))
        .map(([name, { label, min, max, step, digits, unit, help, choices, usual, default: initial }]) =>
          choices ? (
            <Line key={name} label={label}>
              <Choice label={label} value={String(values[name])} options={choices.map((text, i) => ({ value: String(i), label: text }))} onChange={(value) => onChange({ [name]: Number(value) })} />
            </Line>
          ) : (
            <NumberField key={name} label={label} value={values[name]} min={min} max={max} usual={usual} step={step} digits={digits} unit={unit} initial={initial} help={help} onChange={(value, gesture) => onChange({ [name]: value }, gesture)} />
          ),
        )}
    </>
  );
}
