import { findMask, isJustMaterials, type MaskUse, maskUses } from '@tazzel/core';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { Line } from '../ui/section.tsx';
import { useDocument } from '../workspace/context.ts';

interface MaskFieldsProps {
  readonly use: MaskUse | null;
  readonly onChange: (use: MaskUse | null) => void;
  readonly onMaterial: (materialId: string) => void;
  /** Opens the recipe. */
  readonly onEdit: (maskId: string) => void;
  /** Gives this use a mask of its own. */
  readonly onUnlink: () => void;
}

/** More materials than one looks through in a menu; all of them are in the schedule and under the pointer. */
const MOST_OFFERED = 300;

/** Where something works: a mask of the shelf, or a material, which then gets its mask there. */
export function MaskFields({ use, onChange, onMaterial, onEdit, onUnlink }: MaskFieldsProps) {
  const document = useDocument();
  const mask = use ? findMask(document, use.maskId) : null;
  const shared = use ? maskUses(document).filter((other) => other.maskId === use.maskId).length : 0;
  const onShelf = new Set(document.masks.flatMap((other) => (other.terms[0]?.kind === 'material' && isJustMaterials(other, other.terms[0].materialIds.slice(0, 1)) ? other.terms[0].materialIds : [])));
  const options: ChoiceOption<string>[] = [
    { value: 'none', label: 'None: everywhere' },
    ...document.masks.map(({ id, name }) => ({ value: `mask:${id}`, label: name, group: 'Masks' })),
    ...document.materials.filter(({ id }) => !onShelf.has(id)).slice(0, MOST_OFFERED).map(({ id, tag, name, kind }) => ({ value: `material:${id}`, label: name === tag ? tag : `${tag} ${name}`, group: kind === 'object' ? 'Objects' : 'Materials' })),
  ];
  const choose = (value: string) => {
    const [kind, id] = value.split(':');
    if (kind === 'material') onMaterial(id);
    else onChange(kind === 'mask' ? { maskId: id, inverted: use?.inverted ?? false, enabled: true } : null);
  };
  return (
    <>
      <Line label="Mask">
        <Choice label="Mask" value={mask ? `mask:${mask.id}` : 'none'} options={options} onChange={choose} />
      </Line>
      {use && (
        <div className="flex items-center gap-4 py-1">
          <Check label="On" checked={use.enabled} onChange={(enabled) => onChange({ ...use, enabled })} />
          <Check label="Inverted" checked={use.inverted} onChange={(inverted) => onChange({ ...use, inverted })} />
          {shared > 1 && <span className="ml-auto text-[12px] text-faint">shared by {shared}</span>}
        </div>
      )}
      {use && mask && (
        <div className="flex items-center gap-1.5">
          <MaskPicture mask={mask} className="h-7" />
          <Button onClick={() => onEdit(mask.id)}>Edit the mask</Button>
          {shared > 1 && <Button onClick={onUnlink}>Own copy</Button>}
        </div>
      )}
    </>
  );
}
