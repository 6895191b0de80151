import { SKY_SHELF, type ShelfSky, shelfDocument, shelfSky, skyOfDocument, skyPlace } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { questions } from '../answers.ts';
import { renderedSkyLight } from '../layers/rendered-sky.ts';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';

const pictureOf = Object.fromEntries(SKY_SHELF.map((sky) => [sky.id, () => questions.card(shelfDocument(sky), {})]));

/** Skies to begin with. A click puts one behind the building, or changes the sky that is there. */
export function SkyShelf() {
  const { session, engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const client = useQueryClient();
  const [problem, setProblem] = useState('');
  const current = skyOfDocument(document);
  const use = async (sky: ShelfSky) => {
    const light = await renderedSkyLight(session.getState().document, client, engine);
    const now = session.getState().document;
    const params = shelfSky(sky, now, light);
    const known = skyOfDocument(now);
    if (known) {
      if (actions.edit({ type: 'set-params', layerId: known.id, params })) actions.selectLayer(known.id);
    } else actions.edit({ type: 'add-layer', layer: 'sky', params, ...skyPlace(now) });
    setProblem('');
  };
  return (
    <section aria-label="Skies" className="flex min-h-0 flex-1 flex-col border-b">
      <div className="flex h-[30px] shrink-0 items-center border-b px-2">
        <h2 className="lettering flex-1 truncate">Skies</h2>
        <span className="figure text-faint">{SKY_SHELF.length}</span>
      </div>
      <ul className="grid min-h-0 flex-1 auto-rows-min grid-cols-2 gap-1 overflow-y-auto p-2">
        {SKY_SHELF.map((sky) => (
          <li key={sky.id}>
            <button type="button" aria-label={`${current ? 'Change the sky to' : 'Add the sky'} ${sky.label}`} className="block w-full border border-rule bg-sheet text-left hover:border-ink focus-visible:outline-2" onClick={() => void use(sky).catch((error: Error) => setProblem(error.message))}>
              <SmallPicture question={pictureOf[sky.id]} whenSeen className="block aspect-[3/2] w-full" />
              <span className="block truncate px-1 text-[12px]">{sky.label}</span>
            </button>
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
