import { asPicture, FIGURE_GROUPS, FIGURE_SHELF, type FigureGroup, type FigureInHand, figuresLayerOf, ownFigure, shelfFigure, type Source, type TazzelDocument } from '@tazzel/core';
import { type Engine, outlineOf } from '@tazzel/engine';
import { type HeldFigure, standUp } from '@tazzel/editor';
import { useState } from 'react';
import { questions } from '../answers.ts';
import { PICTURE_FILES, takeIn } from '../intake.ts';
import { FileButton } from '../ui/file-button.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useDocument, useSession, useWorkspace } from '../workspace/context.ts';
import { CutOutSheet } from './cut-out-sheet.tsx';
import { useDropped } from './use-dropped.ts';

const FIGURE_DRAG = 'application/x-tazzel-figure';

/** A picture that is cut out: a figure, not an element of the render. */
const isCutOut = ({ role, alpha, encoding }: Source) => role === 'picture' && (alpha === 'straight' || alpha === 'premultiplied') && encoding !== 'data';

/** Files as pictures that are no elements of the render. */
async function readCutOuts(engine: Engine, document: TazzelDocument, files: readonly File[]): Promise<readonly Source[]> {
  const { sources, problems } = await takeIn(engine, document, files, () => {});
  if (sources.length === 0) throw new Error(problems[0] ?? 'The file holds no picture.');
  return sources.map(asPicture);
}

