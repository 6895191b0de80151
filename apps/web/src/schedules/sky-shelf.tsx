import { SKY_SHELF, type ShelfSky, shelfDocument, shelfSky, shelfSkyOf, skyOfDocument, sceneryPlace, skyValuesOf } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { BookmarkPlus, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { questions } from '../answers.ts';
import { renderedSkyLight } from '../layers/rendered-sky.ts';
import { keepSkies, ownSkies } from '../storage/library.ts';
import { IconButton } from '../ui/button.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import { useDropped } from './use-dropped.ts';

/** What a sky is called while it is dragged. */
const SKY_DRAG = 'application/x-tazzel-sky';

/** One function for each sky, as what follows it must be able to tell. */
const pictures = new WeakMap<ShelfSky, () => ReturnType<typeof questions.card>>();
function pictureOf(sky: ShelfSky) {
  const known = pictures.get(sky) ?? (() => questions.card(shelfDocument(sky), {}));
  pictures.set(sky, known);
  return known;
}

/** Skies to begin with, and one's own. A click puts one behind the building, or changes the sky that is there; so does dragging it onto the picture. */
export function SkyShelf() {
  const { session, engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const client = useQueryClient();
  const [problem, setProblem] = useState('');
  const [own, setOwn] = useState<readonly ShelfSky[]>([]);
  useEffect(() => void ownSkies().then(setOwn), []);
  const current = skyOfDocument(document);
  const use = async (sky: ShelfSky) => {
    const light = await renderedSkyLight(session.getState().document, client, engine);
    const now = session.getState().document;
    const params = shelfSky(sky, now, light);
    const known = skyOfDocument(now);
    if (known) {
      if (actions.edit({ type: 'set-params', layerId: known.id, params })) actions.selectLayer(known.id);
    } else actions.edit({ type: 'add-layer', layer: 'sky', params, ...sceneryPlace(now) });
    setProblem('');
  };
  const skies = [...own, ...SKY_SHELF];
  const take = (sky: ShelfSky | undefined) => void (sky && use(sky).catch((error: Error) => setProblem(error.message)));
  useDropped(SKY_DRAG, (id) => take(skies.find((sky) => sky.id === id)));
  const keep = (list: readonly ShelfSky[]) => {
    setOwn(list);
    setProblem('');
    void keepSkies(list).catch((error: Error) => setProblem(error.message));
  };
  const keepThis = () => {
    if (!current) return;
    const number = own.filter(({ label }) => label.startsWith(document.name)).length;
    const sky = shelfSkyOf(skyValuesOf(current.params), document, crypto.randomUUID(), number === 0 ? document.name : `${document.name} ${number + 1}`);
    if (sky) keep([...own, sky]);
    else setProblem('This sky is a picture: keep its file, and drop it into the next document.');
  };
  return (
    <section aria-label="Skies" className="flex min-h-0 flex-1 flex-col border-b">
      <div className="flex h-[30px] shrink-0 items-center gap-1 border-b px-2">
        <h2 className="lettering flex-1 truncate">Skies</h2>
        <span className="figure text-faint">{skies.length}</span>
        <IconButton label="Keep this sky" hint="for other documents" disabled={!current} onClick={keepThis}>
          <BookmarkPlus size={14} aria-hidden />
        </IconButton>
      </div>
      <ul className="grid min-h-0 flex-1 auto-rows-min grid-cols-2 gap-1 overflow-y-auto p-2">
        {skies.map((sky) => (
          <li key={sky.id} className="relative">
            <button
              type="button"
              draggable
              onDragStart={(event) => {
                event.dataTransfer.setData(SKY_DRAG, sky.id);
                event.dataTransfer.effectAllowed = 'copy';
              }}
              aria-label={`${current ? 'Change the sky to' : 'Add the sky'} ${sky.label}`}
              className="block w-full border border-rule bg-sheet text-left hover:border-ink focus-visible:outline-2"
              onClick={() => take(sky)}
            >
              <SmallPicture question={pictureOf(sky)} whenSeen className="block aspect-[3/2] w-full" />
              <span className="block truncate px-1 text-[12px]">{sky.label}</span>
            </button>
            {own.includes(sky) && (
              <IconButton label={`Take ${sky.label} off the shelf`} className="absolute right-0.5 bottom-0 !size-5 bg-sheet" onClick={() => keep(own.filter((other) => other !== sky))}>
                <X size={12} aria-hidden />
              </IconButton>
            )}
          </li>
        ))}
      </ul>
      {problem && (
        <p role="alert" className="p-1 text-[12px] text-warn">
          {problem}
        </p>
      )}
    </section>
  );
}
