import { cameraOf } from '../camera/camera.ts';
import { viewOfCamera } from '../camera/view.ts';
import { cardOf } from '../figures/card.ts';
import { sourceOf } from '../masks/read.ts';
import { findSource } from '../model/query.ts';
import type { Source, TazzelDocument } from '../model/model.ts';
import { sunDirection } from '../sun/position.ts';
import { sunOf, sunPlace } from '../sun/sun.ts';
import { scaledBy } from '../vector.ts';
import { defineLayer } from './define.ts';
import { DEPTHS, FIGURES, figureBox, figuresParams } from './figures-values.ts';

const ofRole = ({ sources }: TazzelDocument, role: string): Source | null => sources.find((source) => source.role === role) ?? null;
/** People, trees and things that are stood into the picture: as tall as they are where they stand, hidden by what is before them, in the light of the place, with their shadow. */
export const figuresLayer = defineLayer({
  id: FIGURES,
  label: figuresParams.label,
  summary: 'People, trees and things stood into the picture by camera and depth, with shadow and light of the place.',
  isPlaced: false,
  readsBelow: true,
  params: figuresParams.params,
  nameOf: ({ document, values }) => (values.figures.length === 1 ? (findSource(document, values.figures[0].sourceId)?.name ?? 'Figure') : 'Figures'),
  problem: ({ document, values }) => {
    if (document.camera === null) return 'the camera is not known, and with it how tall they are. Set it under Elements, Camera and sun: two pairs of lines, or the horizon.';
    if (values.figures.length === 0) return 'nothing stands there yet. Choose a figure and click the ground.';
    const view = viewOfCamera(cameraOf(document.camera), document.size);
    const shown = values.figures.filter((figure) => {
      const source = findSource(document, figure.sourceId);
      return source && cardOf(view, figure, figureBox(source));
    });
    return shown.length > 0 ? null : 'they stand above the horizon, where there is no ground. Drag their feet down.';
  },
  uses: ({ document, values }) => [...(values.shadowFrom === 'caught' ? [findSource(document, values.caught)] : []), findSource(document, values.shines), sourceOf({ source: values.depth }, document, DEPTHS), ...['normals', 'diffuse-filter', 'reflection', 'reflection-filter'].map((role) => ofRole(document, role))].flatMap((source) => (source ? [source.id] : [])),
  origin: (values, planning) => {
    const { document, source: read } = planning;
    if (!document.camera) return null;
    const view = viewOfCamera(cameraOf(document.camera), document.size);
    const sun = document.sun && sunDirection(sunPlace(sunOf(document.sun))).direction;
    const metres = sourceOf({ source: values.depth }, document, DEPTHS);
    const depths = metres && read(metres.id);
    const figures = values.figures
      .flatMap((figure) => {
        const source = findSource(document, figure.sourceId) && read(figure.sourceId);
        const box = source && figureBox(source);
        const card = box && cardOf(view, figure, box);
        return card ? [{ node: planning.alone(source), box, card }] : [];
      })
      // From far to near, as they stand before each other.
      .toSorted((one, other) => away(other.card.foot, view.eye) - away(one.card.foot, view.eye));
    if (figures.length === 0) return null;
    const reading = (role: string) => {
      const source = ofRole(document, role);
      const known = source && read(source.id);
      return known ? { node: planning.element(known) } : null;
    };
    const look = {
      view,
      sun,
      areDepths: depths?.role !== 'distance',
      style: values.style as 'as-is' | 'tone' | 'silhouette',
      styleColor: values.styleColor,
      gain: scaledBy(values.tint, 2 ** values.exposureStops),
      modelling: values.modellingPercent / 100,
      throws: values.shadowFrom === 'thrown',
      drawnInPx: values.edgePx,
      fringePx: values.fringePx,
      shine: values.shinesPercent / 100,
      shadow: values.shadowPercent / 100,
      soft: values.softPercent / 100,
      contact: values.contactPercent / 100,
      mirror: values.mirrorPercent / 100,
    };
    const chosen = (id: string) => {
      const known = findSource(document, id) && read(id);
      return known ? { node: planning.element(known) } : null;
    };
    const under = planning.below();
    const sides = depths ? { node: planning.sides(depths) } : null;
    const light = under === null ? null : planning.light(['sun']);
    const [filter, reflection] = look.mirror > 0 ? [reading('reflection-filter'), reading('reflection')] : [null, null];
    const colour = under === null ? null : reading('diffuse-filter');
    const node = {
      ...look,
      figures,
      below: under === null ? null : { node: under },
      sides,
      normals: under === null ? null : reading('normals'),
      mirrors: reflection && (filter || colour) ? { filter, reflection } : null,
      sunlight: light && { sun: { node: light.some }, all: { node: light.all } },
      caught: under !== null && values.shadowFrom === 'caught' ? chosen(values.caught) : null,
      shines: look.shine > 0 ? chosen(values.shines) : null,
      filter: colour,
    };
    const casts = under !== null && (look.contact > 0 || (look.shadow > 0 && look.throws && sun) || node.caught !== null || node.mirrors !== null);
    const beneath = casts ? planning.figures({ ...node, part: 'cast' }) : null;
    const shown = planning.figures({ ...node, part: 'figures', normals: null, mirrors: null });
    const unlit = { ...look, figures, normals: null, mirrors: null, caught: null, shines: null, sunlight: null, filter: null };
    planning.stand({
      sides: (before, areDepths) => planning.figures({ ...unlit, areDepths, part: 'sides', below: null, sides: { node: before } }),
      cover: (before) => planning.figures({ ...unlit, part: 'cover', below: { node: before }, sides }),
    });
    return { from: { kind: 'picture', node: shown }, domain: 'light', bounded: false, scale: null, domainRegion: null, beneath };
  },
});

const away = (foot: readonly number[], eye: readonly number[]): number => Math.hypot(foot[0] - eye[0], foot[2] - eye[2]);
