import { chromatic, clampUnit, completeParams, computesInLight, correctionById, depthThere, enteringDocument, focusSource, type KeptValues, type Point, type Reads, sourceOf, srgbDecode, srgbEncode, termSpec, type Triple } from '@tazzel/core';
import { openCorrection, openLight, openTerm } from '../session.ts';
import { clickOrPan, type Tool, type ToolHost } from './define.ts';

type Pixel = { readonly x: number; readonly y: number };
/** A pixel of the picture as it is shown, and that of the render that is seen there. */
type Picked = { readonly shown: Pixel; readonly behind: Pixel };

/** What sets a whole correction is no single grain of noise: pixels to each side of the one that is clicked. */
const AROUND = 2;
/** Farther away is nothing that one could focus at. */
const FARTHEST_METRES = 10_000;

const triple = (values: ArrayLike<number>): Triple => [0, 1, 2].map((c) => values[Math.min(c, values.length - 1)]) as unknown as Triple;

/** What the open line of a mask takes of a pixel: of the element that it reads, or of the picture. */
async function takenByTerm(host: ToolHost, { maskId, term }: NonNullable<ReturnType<typeof openTerm>>, { shown: seen, behind: { x, y } }: Picked) {
  const { document } = host.session.getState();
  const { params, pick: taker, reads } = termSpec(term.type);
  if (!taker) return null;
  const values = completeParams({ label: term.type, params }, term.params);
  const read = values as unknown as Reads;
  const source = read.after ? null : sourceOf(read, document, reads?.roles ?? []);
  const there = source ? await host.valuesAt(source, x, y) : null;
  const shown = there ? triple(there).map((value) => (source?.encoding === 'linear' ? srgbEncode(value) : clampUnit(value))) : triple((await host.probe(document, seen.x, seen.y, 0)).codes).map((code) => code / 255);
  const taken = taker.take({ values: there, shown: shown as unknown as Triple, pixel: [x, y] }, values);
  return taken && { type: 'set-params' as const, maskId, termId: term.id, params: taken };
}

function refused({ session }: ToolHost, why: string): null {
  session.actions.refuse(why);
  return null;
}

/** What the open correction takes of the values that come in at a pixel, in the numbers in which it computes. */
async function takenByCorrection(host: ToolHost, { address, use, zone }: NonNullable<ReturnType<typeof openCorrection>>, at: Point, { behind: { x, y } }: Picked) {
  const { document, openPick } = host.session.getState();
  const spec = correctionById(use.type);
  const taker = spec.picks?.[openPick];
  if (!taker) return null;
  const values = completeParams(spec, use.params);
  const sets = (taken: KeptValues | null) => taken && { type: 'set-params' as const, ...address, params: taken satisfies KeptValues };
  if (taker.of === 'metres') {
    const source = focusSource(document);
    const there = source && (await host.valuesAt(source, x, y));
    if (!source || !there) return refused(host, 'The document has no depth in metres there. Add the depth element of the render, or write the distance by hand.');
    const metres = depthThere(document, [x + 0.5, y + 0.5], there[0], source.role);
    // What lies infinitely far away has no distance to be set.
    if (!(metres > 0 && metres < FARTHEST_METRES)) return refused(host, 'That is sky, which is infinitely far away. Click something that stands somewhere.');
    return sets(taker.take([metres, metres, metres], values));
  }
  const entering = host.pixelAt(host.placeBehind(at, address.layerId));
  if (!entering) return null;
  const { light, codes } = await host.probe(enteringDocument(document, address.layerId, address.correctionId ?? null), entering.x, entering.y, AROUND);
  const picture = triple(codes).map((code) => code / 255);
  const incoming = computesInLight(spec, zone) ? (zone === 'scene' ? triple(light) : picture.map(srgbDecode)) : picture;
  return sets(taker.take(incoming as unknown as Triple, values));
}

/** The colour of a place in the picture, for a lamp that is to shine in it. */
async function takenByLight(host: ToolHost, lightId: string, { x, y }: Pixel) {
  const { light } = await host.probe(host.session.getState().document, x, y, AROUND);
  const color = chromatic(triple(light));
  return color && { type: 'set-params' as const, lightId, params: { takes: 'chosen', color: color.map((value) => Math.max(0, value)) as unknown as Triple } };
}

/** Takes what lies at a pixel for the light group, the line of a mask or the correction that is open, and is put away. Where nothing can be taken it stays in the hand. */
export async function pickAt(host: ToolHost, at: Point): Promise<void> {
  const term = openTerm(host.session.getState());
  const correction = openCorrection(host.session.getState());
  const [shown, behind] = [host.pixelAt(at), host.pixelAt(host.placeBehind(at))];
  if (!shown || !behind) return;
  const picked = { shown, behind };
  const light = openLight(host.session.getState());
  const edit = light ? await takenByLight(host, light.id, shown) : term ? await takenByTerm(host, term, picked) : correction ? await takenByCorrection(host, correction, at, picked) : null;
  if (edit && host.session.actions.edit(edit)) host.session.actions.set({ tool: 'select' });
}

export const pick: Tool = {
  id: 'pick',
  label: 'Pick',
  cursor: 'crosshair',
  stages: null,
  press: (host, place) => clickOrPan(host, place, ({ at }) => void pickAt(host, at)),
};
