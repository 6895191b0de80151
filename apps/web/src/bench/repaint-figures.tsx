/** Where repainting will look false, in figures: how dark the surface is, how strongly it is coloured, and what of its light is not its colour. */
import { type CorrectionUse, elementValues, findLayer, findMask, findMaterial, luminanceOf, type MaskUse, materialsIn, type RoleId, type Triple } from '@tazzel/core';
import { questions, useAnswer } from '../answers.ts';
import { Button } from '../ui/button.tsx';
import { useActions, useDocument } from '../workspace/context.ts';

/** A surface that throws back less has hardly a texture that could be kept. */
const DARK_LRV = 4;
/** One channel so many times another: what the lamp does to the weak one is known badly. */
const STRONG_CAST = 6;
/** More of the light than this does not come from the colour of the surface. */
const MUCH = 0.35;

export function RepaintFigures({ use, layerId }: { use: CorrectionUse; layerId: string }) {
  const document = useDocument();
  const actions = useActions();
  const mask = findLayer(document, layerId)?.layer.mask ?? null;
  const present = (use.params.presentColor ?? [0, 0, 0]) as Triple;
  const beauty = useMean(['denoised-beauty', 'beauty'], mask);
  const [reflected, refracted, specular] = [useMean(['reflection'], mask), useMean(['refraction'], mask), useMean(['specular'], mask)];
  const other = [reflected, refracted, specular].reduce<number>((sum, part) => sum + (part ?? 0), 0);
  const share = beauty && beauty > 0 ? Math.min(1, other / beauty) : null;
  const lrv = 100 * luminanceOf(present);
  const cast = Math.max(...present) / Math.max(1e-4, Math.min(...present));
  const notes = [
    ...(lrv < DARK_LRV ? [`It is dark: LRV ${lrv.toFixed(1)}. There is hardly a texture to keep, and the new colour will look even.`] : []),
    ...(cast > STRONG_CAST ? [`It is strongly coloured: one channel is ${cast.toFixed(0)} times another. Light of its weak colour is known badly there.`] : []),
    ...(share !== null && share > MUCH ? [`${Math.round(share * 100)} % of its light is reflected or comes through it, and keeps its colour.`] : []),
  ];
  const named = mask && findMask(document, mask.maskId);
  const hasMaterials = named !== null && materialsIn(named).some((id) => findMaterial(document, id));
  return (
    <div className="py-1 text-[12px]">
      {share !== null && (
        <p className="text-faint">
          <span className="figure">{Math.round((1 - share) * 100)} %</span> of its light has the colour of the surface and changes.
        </p>
      )}
      {notes.map((note) => (
        <p key={note} className="text-warn">
          {note}
        </p>
      ))}
      {hasMaterials && (
        <Button className="mt-1" title="What is seen of it through glass and in mirrors changes in the same proportion" onClick={() => actions.edit({ type: 'repaint-there-too', layerId })}>
          In glass and mirrors, too
        </Button>
      )}
    </div>
  );
}

/** Mean luminance of an element within a mask; null while it is not known, or if there is none. */
function useMean(roles: readonly RoleId[], mask: MaskUse | null): number | null {
  const document = useDocument();
  const source = roles.map((role) => document.sources.find((each) => each.role === role)).find((each) => each !== undefined);
  const { data } = useAnswer(source && mask ? questions.measure({ ...elementValues(document, source), masks: document.masks }, {}, 'light', mask) : null);
  return data && data.pixels > 0 ? data.luminance.mean : null;
}
