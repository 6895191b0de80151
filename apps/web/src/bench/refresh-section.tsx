import { planRefresh, type RefreshPlan } from '@tazzel/core';
import { useState } from 'react';
import { PICTURE_FILES, readNewer } from '../intake.ts';
import { whileFilesArrive } from '../storage/locks.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Sheet } from '../ui/dialog.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Section } from '../ui/section.tsx';
import { WatchedFolder } from '../ui/watched-folder.tsx';
import { EarlierRenders, presentRender } from './earlier-renders.tsx';
import { useActions, useWorkspace } from '../workspace/context.ts';

interface Offer {
  readonly plan: RefreshPlan;
  readonly problems: readonly string[];
}

/** A newer render under the finished build-up. */
export function RefreshSection() {
  const { engine, session } = useWorkspace();
  const actions = useActions();
  const [offer, setOffer] = useState<Offer | null>(null);
  const [scales, setScales] = useState(true);
  const read = async (files: readonly File[]) => {
    const { document } = session.getState();
    // What was stored and is not taken after all is swept later on; until then the page has it.
    const { sources, materials, size, facts, problems, camera } = await withProgress('Reading the newer render', (report, signal) => whileFilesArrive(() => readNewer(engine, document, files, ({ share, name }) => report(share, name), signal)));
    if (!size || sources.length === 0) showNotes('Nothing was replaced', problems.length > 0 ? problems : ['None of the files could be read.']);
    else setOffer({ plan: planRefresh(document, sources, materials, size, facts), problems: [...camera, ...problems] });
  };
  const apply = () => {
    if (offer && actions.edit({ ...offer.plan.edit, scales: scales && offer.plan.size !== null, keeps: presentRender(session.getState().document) })) setOffer(null);
  };
  const layOver = () => {
    if (offer?.plan.part && actions.edit(offer.plan.part)) setOffer(null);
  };
  return (
    <Section title="A newer render">
      <p className="mb-1.5 text-faint">New files take the place of the old ones. Masks, corrections and layers stay.</p>
      <FileButton text="Replace by a newer render …" label="Files of the newer render" accept={PICTURE_FILES} multiple onFiles={(files) => void read(files)} />
      <WatchedFolder owner={session} while="while this stage is open" engine={async () => engine} onFiles={read} className="mt-1.5" />
      <EarlierRenders />
      <Sheet open={offer !== null} title="Replace by a newer render" onClose={() => setOffer(null)}>
        {offer && <Changes {...offer} />}
        {offer && offer.plan.size !== null && (
          <div className="mt-3">
            <Check label="Scale what was drawn by hand or given in pixels with the picture" checked={scales} onChange={setScales} />
          </div>
        )}
        <div className="mt-4 flex justify-end gap-1.5">
          <Button onClick={() => setOffer(null)}>Leave as it is</Button>
          <Button look={offer?.plan.part ? 'plain' : 'main'} disabled={offer?.plan.replaced.length === 0} onClick={apply}>
            Replace
          </Button>
          {offer?.plan.part && (
            <Button look="main" onClick={layOver}>
              Lay it over
            </Button>
          )}
        </div>
      </Sheet>
    </Section>
  );
}

function Changes({ plan, problems }: Offer) {
  const { part, replaced, kept, added, newMaterials, goneMaterials, drawnMasks, size } = plan;
  const lines = [
    part && `Only a part of the picture was rendered. “Lay it over” puts it in its place over the render that is there, under the same corrections; replacing would leave the rest empty.`,
    replaced.length > 0 ? `${replaced.length === 1 ? 'One element gets' : `${replaced.length} elements get`} new pixels${replaced.some(({ from, to }) => from !== to) ? `: ${replaced.map(({ from, to }) => (from === to ? from : `${from} by ${to}`)).join(', ')}` : ''}.` : 'No element of the newer render fits an old one, by role, name or part.',
    size && `The picture changes from ${size.from.width} × ${size.from.height} to ${size.to.width} × ${size.to.height}.`,
    drawnMasks.length > 0 && `Painted masks and shapes are kept: ${drawnMasks.join(', ')}.`,
    kept.length > 0 && `Not in the newer render, kept as they are: ${kept.join(', ')}.`,
    added.length > 0 && `New elements: ${added.join(', ')}.`,
    newMaterials.length > 0 && `New materials: ${newMaterials.join(', ')}.`,
    goneMaterials.length > 0 && `No longer in the picture: ${goneMaterials.map(({ name, masks }) => (masks > 0 ? `${name} (in ${masks} ${masks === 1 ? 'mask' : 'masks'})` : name)).join(', ')}.`,
    ...problems,
  ].filter((line) => typeof line === 'string');
  return (
    <ul className="list-disc space-y-1.5 pl-4">
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}
