import { completeParams, findMask, type KeptValues, layerSpec, type ParamTable, type PictureLayer, type Point, type Stroke, strokesOf, type TazzelDocument } from '@tazzel/core';
import { crossPath, type HandleSet, type SessionStore, tenths } from '@tazzel/editor';
import { ParamFields } from '../fields/param-fields.tsx';
import { useActions, useDocument } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';

/** The middle of what was painted; the middle of the picture before anything was. */
function middleOf(document: TazzelDocument, { mask: use }: PictureLayer): Point {
  const mask = use && findMask(document, use.maskId);
  const paths = mask?.terms.flatMap((term) => { const name = strokesOf(term); return name === null ? [] : (term.params[name] as readonly Stroke[]); }).filter(({ erase }) => !erase).flatMap(({ path }) => path) ?? [];
  const count = Math.floor(paths.length / 3);
  if (count === 0) return [document.size.width / 2, document.size.height / 2];
  let [x, y] = [0, 0];
  for (let i = 0; i < count; i++) [x, y] = [x + paths[i * 3], y + paths[i * 3 + 1]];
  return [tenths(x / count), tenths(y / count)];
}

const valuesOf = (layer: PictureLayer) => completeParams(layerSpec('retouch'), layer.params) as KeptValues & { readonly from: Point; readonly work: string };

/** How each work is set on the picture. */
const SEEN = 'It is seen where its mask is painted.';
const TAKEN = `${SEEN} Drag the handle on the picture to the place that it takes.`;
const HELP: Readonly<Record<string, string>> = { heal: TAKEN, clone: TAKEN, fill: SEEN, move: 'What its mask covers goes elsewhere. Drag the handle on the picture to where it goes.' };

/** What is turned or scaled keeps the middle of the strokes where it is. */
function RetouchFields({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const actions = useActions();
  const values = valuesOf(layer);
  const { work } = values;
  const unused = ['middle', ...(work === 'fill' ? ['from', 'scalePercent', 'turnDegrees', 'isMirrored', 'plane', 'wallDegrees'] : []), ...(work === 'clone' ? ['reachPx'] : [])];
  const params: ParamTable = Object.fromEntries(Object.entries(layerSpec('retouch').params).flatMap(([name, param]) => (unused.includes(name) ? [] : [[name, name === 'from' && work === 'move' ? { ...param, label: 'To' } : param]])));
  const hasStrokes = layer.mask !== null;
  return (
    <>
      <ParamFields params={params} values={values} onChange={(patch, gesture) => actions.edit({ type: 'set-params', layerId: layer.id, params: { ...patch, middle: middleOf(document, layer) } }, gesture)} />
      <p className="text-[12px] text-faint">
        {hasStrokes ? `${HELP[work]} With Shift a click of the brush draws a straight line from the last one: a cable is gone with two.` : 'It has no mask: all of the picture is moved. Give it one, and paint where it is to be seen.'}
      </p>
    </>
  );
}

function retouchHandles(layer: PictureLayer, session: SessionStore): HandleSet | null {
  const { document } = session.getState();
  const middle = middleOf(document, layer);
  const { from, work } = valuesOf(layer);
  if (work === 'fill') return null;
  return {
    key: layer.id,
    layerId: layer.id,
    label: 'Handles of the retouched place',
    handles: [{ label: work === 'move' ? 'It moves here' : 'It is taken from here', at: [middle[0] + from[0], middle[1] + from[1]], look: 'round' }],
    outline: ([taken]) => crossPath(taken, 12),
    move: (_, to, gesture) => void session.actions.edit({ type: 'set-params', layerId: layer.id, params: { from: [tenths(to[0] - middle[0]), tenths(to[1] - middle[1])], middle } }, gesture),
  };
}

export const retouchKind: LayerKind = { hatch: 'hatch-retouch', Fields: RetouchFields, handles: retouchHandles };
