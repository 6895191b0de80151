/** The fields of whatever is declared with parameters: one for each kind. A parameter takes one row, but for those that are drawn. */
import { findMaterial, isRelevant, type KeptValues, layersInOrder, LIMITS, type Param, type ParamTable } from '@tazzel/core';
import type { ComponentType } from 'react';
import { X } from 'lucide-react';
import { IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Chip } from '../ui/chip.tsx';
import { Choice } from '../ui/choice.tsx';
import { ColorField } from '../ui/color-field.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line } from '../ui/section.tsx';
import { useDocument } from '../workspace/context.ts';
import { CurveFields } from './curve-fields.tsx';
import { LutField } from './lut-field.tsx';
import type { FieldProps, GroupProps } from './field.ts';
import { BandsFields, TonesFields } from './parted-fields.tsx';
import { TextField } from './text-field.tsx';

type Of<K extends Param['kind']> = Extract<Param, { kind: K }>;

function ChoiceField({ param: { label, options }, value, onChange }: FieldProps<Of<'choice'>>) {
  return (
    <Line label={label}>
      <Choice label={label} value={value} options={Object.entries(options).map(([id, text]) => ({ value: id, label: text }))} onChange={onChange} />
    </Line>
  );
}

/** One of the parts of the document that a value may name; what it names now stays in the list, gone or not. */
function ReferenceField({ label, value, parts, whyNot, onChange }: { label: string; value: string; parts: readonly { readonly id: string; readonly name: string }[]; whyNot: (value: string) => string | null; onChange: (value: string) => void }) {
  const offered = parts.filter(({ id }) => id === value || whyNot(id) === null);
  const options = [...(offered.some(({ id }) => id === value) ? [] : [{ value, label: 'Nothing' }]), ...offered.map(({ id, name }) => ({ value: id, label: name }))];
  return (
    <Line label={label}>
      <Choice label={label} value={value} options={options} onChange={onChange} />
    </Line>
  );
}

/** Those with the roles that are looked for come first; where none is named, the usual one is shown. */
function ElementField({ param: { label, roles = [] }, value, ...props }: FieldProps<Of<'element'>>) {
  const { sources } = useDocument();
  const fitting = roles.flatMap((role) => sources.filter((source) => source.role === role));
  const parts = [...fitting, ...sources.filter((source) => !fitting.includes(source))];
  return <ReferenceField label={label} parts={parts} value={value === '' ? (fitting[0]?.id ?? '') : value} {...props} />;
}

function LayerField({ param: { label }, ...props }: FieldProps<Of<'layer'>>) {
  return <ReferenceField label={label} parts={layersInOrder(useDocument()).map(({ layer }) => layer)} {...props} />;
}

function MaskField({ param: { label }, ...props }: FieldProps<Of<'mask'>>) {
  return <ReferenceField label={label} parts={useDocument().masks} {...props} />;
}

/** A mix that was kept, or the one on the light board. */
function ScenarioField({ param: { label }, ...props }: FieldProps<Of<'scenario'>>) {
  return <ReferenceField label={label} parts={[{ id: '', name: 'The light board' }, ...useDocument().light.scenarios]} {...props} />;
}

