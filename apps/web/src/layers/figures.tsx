import { type Agreement, agreementOf, cameraOf, CROWD_FORMS, type Crowd, crowdOf, FIGURE_METRES, FIGURE_SHELF, figureBox, figuresValues, findSource, FROM_METRES, groundElement, heightByEyeLevel, MOST_FIGURES, MOST_POINTS, type PictureLayer, type PlacedFigure, viewOfCamera } from '@tazzel/core';
import { figureHandles, surfaceHeight } from '@tazzel/editor';
import { Copy, FlipHorizontal2, Footprints, Pin, PinOff, Trash2, Users } from 'lucide-react';
import { useState } from 'react';
import { Attempts } from '../ui/attempts.tsx';
import { Button, IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Fold, Line } from '../ui/section.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';
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
    const heights = await Promise.all(figures.map(({ at }) => surfaceHeight({ valuesAt: (source, x, y) => engine.valuesAt(source, x, y) }, now, at)));
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
      {chosen && <Photographed figure={chosen} onChange={change} />}
      {chosen && <More layer={layer} first={chosen} />}
      <LayerFields layer={layer} except={['figures']} />
      <Notes layer={layer} />
    </>
  );
}

/** The upper edge of its picture: where the line is dragged from. */
const USUAL_LEVEL = 0;

/** A thing that was photographed somewhere else: held by points of it, made as tall as its eye level says, and how its camera agrees with the document's. */
function Photographed({ figure, onChange }: { figure: PlacedFigure; onChange: (patch: Partial<PlacedFigure>, gesture?: string) => void }) {
  const document = useDocument();
  const actions = useActions();
  const isHolding = useSession((state) => state.tool === 'hold');
  const source = findSource(document, figure.sourceId);
  if (!source || !document.camera) return null;
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const agreement = agreementOf(view, figure, figureBox(source));
  const held = figure.points?.length ?? 0;
  const heightMetres = heightByEyeLevel(view, figure);
  const percent = (share: number) => Math.round(share * 1000) / 10;
  return (
    <Fold title="A photograph in the place">
      <div className="mb-1 flex flex-wrap items-center gap-1">
        <Button aria-pressed={isHolding} disabled={held >= MOST_POINTS} onClick={() => actions.set({ tool: isHolding ? 'select' : 'hold' })}>
          <Pin size={13} aria-hidden /> Hold by points
        </Button>
        {(held > 0 || figure.corners) && (
          <Button onClick={() => onChange({ points: undefined, corners: undefined })}>
            <PinOff size={13} aria-hidden /> Let go
          </Button>
        )}
      </div>
      <p role="status" className="mb-1 text-[12px] text-faint">
        {isHolding ? `Click a place of it that you know: ${held} of ${MOST_POINTS} are held.` : held === 0 ? 'Its wheels, its feet, its corners: held by one it moves, by two it turns and grows, by four its perspective follows.' : `Held by ${held}: drag each to where it belongs in the picture.`}
      </p>
      <label className="mb-1 flex items-center gap-2">
        <input type="checkbox" checked={figure.eyeLevel !== undefined} onChange={({ target }) => onChange({ eyeLevel: target.checked ? USUAL_LEVEL : undefined })} /> Its eye level is known
      </label>
      {figure.eyeLevel !== undefined && (
        <>
          <NumberField label="Eye level" value={percent(figure.eyeLevel)} min={-2000} max={2000} usual={[-150, 100]} step={0.5} digits={1} unit="%" initial={0} help="Where its camera looked level, from the upper edge of its picture down. The line on the picture is dragged, too." onChange={(value, gesture) => onChange({ eyeLevel: value / 100 }, gesture)} />
          <NumberField label="Taken from" value={figure.fromMetres ?? 0} min={0} max={FROM_METRES[1]} usual={[0, 30]} step={0.1} digits={1} unit="m" initial={0} help="How far away the camera was; 0 is unknown." onChange={(metres, gesture) => onChange({ fromMetres: metres < FROM_METRES[0] ? undefined : metres }, gesture)} />
          <Button className="mb-1" disabled={heightMetres === null} title={heightMetres === null ? 'Its eye level must lie over its foot.' : undefined} onClick={() => heightMetres !== null && onChange({ heightMetres })}>
            As tall as its eye level says
          </Button>
        </>
      )}
      {agreement && <p className="figure mb-1 text-[12px] text-faint">{agreementWords(agreement)}</p>}
    </Fold>
  );
}

const metresOf = (value: number): string => `${value.toFixed(2).replace('-', '−')} m`;
/** So many degrees nobody sees in a thing of this size. Common practice, no published source. */
const UNSEEN_DEGREES = 1.5;

