import { alphaSource, applyEdit, edgePlaces, elementValues, findMask, findSource, layersInOrder, layerSpec, levelWithin, luminanceOf, type Mask, type PictureLayer, pictureOfSky, positionOf, sizeAtLevel, sceneryPlace, type SkyValues, skyMatch, skyValuesOf, sunDirection, sunOf, sunOfEnvironment, sunPlace, sunsApart } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { Compass, FlipVertical2, Focus, Palette, Sun } from 'lucide-react';
import { useEffect, useState } from 'react';
import { fetchAnswer, questions } from '../answers.ts';
import { Attempts } from '../ui/attempts.tsx';
import { Button } from '../ui/button.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';
import { mirroredSkyParams, renderedSkyElements, renderedSkyLight, shownSkyLight } from './rendered-sky.ts';

const CLOUD_FIELDS = ['coverPercent', 'cloudMetres', 'windDegrees', 'seed'];
const COMPUTED_FIELDS = ['sunFrom', 'altitudeDegrees', 'azimuthDegrees', 'hasDisc', 'clouds', ...CLOUD_FIELDS];
/** From here on a second sun is seen by its shadows. Common practice, no published source. */
const FAR_APART_DEGREES = 20;
/** An environment is looked through for its sun at this size. */
const SUN_SIDE = 256;
/** So many places are looked at, at most. */
const EDGE_PLACES = 6;

