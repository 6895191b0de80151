/** Makes a layer agree with a sample of another element, within masks: white point, exposure, contrast and saturation by statistics. */
import { type Correction, elementDocument, elementValues, enteringDocument, findSource, type KeptValues, maskUseAt, type Zone } from '@tazzel/core';
import { useState } from 'react';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line } from '../ui/section.tsx';
import { usePart, useWorkspace } from '../workspace/context.ts';

interface MatchSectionProps {
  readonly correction: Correction;
  readonly layerId: string;
  readonly zone: Zone;
  readonly correctionId: string | null;
  readonly onFound: (params: KeptValues) => void;
}

const EVERYWHERE = 'everywhere';

export function MatchSection({ correction, layerId, zone, correctionId, onFound }: MatchSectionProps) {
  const { engine, session } = useWorkspace();
  const [sources, masks] = [usePart((document) => document.sources), usePart((document) => document.masks)];
  const [sourceId, setSourceId] = useState('');
  const [maskId, setMaskId] = useState(EVERYWHERE);
  const [said, setSaid] = useState('');
  const samples = sources.filter(({ encoding }) => encoding !== 'data');
  if (samples.length === 0) return null;
  const chosen = samples.find(({ id }) => id === sourceId) ?? samples[0];
  const match = async () => {
    const { document } = session.getState();
    const source = findSource(document, chosen.id);
    if (!source) return;
    setSaid('Comparing …');
    const sample = { document: zone === 'scene' ? elementValues(document, source) : elementDocument(document, source), mask: null };
    // An element alone has no masks: they are those of the document.
    const within = maskId === EVERYWHERE ? sample : { document: { ...sample.document, masks: document.masks }, mask: { maskId, inverted: false, enabled: true } };
    const found = await engine.match({ document: enteringDocument(document, layerId, correctionId), mask: maskUseAt(document, layerId, correctionId) }, within, zone === 'scene' ? 'light' : 'picture');
    setSaid(found ? '' : 'Nothing to go by: one of the two is black or empty there.');
    if (found && correction.match) onFound(correction.match(found));
  };
  return (
    <fieldset className="mt-1 border-t pt-1">
      <legend className="sr-only">Match</legend>
      <Line label="Match to">
        <Choice label="Sample to match" value={chosen.id} options={samples.map(({ id, name }) => ({ value: id, label: name }))} onChange={setSourceId} />
      </Line>
      <Line label="where">
        <Choice label="Mask of the sample" value={maskId} options={[{ value: EVERYWHERE, label: 'everywhere' }, ...masks.map(({ id, name }) => ({ value: id, label: name }))]} onChange={setMaskId} />
      </Line>
      <Button className="my-1" title="White point, exposure, contrast and saturation become those of the sample" onClick={() => void match().catch((error: Error) => setSaid(error.message))}>
        Match
      </Button>
      {said && (
        <p role="status" className="text-[12px] text-faint">
          {said}
        </p>
      )}
    </fieldset>
  );
}
