import { corrections, findMask, type Layer, layersInOrder, type Material, type TazzelDocument } from '@tazzel/core';
import { percent } from '../schedules/material-schedule.tsx';
import { Button } from '../ui/button.tsx';
import { Chip } from '../ui/chip.tsx';
import { NameField } from '../ui/name-field.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';

/** Whether a layer's mask mentions the material. */
export function correctsMaterial(document: TazzelDocument, layer: Layer, materialId: string): boolean {
  const mask = layer.mask && findMask(document, layer.mask.maskId);
  return mask?.terms.some((term) => term.materialIds.includes(materialId)) ?? false;
}

export function MaterialBench({ material }: { material: Material }) {
  const document = useDocument();
  const actions = useActions();
  const selectedLayerId = useSession((state) => state.selectedLayerId);
  const here = layersInOrder(document)
    .map(({ layer }) => layer)
    .filter((layer) => correctsMaterial(document, layer, material.id));
  return (
    <>
      <div className="flex items-center gap-2.5 border-b border-ink px-3 py-2">
        <Chip color={material.chip} large />
        <div className="min-w-0 flex-1">
          <NameField label="Material" value={material.name} onCommit={(name) => actions.edit({ type: 'rename-material', materialId: material.id, name })} className="max-w-full text-[15px] font-medium" />
          <p className="figure text-faint">
            {material.tag} · {percent(material.area)} % of the picture
          </p>
        </div>
      </div>
      <Section title="Add a correction here">
        <div className="flex flex-wrap gap-1.5">
          {corrections.map(({ id, label, zones }) => (
            <Button key={id} onClick={() => actions.edit({ type: 'correct-material', materialId: material.id, correction: id, zone: zones[0] })}>
              {label}
            </Button>
          ))}
        </div>
      </Section>
      <Section title="Works on this material">
        {here.length === 0 && <p className="text-faint">Nothing yet.</p>}
        <ul>
          {here.map((layer) => (
            <li key={layer.id}>
              <button type="button" aria-current={layer.id === selectedLayerId} onClick={() => actions.selectLayer(layer.id)} className="w-full truncate py-0.5 text-left hover:underline aria-[current=true]:font-medium">
                {layer.name}
                {layer.mask?.inverted ? ' (everywhere else)' : ''}
                {layer.visible ? '' : ' (off)'}
              </button>
            </li>
          ))}
        </ul>
      </Section>
    </>
  );
}
