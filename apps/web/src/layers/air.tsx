import { alphaSource, cameraOf, completeParams, layerSpec, type PictureLayer, sunDirection, sunOf, sunPlace, type TazzelDocument, vanishingPoint, viewOfCamera, WEATHERS, weatherOf } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { CloudSun } from 'lucide-react';
import { Attempts } from '../ui/attempts.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';
import { renderedSkyElements, renderedSkyLight } from './rendered-sky.ts';

const metres = new Intl.NumberFormat('en', { maximumFractionDigits: 0 });

/** Kinds of weather beside their visibility, the light of the air from the rendered sky, and what is missing for the rest. */
function AirFields({ layer }: { layer: PictureLayer }) {
  const document = useDocument();
  const actions = useActions();
  const spec = layerSpec('air');
  const { visibilityMetres, fallOffMetres, ceilingMetres, glowPercent, shaftsPercent, mistPercent } = completeParams(spec, layer.params) as Readonly<Record<string, number>>;
  const set = (params: PictureLayer['params']) => actions.edit({ type: 'set-params', layerId: layer.id, params });
  const lacks = [
    document.camera === null && (fallOffMetres > 0 || ceilingMetres > 0) && 'The camera is not known: it is even at any height. Set the camera under Elements, Camera and sun.',
    document.camera === null && mistPercent > 0 && 'Without the camera it has no banks. Set it under Elements, Camera and sun.',
    shaftsPercent > 0 && shaftsLack(document, layer),
    glowPercent > 0 && (document.camera === null || document.sun === null) && 'Without camera and sun it does not glow. Set them under Elements, Camera and sun.',
  ];
  return (
    <>
      <Line label="Weather">
        <Choice
          label="Weather"
          value={weatherOf(visibilityMetres)}
          options={WEATHERS.map(({ label, metres: far }, i) => ({ value: label, label, hint: i === 0 ? `below ${far} m` : `${metres.format(WEATHERS[i - 1].metres)} – ${metres.format(far)} m` }))}
          onChange={(label) => {
            const i = WEATHERS.findIndex((weather) => weather.label === label);
            // Between the ends of the class, as one counts visibility: by factors.
            set({ visibilityMetres: Math.round(i === 0 ? WEATHERS[0].metres * 0.8 : Math.sqrt(WEATHERS[i - 1].metres * WEATHERS[i].metres)) });
          }}
        />
      </Line>
      <LayerFields layer={layer} only={Object.keys(spec.params).filter((name) => (mistPercent > 0 || (name !== 'mistMetres' && name !== 'seed')) && (shaftsPercent > 0 || name !== 'reachPercent'))} />
      <LightOfSky onFound={(color) => set({ color })} />
      {lacks.map((lack) => lack && <p key={lack} className="text-[12px] text-faint">{lack}</p>)}
    </>
  );
}

/** Why shafts are not seen. */
function shaftsLack(document: TazzelDocument, { params }: PictureLayer): string | null {
  if (Number(params.glowPercent) === 0) return 'Shafts are made of the glow: raise it first.';
  if (alphaSource({ alpha: String(params.alpha) }, document) === null) return 'Without an element of alpha it is not known where the sky is seen, and there are no shafts.';
  if (!document.camera || !document.sun) return null;
  const sees = vanishingPoint(viewOfCamera(cameraOf(document.camera), document.size), sunDirection(sunPlace(sunOf(document.sun))).direction) !== null;
  return sees ? null : 'The sun stands behind the camera: no shafts come from there.';
}

/** The mean light of the sky that was rendered, where there is an element of it. */
function LightOfSky({ onFound }: { onFound: (color: readonly [number, number, number]) => void }) {
  const { session, engine } = useWorkspace();
  const document = useDocument();
  const client = useQueryClient();
  if (!renderedSkyElements(document)) return null;
  const measured = async () => {
    const light = await renderedSkyLight(session.getState().document, client, engine);
    if (light) onFound(light);
    return light ? null : 'No sky is seen in this render.';
  };
  return <Attempts of={[{ label: 'Light of the rendered sky', icon: CloudSun, run: measured }]} />;
}

export const airKind: LayerKind = { hatch: 'hatch-air', Fields: AirFields };
