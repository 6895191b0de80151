/** What belongs to one kind of layer: its fill, what it shows, where it lies. */
import { FILL_SHAPES, type Fill, findLayer, type Layer, layersInOrder, type PictureLayer, type Placement, PLACEMENT_FILTERS, placementFilters, placementOf, pictureKinds, SCALE_LIMITS, type Size, snapshotProblem, UNPLACED } from '@tazzel/core';
import { FlipHorizontal2, FlipVertical2, RotateCcw } from 'lucide-react';
import { Button, IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { ColorField } from '../ui/color-field.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line, Section } from '../ui/section.tsx';
import { useActions, useDocument } from '../workspace/context.ts';

type Light = readonly [number, number, number];
const shapes: Readonly<Record<Fill['shape'], string>> = { plain: 'One colour', linear: 'Ramp along a line', radial: 'Ramp around a point' };

/** Where a ramp begins to be drawn: from top to bottom, or from the middle to the nearer edge. */
function placesFor(shape: Fill['shape'], { width, height }: Size): Partial<Fill> {
  const middle = [width / 2, height / 2] as const;
  return shape === 'radial' ? { start: middle, end: [middle[0], middle[1] + Math.min(width, height) / 2] } : shape === 'linear' ? { start: [middle[0], 0], end: [middle[0], height] } : {};
}

export function FillFields({ layer }: { layer: Extract<Layer, { kind: 'fill' }> }) {
  const actions = useActions();
  const { size } = useDocument();
  const { fill } = layer;
  const set = (patch: Partial<Fill>, gesture?: string) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { fill: { ...fill, ...patch } } }, gesture);
  const end = (name: 'from' | 'to', label: string) => {
    const [red, green, blue, alpha] = fill[name];
    return (
      <>
        <ColorField label={label} value={[red, green, blue]} onChange={([r, g, b]: Light, gesture) => set({ [name]: [r, g, b, alpha] }, gesture)} />
        {fill.shape !== 'plain' && <NumberField label={`${label}, cover`} value={alpha * 100} min={0} max={100} step={1} digits={0} unit="%" initial={100} help="0 is transparent" onChange={(percent, gesture) => set({ [name]: [red, green, blue, percent / 100] }, gesture)} />}
      </>
    );
  };
  return (
    <>
      <Line label="Fill">
        <Choice label="Shape of the fill" value={fill.shape} options={FILL_SHAPES.map((value) => ({ value, label: shapes[value] }))} onChange={(shape) => set({ shape, ...placesFor(shape, size) })} />
      </Line>
      {end('from', fill.shape === 'plain' ? 'Colour' : 'Begins with')}
      {fill.shape !== 'plain' && end('to', 'Ends with')}
      {fill.shape !== 'plain' && <p className="text-[12px] text-faint">Drag the two handles on the picture to place the ramp.</p>}
    </>
  );
}

export function SnapshotFields({ layer }: { layer: Extract<Layer, { kind: 'snapshot' }> }) {
  const document = useDocument();
  const actions = useActions();
  const below = layersInOrder(document).filter(({ layer: other }) => snapshotProblem(document, layer.id, other.id) === null);
  const problem = snapshotProblem(document, layer.id, layer.layerId);
  const options = [...(findLayer(document, layer.layerId) && problem === null ? [] : [{ value: layer.layerId, label: 'Nothing' }]), ...below.map(({ layer: other }) => ({ value: other.id, label: other.name }))];
  return (
    <>
      <Line label="Shows after">
        <Choice label="The layer after which the picture is shown" value={layer.layerId} options={options} onChange={(layerId) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { layerId } })} />
      </Line>
      {problem && <p className="text-warn">It shows nothing: {problem}</p>}
    </>
  );
}

/** Where a layer lies. */
export function PlacementSection({ layer }: { layer: PictureLayer }) {
  const actions = useActions();
  if (!pictureKinds[layer.kind].isPlaced) return null;
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
            <Choice label="How it is resampled" className="flex-1" value={now.filter} options={PLACEMENT_FILTERS.map((value) => ({ value, label: placementFilters[value].label, hint: placementFilters[value].hint }))} onChange={(filter) => set({ filter })} />
          </div>
        </>
      )}
    </Section>
  );
}
