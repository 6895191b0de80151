import { type BlendModeId, blendModesFor, type ChainCorrection, correctionLabel, type Edit, findSource, isLayerType, isPictureLayer, layerLabel, type LayerPlace, layerSpec, type PictureLayer, sourceIdOf, type Zone } from '@tazzel/core';
import { ChevronDown, ChevronUp, Copy, ListPlus, Lock, LockOpen, SquareSplitHorizontal, Trash2, Ungroup, X } from 'lucide-react';
import { memo } from 'react';
import { Button, IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice } from '../ui/choice.tsx';
import { CorrectionMenu } from '../ui/correction-menu.tsx';
import { NameField } from '../ui/name-field.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line, Section } from '../ui/section.tsx';
import { useActions, usePart, useSession } from '../workspace/context.ts';
import { CorrectionParams } from './correction-params.tsx';
import { Scopes } from './scopes.tsx';
import { MaskFields } from './mask-fields.tsx';
import { LayerFields } from '../layers/layer-fields.tsx';
import { PlacementSection } from '../layers/placement-section.tsx';
import { layerKind } from '../layers/registry.ts';

const zoneText = { scene: 'under the tone line', picture: 'over the tone line' } as const;

export function LayerBench({ layer, zone }: Pick<LayerPlace, 'layer' | 'zone'>) {
  const actions = useActions();
  const change = (patch: LayerPatch, gesture?: string) => actions.edit({ type: 'set-layer', layerId: layer.id, patch }, gesture);
  const sourceId = sourceIdOf(layer);
  const source = usePart((document) => findSource(document, sourceId ?? ''));
  const what = layer.kind === 'group' ? `Group of ${layer.layers.length}` : layer.kind === 'correction' ? `${correctionLabel(layer.correction.type)} of all below` : source ? `Element ${source.name}, ${source.encoding} values` : layerLabel(layer.type);

  return (
    <>
      <Head layerId={layer.id} name={layer.name} isOn={layer.visible} isGroup={layer.kind === 'group'} isLocked={layer.locked === true} isPairable={layer.kind === 'correction' && layer.mask !== null} what={`${what}, ${zoneText[zone]}`} />
      <Section title={layer.kind === 'correction' ? 'Correction' : layer.kind === 'group' ? 'Group' : 'Layer'}>
        {layer.kind === 'correction' && <CorrectionParams use={layer.correction} layerId={layer.id} zone={zone} correctionId={null} />}
        {layer.kind === 'group' && (
          <>
            <Check label="Composite by itself, then blend" checked={layer.isolated} onChange={(isolated) => change({ isolated })} />
            {!layer.isolated && <p className="text-faint">Its layers work on what is below; opacity and mask say how much of that is seen.</p>}
          </>
        )}
        {layer.kind === 'picture' && <OwnFields layer={layer} zone={zone} />}
        {(isPictureLayer(layer) || (layer.kind === 'group' && layer.isolated)) && (
          <Line label="Blend">
            <Choice
              label="Blend mode"
              value={layer.blend}
              options={blendModesFor(zone).map((mode) => ({ value: mode.id as BlendModeId, label: mode.label, group: mode.group, hint: zone === 'scene' ? `${mode.summary} ${mode.aboveOne}` : mode.summary }))}
              onChange={(blend) => change({ blend })}
            />
          </Line>
        )}
        <OpacityField value={layer.opacity} onChange={(opacity, gesture) => change({ opacity }, gesture)} />
      </Section>

      <Scopes layerId={layer.id} zone={zone} />

      <Section title="Mask">
        <MaskFields use={layer.mask} layerId={layer.id} />
      </Section>

      {isPictureLayer(layer) && isLayerType(layer.type) && layerSpec(layer.type).isPlaced && <PlacementSection layer={layer} />}
      {isPictureLayer(layer) && <Chain layerId={layer.id} chain={layer.chain} zone={zone} />}
    </>
  );
}

type LayerPatch = Extract<Edit, { type: 'set-layer' }>['patch'];