/** People and things to stand up: those of the shelf, and the cut-outs of the document. A click takes one into the hand, the next one stands it on the ground; so does dragging it there. */
export function FigureShelf() {
  const { session, engine, viewport } = useWorkspace();
  const document = useDocument();
  const held = useSession((state) => state.figureInHand);
  const [problem, setProblem] = useState('');
  /** A picture without alpha: all of it would stand there. */
  const [uncut, setUncut] = useState<Source | null>(null);
  const [group, setGroup] = useState<FigureGroup>('people');
  const own = document.sources.filter((source) => isCutOut(source) && !FIGURE_SHELF.some(({ id }) => `${id}.png` === source.file.name));

  /** A figure by its id on the shelf, or of a picture of the document. */
  const handOf = async (id: string): Promise<HeldFigure> => {
    const now = session.getState().document;
    const row = FIGURE_SHELF.find((figure) => figure.id === id);
    if (!row) {
      const source = now.sources.find((each) => each.id === id);
      const outline = source && (await outlineOf(engine, source));
      if (!source || !outline) throw new Error('All of that picture is transparent.');
      return { label: source.name, figure: ownFigure(id, outline), sources: [], apart: true };
    }
    const known = now.sources.find(({ file }) => file.name === `${row.id}.png`);
    const hand = (source: Source): FigureInHand => shelfFigure(row, source.id);
    const apart = row.photographed !== undefined;
    if (known) return { label: row.label, figure: hand(known), sources: [], apart };
    const answer = await fetch(`/figures/${row.id}.png`);
    if (!answer.ok) throw new Error(`The picture of “${row.label}” could not be loaded. Check that the server is reachable and try again.`);
    const [source] = await readCutOuts(engine, now, [new File([await answer.blob()], `${row.id}.png`, { type: 'image/png' })]);
    return { label: row.label, figure: hand(source), sources: [{ ...source, name: row.label }], apart };
  };
  const attempt = (work: Promise<string | null>) => void work.then((said) => setProblem(said ?? ''), (error: Error) => setProblem(error.message));
  const take = (id: string) =>
    attempt(handOf(id).then((figureInHand) => {
      session.actions.set({ figureInHand, tool: 'stand' });
      return null;
    }));
  useDropped(FIGURE_DRAG, (id, at) => attempt(handOf(id).then((figure) => standUp({ session, valuesAt: (source, x, y) => engine.valuesAt(source, x, y) }, figure, viewport.placeBehind(at, figuresLayerOf(session.getState().document, session.getState().selectedLayerId)?.id)))));
  const addFiles = (files: readonly File[]) =>
    attempt(readCutOuts(engine, document, files).then(async (sources) => {
      const cut = sources.find(isCutOut);
      if (!cut) {
        setUncut(sources[0]);
        return sources.length > 1 ? `Pictures without alpha are cut out one after the other: ${sources[0].name} is open now.` : null;
      }
      session.actions.addElements(sources);
      const outline = await outlineOf(engine, cut);
      if (!outline) return 'All of that picture is transparent.';
      session.actions.set({ figureInHand: { label: cut.name, figure: ownFigure(cut.id, outline), sources: [], apart: true }, tool: 'stand' });
      return null;
    }));
  const put = () => session.actions.set({ figureInHand: null, tool: 'select' });
  return (
    <section aria-label="Figures to stand up" className="flex min-h-0 flex-1 flex-col border-b">
      <div className="flex h-[30px] shrink-0 items-center gap-1 border-b px-2">
        <h2 className="lettering flex-1 truncate">Figures</h2>
        <FileButton text="Add" label="Add a picture of a person or a thing" accept={PICTURE_FILES} multiple onFiles={addFiles} />
      </div>
      <div role="tablist" aria-label="Kinds of figures" className="flex shrink-0 border-b">
        {(Object.keys(FIGURE_GROUPS) as FigureGroup[]).map((id) => (
          <button key={id} type="button" role="tab" aria-selected={id === group} className="narrow flex-1 border-r px-1 py-1 last:border-r-0 aria-selected:bg-sheet aria-selected:font-semibold" onClick={() => setGroup(id)}>
            {FIGURE_GROUPS[id]}
          </button>
        ))}
      </div>
      <ul className="grid min-h-0 flex-1 auto-rows-min grid-cols-3 gap-1 overflow-y-auto p-2">
        {FIGURE_SHELF.filter((figure) => figure.group === group).map(({ id, label, heightMetres }) => (
          <Shown key={id} id={id} label={label} metres={heightMetres} isHeld={held?.label === label} onTake={take}>
            <img src={`/figures/${id}.png`} alt="" loading="lazy" draggable={false} className="size-full object-contain" />
          </Shown>
        ))}
        {own.map((source) => (
          <Shown key={source.id} id={source.id} label={source.name} metres={null} isHeld={held?.figure.sourceId === source.id} onTake={take}>
            <SmallPicture question={() => questions.element(document, source)} whenSeen className="size-full" />
          </Shown>
        ))}
      </ul>
      <CutOutSheet
        source={uncut}
        onClose={() => setUncut(null)}
        onDone={(file) => {
          setUncut(null);
          addFiles([file]);
        }}
      />
      {held && (
        <p role="status" className="flex items-center gap-2 border-t p-2 text-[12px]">
          <span className="min-w-0 flex-1">
            <b>{held.label}</b>: click the ground where it is to stand. With Shift it stays in the hand.
          </span>
          <button type="button" className="underline" onClick={put}>
            Put away
          </button>
        </p>
      )}
      {problem && (
        <p role="alert" className="p-1 text-[12px] text-warn">
          {problem}
        </p>
      )}
    </section>
  );
}

function Shown({ id, label, metres, isHeld, onTake, children }: { id: string; label: string; metres: number | null; isHeld: boolean; onTake: (id: string) => void; children: React.ReactNode }) {
  return (
    <li>
      <button
        type="button"
        draggable
        aria-pressed={isHeld}
        aria-label={`Take ${label}`}
        title={metres === null ? label : `${label}, ${metres.toFixed(2)} m`}
        className="block w-full border border-rule bg-[#c9c9c9] text-left text-[#111] hover:border-ink focus-visible:outline-2 aria-pressed:border-ink aria-pressed:outline-1"
        onDragStart={(event) => {
          event.dataTransfer.setData(FIGURE_DRAG, id);
          event.dataTransfer.effectAllowed = 'copy';
        }}
        onClick={() => onTake(id)}
      >
        <span className="block h-24 p-1">{children}</span>
        <span className="block truncate bg-sheet px-1 text-[11px] text-ink">{label}</span>
      </button>
    </li>
  );
}
