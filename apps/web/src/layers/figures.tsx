import { type Crowd, crowdAround, FIGURE_METRES, FIGURE_SHELF, figuresValues, findSource, groundElement, heightAt, layerSpec, MOST_FIGURES, type PictureLayer, type PlacedFigure } from '@tazzel/core';
import { figureHandles } from '@tazzel/editor';
import { Copy, FlipHorizontal2, Footprints, Trash2, Users } from 'lucide-react';
import { useState } from 'react';
import { Attempts } from '../ui/attempts.tsx';
import { IconButton } from '../ui/button.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Fold } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';

/** What a figure of the shelf is meant to be as tall as; else as it is. */
const usualMetres = (fileName: string, fallback: number): number => FIGURE_SHELF.find(({ id }) => `${id}.png` === fileName)?.heightMetres ?? fallback;

/** The figures one by one, then what they have in common. */
function FigureFields({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const actions = useActions();
  const { session, engine } = useWorkspace();
  const [openAt, setOpenAt] = useState(0);
  const { figures } = figuresValues(layer);
  const set = (next: readonly PlacedFigure[], gesture?: string) => actions.edit({ type: 'set-params', layerId: layer.id, params: { figures: next } }, gesture);
  const open = Math.min(openAt, figures.length - 1);
  const chosen = figures[open];
  const nameOf = ({ sourceId }: PlacedFigure) => findSource(document, sourceId)?.name ?? 'A picture that is gone';
  const change = (patch: Partial<PlacedFigure>, gesture?: string) => set(figures.with(open, { ...chosen, ...patch }), gesture);
  const onGround = async () => {
    const now = session.getState().document;
    const metres = groundElement(now);
    if (!metres) return 'There is no element of depths or distances: they stand on level ground.';
    const heights = await Promise.all(figures.map(async ({ at }) => heightAt(now, at, (await engine.valuesAt(metres, Math.floor(at[0]), Math.floor(at[1])))?.[0] ?? null, metres.role)));
    set(figures.map((figure, i) => ({ ...figure, groundMetres: heights[i] ?? figure.groundMetres })));
    return heights.some((height) => height === null) ? 'Some have their feet in the sky: they stay on the ground they had.' : null;
  };
  return (
    <>
      <ul aria-label="Figures" className="mb-1 max-h-40 overflow-y-auto border">
        {figures.map((figure, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two figures may be alike in all; their place in the list is what they are known by
          <li key={i} className={`flex items-center gap-1 border-b px-1 last:border-b-0 ${i === open ? 'bg-sheet' : ''}`}>
            <button type="button" aria-pressed={i === open} className="min-w-0 flex-1 truncate py-0.5 text-left" onClick={() => setOpenAt(i)}>
              {nameOf(figure)}
            </button>
            <span className="figure text-faint">{figure.heightMetres.toFixed(2)} m</span>
            <IconButton label={`Mirror ${nameOf(figure)}`} className="!size-5" aria-pressed={figure.mirrored} onClick={() => set(figures.with(i, { ...figure, mirrored: !figure.mirrored }))}>
              <FlipHorizontal2 size={12} aria-hidden />
            </IconButton>
            <IconButton label={`Stand up another ${nameOf(figure)}`} className="!size-5" disabled={figures.length >= MOST_FIGURES} onClick={() => set([...figures, { ...figure, at: [figure.at[0] + document.size.width / 30, figure.at[1]] }]) && setOpenAt(figures.length)}>
              <Copy size={12} aria-hidden />
            </IconButton>
            <IconButton label={`Take ${nameOf(figure)} away`} className="!size-5" onClick={() => (figures.length === 1 ? actions.edit({ type: 'remove-layer', layerId: layer.id }) : set(figures.filter((_, k) => k !== i)))}>
              <Trash2 size={12} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      {chosen && (
        <>
          <NumberField label="Height" value={chosen.heightMetres} min={FIGURE_METRES[0]} max={FIGURE_METRES[1]} usual={[0.3, 6]} step={0.01} byFactors digits={2} unit="m" initial={usualMetres(findSource(document, chosen.sourceId)?.file.name ?? '', 1.75)} help="From its foot to its top." onChange={(heightMetres, gesture) => change({ heightMetres }, gesture)} />
          <NumberField label="Stands at" value={chosen.groundMetres} min={-1000} max={1000} usual={[-3, 12]} step={0.05} digits={2} unit="m" initial={0} help="How high its ground is. It is read of the depth where the figure is put; what flies is that high itself." onChange={(groundMetres, gesture) => change({ groundMetres }, gesture)} />
          <NumberField label="Leans" value={chosen.leanDegrees} min={-180} max={180} usual={[-20, 20]} step={0.5} digits={1} unit="°" initial={0} help="About its foot, clockwise." onChange={(leanDegrees, gesture) => change({ leanDegrees }, gesture)} />
        </>
      )}
      {groundElement(document) && figures.length > 0 && <Attempts of={[{ label: 'Onto the ground seen there', icon: Footprints, run: onGround }]} />}
      {chosen && <More layer={layer} first={chosen} />}
      <LayerFields layer={layer} only={Object.keys(layerSpec('figures').params).filter((name) => name !== 'figures')} />
      <Notes />
    </>
  );
}

/** More of the kinds that are there, around the one that is chosen. */
function More({ layer, first }: { layer: PictureLayer; first: PlacedFigure }) {
  const { session } = useWorkspace();
  const actions = useActions();
  const [crowd, setCrowd] = useState<Crowd>({ count: 6, metres: 6, seed: 1 });
  const spread = async () => {
    const { document } = session.getState();
    const { figures } = figuresValues(layer);
    const kinds = [...new Map(figures.filter(({ groundMetres }) => groundMetres === first.groundMetres).map((figure) => [figure.sourceId, { sourceId: figure.sourceId, heightMetres: figure.heightMetres, foot: figure.foot, top: figure.top, aloftMetres: 0 }])).values()];
    const more = crowdAround(document, first, kinds, figures.filter((figure) => figure !== first), crowd);
    if (more.length > 0) actions.edit({ type: 'add-figures', figures: more, layerId: layer.id });
    return more.length < crowd.count ? `${more.length === 0 ? 'None' : `Only ${more.length}`} found a place: make the circle wider.` : null;
  };
  return (
    <Fold title="Several, spread by chance">
      <NumberField label="Figures" value={crowd.count} min={1} max={100} usual={[1, 30]} step={1} digits={0} unit="" initial={6} help="Of the kinds that this layer has." onChange={(count) => setCrowd({ ...crowd, count: Math.round(count) })} />
      <NumberField label="Within" value={crowd.metres} min={1} max={200} usual={[1, 30]} step={1} digits={0} unit="m" initial={6} help="Around the figure that is chosen, on its ground." onChange={(metres) => setCrowd({ ...crowd, metres })} />
      <NumberField label="Seed" value={crowd.seed} min={0} max={9999} usual={[0, 50]} step={1} digits={0} unit="" initial={1} help="Other places." onChange={(seed) => setCrowd({ ...crowd, seed: Math.round(seed) })} />
      <Attempts of={[{ label: 'Spread them', icon: Users, run: spread }]} />
    </Fold>
  );
}

/** What the document lacks for all of it. */
function Notes() {
  const { camera, sun, sources } = useDocument();
  const has = (role: string) => sources.some((source) => source.role === role);
  const notes = [
    camera !== null && sun === null && 'The sun is not known: they throw no shadow. Set it under Elements, Camera and sun.',
    !has('depth') && !has('distance') && 'There is no depth: nothing hides them, unless the layer has a mask.',
    !has('diffuse-filter') && 'Without a diffuse filter their light is guessed of a ground of middling grey: set their exposure.',
    sun !== null && !sources.some((source) => source.role === 'light-group') && 'Without light groups it is guessed how much of the light is the sun’s: shadows fall on shade, too.',
    !has('reflection-filter') && has('reflection') && 'Without a reflection filter only water and glass mirror them.',
  ];
  return notes.map((note) => note && <p key={note} className="text-[12px] text-faint">{note}</p>);
}

export const figuresKind: LayerKind = { hatch: 'hatch-figures', Fields: FigureFields, handles: figureHandles };