/** Rows of the schedule, one below the other, and a list to add more from. */
function MaterialsField({ value, onChange }: FieldProps<Of<'materials'>>) {
  const document = useDocument();
  const rows = value.flatMap((id) => findMaterial(document, id) ?? []);
  const others = document.materials.filter(({ id }) => !value.includes(id));
  return (
    <>
      <ul className="mb-1">
        {rows.map((row) => (
          <li key={row.id} className="flex items-center gap-1.5 py-px">
            <Chip color={row.chip} />
            <span className="figure">{row.tag}</span>
            <span className="min-w-0 flex-1 truncate">{row.name === row.tag ? '' : row.name}</span>
            <IconButton label={`Take ${row.name} out`} onClick={() => onChange(value.filter((id) => id !== row.id))}>
              <X size={12} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <Line label="Add">
          <Choice label="Add a material" value="" options={others.map(({ id, tag, name, kind }) => ({ value: id, label: name === tag ? tag : `${tag} ${name}`, group: kind === 'object' ? 'Objects' : 'Materials' }))} onChange={(id) => onChange([...value, id])} />
        </Line>
      )}
    </>
  );
}

/** Coordinates as rows of their own, under one heading. */
function CoordinateFields<V extends readonly number[]>({ label, help, value, names, limits: [min, max], step, digits, unit, initial, onChange }: { label: string; help: string; value: V; names: readonly string[]; limits: readonly [number, number]; step: number; digits: number; unit: string; initial: V; onChange: (value: V, gesture: string) => void }) {
  return names.map((name, i) => <NumberField key={name} label={`${label} ${name}`} value={value[i]} min={min} max={max} step={step} digits={digits} unit={unit} initial={initial[i]} help={help} onChange={(next, gesture) => onChange(value.with(i, next) as unknown as V, gesture)} />);
}

/** The field of each kind: one for every parameter, or one for all of them where one choice serves them. A kind without a field does not compile. */
const fields: { readonly [K in Param['kind']]: { readonly one: ComponentType<FieldProps<Of<K>>> } | { readonly all: ComponentType<GroupProps<Of<K>>> } } = {
  number: { one: ({ param: { label, min, max, usual, step, byFactors, digits, unit, help, default: initial }, value, onChange }) => <NumberField label={label} value={value} min={min} max={max} usual={usual} step={step} byFactors={byFactors} digits={digits} unit={unit} initial={initial} help={help} onChange={onChange} /> },
  choice: { one: ChoiceField },
  flag: {
    one: ({ param: { label, help }, value, onChange }) => (
      <div className="py-0.5" title={help}>
        <Check label={label} checked={value} onChange={onChange} />
      </div>
    ),
  },
  color: { one: ({ param: { label, of }, value, onChange }) => <ColorField label={label} isSurface={of === 'surface'} value={value} onChange={onChange} /> },
  point: { one: ({ param: { label, unit, help, default: initial }, value, onChange }) => <CoordinateFields label={label} help={help} value={value} names={['across', 'down']} limits={unit === '%' ? [0, 100] : [-LIMITS.coordinate, LIMITS.coordinate]} step={unit === '%' ? 0.5 : 1} digits={unit === '%' ? 1 : 0} unit={unit} initial={initial} onChange={onChange} /> },
  element: { one: ElementField },
  layer: { one: LayerField },
  direction: { one: ({ param: { label, help, default: initial }, value, onChange }) => <CoordinateFields label={label} help={help} value={value} names={['X', 'Y', 'Z']} limits={[-1, 1]} step={0.05} digits={3} unit="" initial={initial} onChange={onChange} /> },
  moment: {
    one: ({ param: { label, help }, value, onChange }) => (
      <Line label={label}>
        <input type="datetime-local" aria-label={label} title={help} className="field w-full" value={value.replace('Z', '')} onChange={({ target }) => target.value !== '' && onChange(`${target.value}Z`)} />
      </Line>
    ),
  },
  mask: { one: MaskField },
  scenario: { one: ScenarioField },
  materials: { one: MaterialsField },
  places: { one: ({ param: { least, most } }) => <p className="text-[12px] text-faint">Drag the handles on the picture{most > least ? '; a double click on an edge adds a corner, on a corner takes it away' : ''}.</p> },
  paths: { one: ({ value }) => <p className="text-[12px] text-faint">{value.length} {value.length === 1 ? 'line' : 'lines'}: drag their handles on the picture; a double click on a line adds a place, on a place takes it away.</p> },
  figures: { one: ({ value }) => <p className="text-[12px] text-faint">{value.length === 1 ? 'One figure' : `${value.length} figures`}: see them one by one under Entourage.</p> },
  strokes: { one: ({ value }) => <p className="text-[12px] text-faint">{value.length} strokes.</p> },
  lut: { one: LutField },
  text: { one: TextField },
  curve: { all: CurveFields },
  bands: { all: BandsFields },
  tones: { all: TonesFields },
};

interface ParamFieldsProps {
  readonly params: ParamTable;
  readonly values: KeptValues;
  readonly onChange: (patch: KeptValues, gesture?: string) => void;
  /** Why a change would be refused: such values are not offered. */
  readonly whyNot?: (patch: KeptValues) => string | null;
}

export function ParamFields({ params, values, onChange, whyNot = () => null }: ParamFieldsProps) {
  const entries = Object.entries(params).filter(([, param]) => isRelevant(param, values));
  return entries.map(([name, param]) => {
    const field = fields[param.kind];
    if ('one' in field) {
      const Field = field.one as ComponentType<FieldProps<Param>>;
      return <Field key={name} param={param} value={values[name]} onChange={(value, gesture) => onChange({ [name]: value }, gesture)} whyNot={(value) => whyNot({ [name]: value })} />;
    }
    const Group = field.all as ComponentType<GroupProps<Param>>;
    const alike = entries.filter(([, { kind }]) => kind === param.kind);
    return alike[0][0] === name ? <Group key={param.kind} params={alike} values={values} onChange={onChange} /> : null;
  });
}
