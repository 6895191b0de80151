import { completeParams, layerSpec, type PictureLayer, pictureOfSky, type SkyValues, skyMatch, sunsApart } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { Palette, Sun } from 'lucide-react';
import { useState } from 'react';
import { fetchAnswer, questions } from '../answers.ts';
import { Button } from '../ui/button.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';
import { renderedSkyElements, renderedSkyLight } from './rendered-sky.ts';

const CLOUD_FIELDS = ['coverPercent', 'cloudMetres', 'windDegrees', 'seed'];
const COMPUTED_FIELDS = ['sunFrom', 'altitudeDegrees', 'azimuthDegrees', 'hasDisc', 'clouds', ...CLOUD_FIELDS];
/** From here on a second sun is seen by its shadows. Common practice, no published source. */
const FAR_APART_DEGREES = 20;

/** What a sky is made of, what brings it to the rendered one, and where it does not belong. */
function SkyFields({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const spec = layerSpec('sky');
  const values = completeParams(spec, layer.params) as unknown as SkyValues;
  const picture = pictureOfSky(values);
  const apart = picture === null ? sunsApart(values, document) : null;
  const hasClouds = values.clouds !== 'none';
  const notes = [
    picture === '' && 'Choose its picture. A photograph or an environment is dropped onto the window like any other file; then it is among the elements.',
    picture === '' && values.look === 'environment' && 'Pictures of everything around are twice as wide as high; only those are offered.',
    document.camera === null && 'The camera is not known: the sky is seen by a level one that looks north. Set the camera under Elements, Camera and sun.',
    values.sunFrom === 'document' && document.sun === null && 'The document has no sun: the sky has its own. Set one under Elements, Camera and sun.',
    !document.sources.some(({ role }) => role === 'alpha') && 'There is no alpha: give the sky a mask of the old one, by ID or colour. Its edges are as good as that mask.',
  ];
  return (
    <>
      <LayerFields layer={layer} only={Object.keys(spec.params).filter((name) => (hasClouds || !CLOUD_FIELDS.includes(name)) && (picture === null || !COMPUTED_FIELDS.includes(name)))} />
      <Matching layer={layer} values={values} />
      {apart !== null && (
        <p className={`text-[12px] ${apart > FAR_APART_DEGREES ? 'text-warn' : 'text-faint'}`}>
          Its sun stands <span className="figure">{apart.toFixed(0)}°</span> from that of the picture{apart > FAR_APART_DEGREES ? ': shadows will tell.' : '.'}
        </p>
      )}
      {notes.map((note) => note && <p key={note} className="text-[12px] text-faint">{note}</p>)}
    </>
  );
}

function Matching({ layer, values }: { layer: PictureLayer; values: SkyValues }) {
  const { session, engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const client = useQueryClient();
  const [problem, setProblem] = useState('');
  if (!renderedSkyElements(document)) return null;
  const match = async (what: 'brightness' | 'white') => {
    const now = session.getState().document;
    // Both where the sky is seen.
    const [wanted, own] = await Promise.all([renderedSkyLight(now, client, engine), fetchAnswer(client, engine, questions.measure(now, { only: layer.id }, 'light'), new AbortController().signal)]);
    const params = wanted && own && skyMatch(values, now, wanted, what, [own.red.mean, own.green.mean, own.blue.mean]);
    setProblem(params ? '' : 'No sky is seen in this render, or none in this picture.');
    if (params) actions.edit({ type: 'set-params', layerId: layer.id, params });
  };
  const matched = (what: 'brightness' | 'white') => () => void match(what).catch((error: Error) => setProblem(error.message));
  return (
    <div className="flex flex-wrap gap-1 pb-1">
      <Button onClick={matched('brightness')}>
        <Sun size={13} aria-hidden /> As bright as the rendered sky
      </Button>
      <Button onClick={matched('white')}>
        <Palette size={13} aria-hidden /> Of its white
      </Button>
      {problem && (
        <p role="alert" className="text-[12px] text-warn">
          {problem}
        </p>
      )}
    </div>
  );
}

export const skyKind: LayerKind = { hatch: 'hatch-sky', Fields: SkyFields };
