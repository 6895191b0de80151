import { isJustMaterials, type MaskUse, maskUses, materialsIn } from '@tazzel/core';
import { paintIn } from '@tazzel/editor';
import { memo } from 'react';
import { useNavigate, useParams } from 'react-router';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, usePart, useWorkspace } from '../workspace/context.ts';

interface MaskFieldsProps {
  readonly use: MaskUse | null;
  /** Of what it is the mask. */
  readonly layerId: string;
  readonly correctionId?: string;
}

/** More materials than one looks through in a menu; all of them are in the schedule and under the pointer. */
const MOST_OFFERED = 300;

/** Where something works: a mask of the shelf, or a material, which then gets its mask there. */
export const MaskFields = memo(function MaskFields({ use, layerId, correctionId }: MaskFieldsProps) {
  const actions = useActions();
  const { session } = useWorkspace();
  const goToSurfaces = useGoToSurfaces();
  const masks = usePart((document) => document.masks);
  const materials = usePart((document) => document.materials);
  const mask = masks.find(({ id }) => id === use?.maskId) ?? null;
  const shared = usePart((document) => (use ? maskUses(document).filter((other) => other.maskId === use.maskId).length : 0));
  const at = { layerId, ...(correctionId === undefined ? {} : { correctionId }) };
  const onChange = (next: MaskUse | null) => void actions.edit(correctionId === undefined ? { type: 'set-layer', layerId, patch: { mask: next } } : { type: 'set-chain-correction', layerId, correctionId, patch: { mask: next } });
  const onShelf = new Set(masks.flatMap((other) => {
    const named = materialsIn(other);
    return named.length === 1 && isJustMaterials(other, named) ? named : [];
  }));
  const options: ChoiceOption<string>[] = [
    { value: 'none', label: 'None: everywhere' },
    { value: 'painted', label: 'Painted in from nothing …' },
    ...masks.map(({ id, name }) => ({ value: `mask:${id}`, label: name, group: 'Masks' })),
    ...materials.filter(({ id }) => !onShelf.has(id)).slice(0, MOST_OFFERED).map(({ id, tag, name, kind }) => ({ value: `material:${id}`, label: name === tag ? tag : `${tag} ${name}`, group: kind === 'object' ? 'Objects' : 'Materials' })),
  ];
  const choose = (value: string) => {
    const [kind, id] = value.split(':');
    if (kind === 'painted') {
      if (paintIn(session, layerId, correctionId)) goToSurfaces();
    } else if (kind === 'material') actions.edit({ type: 'mask-with-material', materialIds: [id], ...at });
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
          <Button
            className="whitespace-nowrap px-1.5"
            onClick={() => {
              actions.showMask(mask.id);
              goToSurfaces();
            }}
          >
            Edit the mask
          </Button>
          {shared > 1 && <Button className="whitespace-nowrap px-1.5" onClick={() => actions.edit({ type: 'unlink-mask', ...at })}>Own copy</Button>}
        </div>
      )}
    </>
  );
});

/** Recipes are edited among the surfaces. */
function useGoToSurfaces(): () => void {
  const navigate = useNavigate();
  const { id } = useParams();
  return () => void navigate(`/document/${id}/surfaces`);
}
