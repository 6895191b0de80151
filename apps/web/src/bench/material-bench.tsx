import { correctionsOn, findMask, type Layer, layersOn, type Material, newMask, materialTerm } from '@tazzel/core';
import { lrvOf } from '../schedules/lrv.ts';
import { percent } from '../schedules/material-schedule.tsx';
import { Button } from '../ui/button.tsx';
import { Chip } from '../ui/chip.tsx';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { NameField } from '../ui/name-field.tsx';
import { Fact, Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { srgb } from './srgb.ts';
import { Behind } from './behind.tsx';
import { SurfaceColumn } from './surface-column.tsx';

/** The materials or objects that are selected, and what can be done to them. `children` is the layer at hand, if it works on them. */
export function MaterialBench({ materials, children }: { materials: readonly Material[]; children: React.ReactNode }) {
  const document = useDocument();
  const actions = useActions();
  const selectedLayerId = useSession((state) => state.selectedLayerId);
  const ids = materials.map(({ id }) => id);
  const [first] = materials;
  const surface = first.surface !== null && materials.every((row) => row.surface === first.surface) ? first.surface : null;
  const here = [...new Map(ids.flatMap((id) => layersOn(document, id)).map((layer) => [layer.id, layer])).values()];
  const own = new Set(correctionsOn(document, ids).map((place): string => place.layer.id));
  const others = here.filter(({ id }) => !own.has(id));
  // What belongs to the surface alone stands in its column already.
  const isOther = others.some(({ id }) => id === selectedLayerId);
  const area = materials.reduce((sum, row) => sum + row.area, 0);
  const lrv = materials.length === 1 ? lrvOf(document, first) : null;
  return (
    <>
      <div className="flex items-center gap-2.5 border-b border-ink px-3 py-2">
        <Chip color={first.chip} large />
        <div className="min-w-0 flex-1">
          {materials.length === 1 ? (
            <NameField label={first.kind === 'object' ? 'Object' : 'Material'} value={first.name} onCommit={(name) => actions.edit({ type: 'rename-material', materialId: first.id, name })} className="max-w-full text-[15px] font-medium" />
          ) : (
            <p className="truncate text-[15px] font-medium">{surface ?? `${materials.length} selected`}</p>
          )}
          <p className="figure truncate text-faint">
            {materials.map(({ tag }) => tag).join(' ')} · {percent(area)} % of the picture
          </p>
        </div>
      </div>
      <SurfaceColumn materials={materials} ids={ids} />
      {others.length > 0 && (
        <Section title="Works here as well">
          <ul>
            {others.map((layer) => (
              <li key={layer.id} className="flex items-center gap-1">
                <button type="button" aria-current={layer.id === selectedLayerId} onClick={() => actions.selectLayer(layer.id)} className="min-w-0 flex-1 truncate py-0.5 text-left hover:underline aria-[current=true]:font-medium">
                  {layer.name}
                  {layer.mask?.inverted ? ' (everywhere else)' : ''}
                  {layer.visible ? '' : ' (off)'}
                </button>
                <EditMask layer={layer} />
              </li>
            ))}
          </ul>
        </Section>
      )}
      {isOther && children}
      <Section title="As a mask">
        <div className="flex items-start gap-2.5">
          <MaskPicture mask={newMask('selection', 'Selection', [materialTerm(ids)])} className="w-[96px] shrink-0" />
          <div className="flex flex-wrap gap-1.5">
            <Button onClick={() => actions.newMask(surface ?? undefined)}>Keep as a mask</Button>
            {materials.length > 1 && surface === null && <Button onClick={() => actions.edit({ type: 'group-materials', materialIds: ids, surface: materials.map(({ name }) => name).join(', ').slice(0, 60) })}>One surface</Button>}
            {surface !== null && <Button onClick={() => actions.edit({ type: 'group-materials', materialIds: ids, surface: null })}>Apart again</Button>}
          </div>
        </div>
        {surface !== null && <SurfaceName surface={surface} ids={ids} />}
      </Section>
      {materials.length === 1 && (first.mean || first.coverage) && (
        <Section title="What it is">
          <dl>
            {first.mean && (
              <Fact label="Colour">
                <span className="flex items-center gap-1.5">
                  <Chip color={srgb(first.mean)} />
                  <span className="figure text-[11px]">{srgb(first.mean).map((v) => Math.round(v * 255)).join(' ')}</span> on average
                </span>
              </Fact>
            )}
            {lrv !== null && (
              <Fact label="LRV">
                <span className="figure">{lrv.toFixed(0)}</span> of 100 of the light reflected
              </Fact>
            )}
            {first.coverage && <Fact label="Edges">exact, from a coverage matte</Fact>}
            <Behind material={first} />
          </dl>
        </Section>
      )}
    </>
  );
}

function SurfaceName({ surface, ids }: { surface: string; ids: readonly string[] }) {
  const actions = useActions();
  return (
    <p className="mt-1.5 flex items-center gap-1.5">
      <span className="narrow text-faint">Surface</span>
      <NameField label="Surface" value={surface} onCommit={(name) => actions.edit({ type: 'group-materials', materialIds: ids, surface: name })} className="flex-1" />
    </p>
  );
}

function EditMask({ layer }: { layer: Layer }) {
  const document = useDocument();
  const actions = useActions();
  const mask = layer.mask && findMask(document, layer.mask.maskId);
  return mask ? (
    <Button className="h-6 px-1.5 text-[12px]" onClick={() => actions.showMask(mask.id)}>
      Mask
    </Button>
  ) : null;
}