/** What the layer is called, and what can be done with it as a whole. */
const Head = memo(function Head({ layerId, name, isOn, isGroup, isPairable, isLocked, what }: { isLocked: boolean; layerId: string; name: string; isOn: boolean; isGroup: boolean; isPairable: boolean; what: string }) {
  const actions = useActions();
  const change = (patch: LayerPatch) => actions.edit({ type: 'set-layer', layerId, patch });
  return (
    <div className="border-b border-ink px-3 py-2">
      <div className="flex items-center gap-1.5">
        <Check bare label={`${name} on`} checked={isOn} onChange={(visible) => change({ visible })} />
        <NameField label="Layer" value={name} onCommit={(next) => change({ name: next })} className="flex-1 text-[15px] font-medium" />
        <IconButton label={isLocked ? 'Unlock the layer' : 'Lock the layer'} hint="D" aria-pressed={isLocked} onClick={() => change({ locked: !isLocked })}>
          {isLocked ? <Lock size={13} aria-hidden /> : <LockOpen size={13} aria-hidden />}
        </IconButton>
        {isGroup && (
          <IconButton label="Dissolve the group" onClick={() => actions.edit({ type: 'ungroup', layerId })}>
            <Ungroup size={13} aria-hidden />
          </IconButton>
        )}
        {isPairable && (
          <IconButton label="Once more where its mask is not: a pair" onClick={() => actions.edit({ type: 'pair-correction', layerId })}>
            <SquareSplitHorizontal size={13} aria-hidden />
          </IconButton>
        )}
        <IconButton label="Duplicate the layer" onClick={() => actions.edit({ type: 'duplicate-layer', layerId })}>
          <Copy size={13} aria-hidden />
        </IconButton>
        <IconButton label="Delete the layer" onClick={() => actions.edit({ type: 'remove-layer', layerId })}>
          <Trash2 size={13} aria-hidden />
        </IconButton>
      </div>
      <p className="narrow truncate text-faint">{what}</p>
    </div>
  );
});

function OwnFields({ layer, zone }: { layer: PictureLayer; zone: Zone }) {
  if (!isLayerType(layer.type)) return <p className="text-faint">This version does not know this kind of layer. It stays in the document as it is, and shows nothing.</p>;
  const { Fields } = layerKind(layer.type);
  return Fields ? <Fields layer={layer} zone={zone} /> : <LayerFields layer={layer} />;
}

const OpacityField = ({ value, onChange }: { value: number; onChange: (opacity: number, gesture: string) => void }) => (
  <NumberField label="Opacity" value={value * 100} min={0} max={100} step={1} digits={0} unit="%" initial={100} onChange={(percent, gesture) => onChange(percent / 100, gesture)} />
);

/** The corrections of one layer alone. */
function Chain({ layerId, chain, zone }: { layerId: string; chain: readonly ChainCorrection[]; zone: Zone }) {
  const actions = useActions();
  const selectedId = useSession((state) => state.selectedCorrectionId);
  return (
    <Section
      title="Chain: this layer alone"
      action={<CorrectionMenu trigger={<Button className="h-6 px-2">Add …</Button>} edit={({ id }) => ({ type: 'add-chain-correction', layerId, correction: id })} onAdd={actions.edit} />}
    >
      {chain.length === 0 && <p className="text-faint">No corrections of its own.</p>}
      <ul>
        {chain.map((correction, index) => {
          const label = correctionLabel(correction.type);
          const open = correction.id === selectedId;
          const set = (patch: { visible?: boolean; opacity?: number; mask?: ChainCorrection['mask'] }, gesture?: string) => actions.edit({ type: 'set-chain-correction', layerId, correctionId: correction.id, patch }, gesture);
          return (
            <li key={correction.id} className="-mx-3 border-t px-3 py-1 last:pb-0">
              <div className="flex items-center gap-1">
                <Check bare label={`${label} on`} checked={correction.visible} onChange={(visible) => set({ visible })} />
                <button type="button" aria-expanded={open} onClick={() => actions.selectLayer(layerId, open ? null : correction.id)} className="flex min-w-0 flex-1 items-center gap-1 px-1 text-left">
                  <span className="truncate">{label}</span>
                  {open ? <ChevronUp size={12} aria-hidden /> : <ChevronDown size={12} aria-hidden />}
                </button>
                <IconButton label={`Move ${label} up`} disabled={index === 0} onClick={() => actions.edit({ type: 'move-chain-correction', layerId, correctionId: correction.id, index: index - 1 })}>
                  <ChevronUp size={13} aria-hidden />
                </IconButton>
                {correction.mask && (
                  <IconButton label={`${label} once more where its mask is not: a pair`} onClick={() => actions.edit({ type: 'pair-correction', layerId, correctionId: correction.id })}>
                    <SquareSplitHorizontal size={13} aria-hidden />
                  </IconButton>
                )}
                <IconButton label={`${label} for all below instead of this layer alone`} onClick={() => actions.edit({ type: 'carry-correction', layerId, correctionId: correction.id, to: null })}>
                  <ListPlus size={13} aria-hidden />
                </IconButton>
                <IconButton label={`Remove ${label}`} onClick={() => actions.edit({ type: 'remove-chain-correction', layerId, correctionId: correction.id })}>
                  <X size={13} aria-hidden />
                </IconButton>
              </div>
              {open && (
                <div className="pt-1">
                  <CorrectionParams use={correction} layerId={layerId} zone={zone} correctionId={correction.id} />
                  <OpacityField value={correction.opacity} onChange={(opacity, gesture) => set({ opacity }, gesture)} />
                  <MaskFields use={correction.mask} layerId={layerId} correctionId={correction.id} />
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </Section>
  );
}