/** What a sky is made of, what brings it to the rendered one, and where it does not belong. */
function SkyFields({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const spec = layerSpec('sky');
  const values = skyValuesOf(layer.params);
  const picture = pictureOfSky(values);
  const apart = picture === null ? sunsApart(values, document) : null;
  const hasClouds = values.clouds !== 'none';
  const notes = [
    picture === '' && 'Choose its picture. A photograph or an environment is dropped onto the window like any other file; then it is among the elements.',
    picture === '' && values.look === 'environment' && 'Pictures of everything around are twice as wide as high; only those are offered.',
    document.camera === null && 'The camera is not known: the sky is seen by a level one that looks north. Set the camera under Elements, Camera and sun.',
    values.sunFrom === 'document' && document.sun === null && 'The document has no sun: the sky has its own. Set one under Elements, Camera and sun.',
    !document.sources.some(({ role }) => role === 'alpha') && layer.mask === null && 'There is no alpha: give the sky a mask of the old one, by ID or colour. Its edges are as good as that mask.',
  ];
  return (
    <>
      <LayerFields layer={layer} only={Object.keys(spec.params).filter((name) => (hasClouds || !CLOUD_FIELDS.includes(name)) && (picture === null || !COMPUTED_FIELDS.includes(name)))} />
      <Matching layer={layer} values={values} />
      <EdgeView layer={layer} values={values} />
      {values.look === 'environment' && <Turning key={values.environment} layer={layer} values={values} />}
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
  if (!renderedSkyElements(document)) return null;
  const match = async (what: 'brightness' | 'white') => {
    const now = session.getState().document;
    // Both where the sky is seen.
    const [wanted, own] = await Promise.all([renderedSkyLight(now, client, engine), shownSkyLight(now, layer, client, engine)]);
    const params = wanted && own && skyMatch(values, now, wanted, what, own);
    if (params) actions.edit({ type: 'set-params', layerId: layer.id, params });
    return params ? null : 'No sky is seen in this render, or none in this picture.';
  };
  const mirrored = document.sources.some(({ role }) => role === 'reflection');
  const hasMirrored = layersInOrder(document).some(({ layer: other }) => other.kind === 'picture' && other.type === 'mirrored-sky');
  const mirror = async () => {
    const now = session.getState().document;
    const params = await mirroredSkyParams(now, client, engine);
    if (params) actions.edit({ type: 'add-layer', layer: 'mirrored-sky', blend: 'add', params, ...sceneryPlace(now) });
    return params ? null : 'No sky is seen in this render: what it mirrors cannot be told.';
  };
  return (
    <Attempts
      of={[
        { label: 'As bright as the rendered sky', icon: Sun, run: () => match('brightness') },
        { label: 'Of its white', icon: Palette, run: () => match('white') },
        ...(mirrored && !hasMirrored ? [{ label: 'In glass and water, too', icon: FlipVertical2, run: mirror }] : []),
      ]}
    />
  );
}

/** An environment is turned until its sun stands where the picture's does. */
function Turning({ layer, values }: { layer: PictureLayer; values: SkyValues }) {
  const { session, engine } = useWorkspace();
  const actions = useActions();
  const [apart, setApart] = useState<number | null>(null);
  const document = useDocument();
  const source = findSource(document, values.environment);
  if (!source || !document.sun) return null;
  const turn = async () => {
    const { width, height } = source;
    const size = { width, height };
    const alone = elementValues({ ...session.getState().document, size }, { ...source, x: 0, y: 0, fit: null });
    const level = levelWithin(size, SUN_SIDE);
    const { pixels } = await engine.flatten({ document: alone, kind: 'float', level });
    const small = sizeAtLevel(size, level);
    const area = small.width * small.height;
    const planes = new Float32Array(pixels);
    const found = sunOfEnvironment(Float32Array.from({ length: area }, (_, i) => luminanceOf([planes[i], planes[area + i], planes[2 * area + i]])), small);
    const sun = session.getState().document.sun;
    if (!found || !sun) return 'It has no sun: nothing in its sky is much brighter than the rest. Turn it by hand.';
    const wanted = positionOf(sunDirection(sunPlace(sunOf(sun))).direction);
    setApart(found.altitudeDegrees - wanted.altitudeDegrees);
    actions.edit({ type: 'set-params', layerId: layer.id, params: { turnDegrees: ((wanted.azimuthDegrees - found.azimuthDegrees + 540) % 360) - 180 } });
    return null;
  };
  return (
    <>
      <Attempts of={[{ label: 'Turn its sun to the picture’s', icon: Compass, run: turn }]} />
      {apart !== null && (
        <p className={`text-[12px] ${Math.abs(apart) > FAR_APART_DEGREES ? 'text-warn' : 'text-faint'}`}>
          Its sun stands <span className="figure">{Math.abs(apart).toFixed(0)}°</span> {apart < 0 ? 'lower' : 'higher'} than that of the picture{Math.abs(apart) > FAR_APART_DEGREES ? ': shadows will tell.' : '.'}
        </p>
      )}
    </>
  );
}

/** Goes to leaves and railings at full size, one after the other, and shows them with the old sky's edges for comparison. */
function EdgeView({ layer, values }: { layer: PictureLayer; values: SkyValues }) {
  const { session, engine, viewport } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const client = useQueryClient();
  const lookAt = useSession((state) => state.lookAt);
  const [places, setPlaces] = useState<ReturnType<typeof edgePlaces>>([]);
  const [at, setAt] = useState(-1);
  useEffect(() => () => session.actions.set({ lookAt: null }), [session]);
  const alpha = alphaSource(values, document);
  const mask = alpha ? null : layer.mask && findMask(document, layer.mask.maskId);
  if (values.edges !== 'exchange' || !(alpha || mask)) return null;
  const go = (list: typeof places, to: number) => {
    const { size } = session.getState().document;
    setAt(to);
    viewport.showPoint(Math.floor(list[to].x * size.width), Math.floor(list[to].y * size.height));
  };
  const next = async () => {
    const now = session.getState().document;
    let list = places;
    if (at < 0) {
      const picture = await fetchAnswer(client, engine, alpha ? questions.element(now, alpha) : questions.maskPicture(now, mask as Mask), new AbortController().signal);
      list = picture ? edgePlaces(Float32Array.from({ length: picture.size.width * picture.size.height }, (_, i) => picture.rgba[i * 4] / 255), picture.size, EDGE_PLACES) : [];
      setPlaces(list);
      if (list.length === 0) return 'There are no edges between the sky and what stands before it.';
    }
    go(list, (at + 1) % list.length);
    return null;
  };
  const label = 'Edges as they were';
  const isOld = lookAt?.label === label;
  const compare = () => actions.set({ lookAt: isOld ? null : { label, document: applyEdit(session.getState().document, { type: 'set-params', layerId: layer.id, params: { edges: 'plain' } }) } });
  return (
    <Attempts of={[{ label: at < 0 ? 'Look at its edges' : `Edge ${at + 1} of ${places.length}: next`, icon: Focus, run: next }]}>
      {at >= 0 && (
        <Button aria-pressed={isOld} className="aria-pressed:border-ink" onClick={compare}>
          {label}
        </Button>
      )}
    </Attempts>
  );
}

export const skyKind: LayerKind = { hatch: 'hatch-sky', Fields: SkyFields };