function agreementWords({ itsEyeMetres, ourEyeMetres, awayMetres, steeperDegrees }: Agreement): string {
  const here = `Here eyes are ${metresOf(ourEyeMetres)} over its ground, ${awayMetres.toFixed(1)} m away.`;
  if (itsEyeMetres === null) return here;
  const there = `It was photographed from ${metresOf(itsEyeMetres)} over its ground`;
  if (steeperDegrees === null) return `${here} ${there}.`;
  const size = Math.abs(steeperDegrees);
  return `${here} ${there}: it is looked at ${size < UNSEEN_DEGREES ? 'as steeply as it was' : `${size.toFixed(1)}° ${steeperDegrees > 0 ? 'more steeply than it was' : 'less steeply than it was'}`}.`;
}

const FORMS = (Object.keys(CROWD_FORMS) as Crowd['form'][]).map((value) => ({ value, label: CROWD_FORMS[value] }));
/** So many must stand there to draw a line or an area with their feet. */
const LEAST_FEET = { around: 1, along: 2, between: 3 } as const;
const LACKING = { around: 'There is no ground there.', along: 'Stand a second figure where the line ends, and more where it turns.', between: 'Stand three figures or more around the area.' } as const;

/** More of the kinds that are there: around the one that is chosen, along a line, in an area. */
function More({ layer, first }: { layer: PictureLayer; first: PlacedFigure }) {
  const { session } = useWorkspace();
  const actions = useActions();
  const [crowd, setCrowd] = useState<Crowd>({ form: 'around', count: 6, metres: 6, seed: 1 });
  const spread = async () => {
    const { document } = session.getState();
    const { figures } = figuresValues(layer);
    const kinds = [...new Map(figures.filter(({ groundMetres }) => groundMetres === first.groundMetres).map((figure) => [figure.sourceId, { sourceId: figure.sourceId, heightMetres: figure.heightMetres, foot: figure.foot, top: figure.top, aloftMetres: 0 }])).values()];
    const more = crowdOf(document, first, kinds, figures, crowd);
    if (more.length > 0) actions.edit({ type: 'add-figures', figures: more, layerId: layer.id });
    if (more.length === crowd.count) return null;
    if (more.length === 0 && figures.length < LEAST_FEET[crowd.form]) return LACKING[crowd.form];
    return `${more.length === 0 ? 'None' : `Only ${more.length}`} found a place: people keep 0.9 m apart. Give them more room.`;
  };
  return (
    <Fold title="Several, spread by chance">
      <Line label="Where">
        <Choice label="Where they stand" value={crowd.form} options={FORMS} onChange={(form) => setCrowd({ ...crowd, form })} />
      </Line>
      <NumberField label="Figures" value={crowd.count} min={1} max={100} usual={[1, 30]} step={1} digits={0} unit="" initial={6} help="Of the kinds that this layer has." onChange={(count) => setCrowd({ ...crowd, count: Math.round(count) })} />
      {crowd.form !== 'between' && <NumberField label={crowd.form === 'along' ? 'To each side' : 'Within'} value={crowd.metres} min={0.2} max={200} usual={[1, 30]} step={1} digits={0} unit="m" initial={6} help={crowd.form === 'along' ? 'Of the line through the feet of those that stand there, in their order.' : 'Around the figure that is chosen, on its ground.'} onChange={(metres) => setCrowd({ ...crowd, metres })} />}
      <NumberField label="Seed" value={crowd.seed} min={0} max={9999} usual={[0, 50]} step={1} digits={0} unit="" initial={1} help="Other places." onChange={(seed) => setCrowd({ ...crowd, seed: Math.round(seed) })} />
      <Attempts of={[{ label: 'Spread them', icon: Users, run: spread }]} />
    </Fold>
  );
}

/** What the document lacks for all of it. */
function Notes({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const { camera, sun, sources } = document;
  const values = figuresValues(layer);
  const has = (role: string) => sources.some((source) => source.role === role);
  const notes = [
    camera !== null && sun === null && values.shadowFrom === 'thrown' && 'The sun is not known: they throw no shadow. Set it under Elements, Camera and sun.',
    !has('depth') && !has('distance') && 'There is no depth: nothing hides them, unless the layer has a mask.',
    values.shadowFrom === 'caught' && !findSource(document, values.caught) && 'The element that caught their shadow is not chosen: they have none.',
    !has('diffuse-filter') && 'Without a diffuse filter their light is guessed of a ground of middling grey: set their exposure.',
    sun !== null && !sources.some((source) => source.role === 'light-group') && 'Without light groups it is guessed how much of the light is the sun’s: shadows fall on shade, too.',
    !has('reflection-filter') && has('reflection') && 'Without a reflection filter only water and glass mirror them.',
  ];
  return notes.map((note) => note && <p key={note} className="text-[12px] text-faint">{note}</p>);
}

export const figuresKind: LayerKind = { hatch: 'hatch-figures', Fields: FigureFields, handles: figureHandles };
