/** Where a layer lies: scaled, turned, moved. */
import { type PictureLayer, type Placement, RESAMPLING_FILTERS, resamplingFilters, placementOf, SCALE_LIMITS, UNPLACED } from '@tazzel/core';
import { FlipHorizontal2, FlipVertical2, RotateCcw } from 'lucide-react';
import { Button, IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Section } from '../ui/section.tsx';
import { useActions } from '../workspace/context.ts';

export function PlacementSection({ layer }: { layer: PictureLayer }) {
  const actions = useActions();
  const placement = placementOf(layer);
  const now = placement ?? UNPLACED;
  const set = (patch: Partial<Placement>, gesture?: string) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { placement: { ...now, ...patch } } }, gesture);
  const offset = (label: string, name: 'offsetX' | 'offsetY') => <NumberField label={label} value={now[name]} min={-(2 ** 20)} max={2 ** 20} usual={[-500, 500]} step={1} digits={1} unit="px" initial={0} help="In pixels of the full picture" onChange={(value, gesture) => set({ [name]: value }, gesture)} />;
  const scale = (label: string, name: 'scaleX' | 'scaleY') => <NumberField label={label} value={now[name] * 100} min={SCALE_LIMITS[0] * 100} max={SCALE_LIMITS[1] * 100} usual={[0, 200]} step={1} digits={1} unit="%" initial={100} help="Below 0 it is mirrored" onChange={(value, gesture) => set({ [name]: value / 100 }, gesture)} />;
  return (
    <Section
      title="Where it lies"
      action={
        placement ? (
          <IconButton label="Back to where its pixels lie" onClick={() => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { placement: null } })}>
            <RotateCcw size={13} aria-hidden />
          </IconButton>
        ) : (
          <Button className="h-6 px-2" onClick={() => set({})}>
            Move it …
          </Button>
        )
      }
    >
      {!placement && <p className="text-faint">Where its pixels lie.</p>}
      {placement && (
        <>
          {offset('Across', 'offsetX')}
          {offset('Down', 'offsetY')}
          {scale('Width', 'scaleX')}
          {scale('Height', 'scaleY')}
          <NumberField label="Turned" value={now.rotationDegrees} min={-360} max={360} usual={[-180, 180]} step={1} digits={1} unit="°" initial={0} help="Clockwise, around its middle" onChange={(rotationDegrees, gesture) => set({ rotationDegrees }, gesture)} />
          <div className="flex items-center gap-1.5 py-1">
            <IconButton label="Mirror left and right" onClick={() => set({ scaleX: -now.scaleX })}>
              <FlipHorizontal2 size={14} aria-hidden />
            </IconButton>
            <IconButton label="Mirror top and bottom" onClick={() => set({ scaleY: -now.scaleY })}>
              <FlipVertical2 size={14} aria-hidden />
            </IconButton>
            <Choice label="How it is resampled" className="flex-1" value={now.filter} options={RESAMPLING_FILTERS.map((value) => ({ value, label: resamplingFilters[value].label, hint: resamplingFilters[value].hint }))} onChange={(filter) => set({ filter })} />
          </div>
        </>
      )}
    </Section>
  );
}
