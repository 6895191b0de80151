/** Groups of layers that are often wanted together, each to be taken apart and changed afterwards. A new one is an entry here. */
import type { BlendModeId } from '../blend/modes.ts';
import type { Zone } from '../color/zones.ts';
import { THINGS } from '../elements/vocabulary.ts';
import { namedLike } from '../elements/materials.ts';
import { type RoleId, roleLabel } from '../elements/roles.ts';
import type { Mask, TazzelDocument } from '../model/model.ts';
import { depthSource } from '../model/query.ts';
import type { KeptValues } from '../params/table.ts';
import { materialTerm, newMask, newTerm } from './mask-edits.ts';

interface Ready {
  readonly masks: readonly Omit<Mask, 'id'>[];
  readonly layers: readonly (ReadyCorrection | ReadyPicture)[];
}

interface ReadyPart {
  readonly type: string;
  readonly params: KeptValues;
  /** Which of the masks, counted from 0; null for everywhere. */
  readonly mask: number | null;
  readonly inverted: boolean;
}
interface ReadyCorrection extends ReadyPart {
  readonly kind: 'correction';
  readonly name: string;
}
interface ReadyPicture extends ReadyPart {
  readonly kind: 'picture';
  readonly name: string;
  readonly blend: BlendModeId;
  readonly chain: readonly ReadyPart[];
}

export interface ReadyGroup {
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly zone: Zone;
  /** It is what lens and film do. */
  readonly isOfLens?: boolean;
  /** Why it cannot be made of this document, in a sentence; null if it can. */
  readonly lack: (document: TazzelDocument) => string | null;
  /** Ids are given when it is added. */
  readonly make: (document: TazzelDocument) => Ready;
  readonly source: string;
}

const PRACTICE = 'common practice, no published source';

const depthCues: ReadyGroup = {
  id: 'depth-cues',
  label: 'Depth cues',
  summary: 'More contrast and vibrance in front, less contrast and colour far away.',
  zone: 'scene',
  lack: (document) => (depthSource(document) ? null : 'Depth cues need to know how far things are: add the depth element of the render.'),
  make: (document): Ready => ({
    masks: [newMask('', 'Near', [newTerm('depth', 'add', document, { nearMetres: 0, farMetres: 12, softNearMetres: 0, softFarMetres: 30 })]), newMask('', 'Far', [newTerm('depth', 'add', document, { nearMetres: 60, farMetres: 10_000, softNearMetres: 45, softFarMetres: 0 })])],
    layers: [
      { kind: 'correction', name: 'Near: contrast', type: 'contrast', params: { contrastPercent: 12 }, mask: 0, inverted: false },
      { kind: 'correction', name: 'Near: vibrance', type: 'vibrance', params: { amountPercent: 20 }, mask: 0, inverted: false },
      { kind: 'correction', name: 'Far: contrast', type: 'contrast', params: { contrastPercent: -18 }, mask: 1, inverted: false },
      { kind: 'correction', name: 'Far: saturation', type: 'hue-saturation', params: { saturationPercent: 75 }, mask: 1, inverted: false },
    ],
  }),
  source: PRACTICE,
};

/** Rows of the schedule that light comes out of: panes, and what shines by itself. */
const insideRows = ({ materials }: TazzelDocument) => namedLike(materials, THINGS.glazing.words);

const warmAndCool: ReadyGroup = {
  id: 'warm-inside',
  label: 'Warm inside, cool outside',
  summary: 'Light behind the glazing warmer, everything else cooler.',
  zone: 'scene',
  lack: (document) => (insideRows(document).length > 0 ? null : 'No material is called glass, glazing or window. Name the panes in the material schedule first.'),
  make: (document): Ready => ({
    masks: [newMask('', 'Inside', [materialTerm(insideRows(document).map(({ id }) => id))])],
    layers: [
      { kind: 'correction', name: 'Inside: warmer', type: 'white-balance', params: { kelvin: 8200 }, mask: 0, inverted: false },
      { kind: 'correction', name: 'Outside: cooler', type: 'white-balance', params: { kelvin: 5600 }, mask: 0, inverted: true },
    ],
  }),
  source: PRACTICE,
};

const brighterMiddle: ReadyGroup = {
  id: 'brighter-middle',
  label: 'Middle brighter, edges darker',
  summary: 'A feathered oval and its inverse lead the eye to the middle.',
  zone: 'scene',
  lack: () => null,
  make: ({ size: { width, height } }): Ready => {
    const [x, y] = [width / 2, height / 2];
    const oval = { points: [[x, y], [x + width * 0.36, y], [x, y + height * 0.34]] as const, softPx: Math.round(Math.min(width, height) * 0.3) };
    return {
      masks: [newMask('', 'Middle', [{ id: 'term-1', type: 'ellipse', operation: 'add', muted: false, params: oval }])],
      layers: [
        { kind: 'correction', name: 'Middle: brighter', type: 'exposure', params: { exposureStops: 0.35 }, mask: 0, inverted: false },
        { kind: 'correction', name: 'Edges: darker', type: 'exposure', params: { exposureStops: -0.45 }, mask: 0, inverted: true },
      ],
    };
  },
  source: PRACTICE,
};

const depthFade: ReadyGroup = {
  id: 'depth-fade',
  label: 'Fade with depth',
  summary: 'A colour that grows from near to far, but not over the sky: the mask has both depths and the curve between them.',
  zone: 'scene',
  lack: (document) => (depthSource(document) ? null : 'A fade needs to know how far things are: add the depth element of the render.'),
  make: (document): Ready => ({
    masks: [newMask('', 'Fading', [newTerm('depth', 'add', document, { nearMetres: 150, farMetres: 10_000, softNearMetres: 140, softFarMetres: 0 })])],
    layers: [{ kind: 'picture', name: 'Fade', type: 'fill', params: { from: [0.62, 0.69, 0.78] }, blend: 'normal', chain: [], mask: 0, inverted: false }],
  }),
  source: PRACTICE,
};

const lightOfRole = ({ sources }: TazzelDocument, wanted: RoleId) => sources.find(({ role, encoding }) => role === wanted && encoding !== 'data') ?? null;
/** An element of that role added once more, with corrections of its own. */
const added = (document: TazzelDocument, role: RoleId, chain: readonly (readonly [type: string, params: KeptValues, mask?: number])[]): ReadyPicture => ({
  kind: 'picture',
  name: roleLabel(role),
  type: 'element',
  params: { source: lightOfRole(document, role)?.id ?? '' },
  blend: 'add',
  chain: chain.map(([type, params, mask = null]) => ({ type, params, mask, inverted: false })),
  mask: null,
  inverted: false,
});

const moreAtmosphere: ReadyGroup = {
  id: 'more-atmosphere',
  label: 'More of the rendered atmosphere',
  summary: 'The rendered fog once more, stronger far away: each strength is a correction of its chain with a mask of its own.',
  zone: 'scene',
  lack: (document) => (lightOfRole(document, 'atmosphere') === null ? 'There is no element of the atmosphere: render fog with its element, or add air.' : depthSource(document) ? null : 'To be stronger far away it needs the depth element of the render.'),
  make: (document): Ready => ({
    masks: [newMask('', 'Far', [newTerm('depth', 'add', document, { nearMetres: 60, farMetres: 10_000, softNearMetres: 45, softFarMetres: 0 })])],
    layers: [added(document, 'atmosphere', [['exposure', { exposureStops: 0 }], ['exposure', { exposureStops: 1.5 }, 0], ['white-balance', {}]])],
  }),
  source: PRACTICE,
};

const renderedGlare: ReadyGroup = {
  id: 'rendered-glare',
  label: 'The renderer’s own glare',
  summary: 'The glare element added, with strength and temperature in its chain: where the beauty was rendered without it.',
  zone: 'scene',
  isOfLens: true,
  lack: (document) => (lightOfRole(document, 'glare') === null ? 'There is no element of the glare: render it as an element, or use glow.' : null),
  make: (document): Ready => ({ masks: [], layers: [added(document, 'glare', [['exposure', {}], ['white-balance', {}]])] }),
  source: PRACTICE,
};

const lensGroup = (id: string, label: string, summary: string, zone: Zone, parts: readonly (readonly [type: string, name: string, params: KeptValues])[]): ReadyGroup => ({
  id,
  label,
  summary,
  zone,
  isOfLens: true,
  lack: () => null,
  make: () => ({ masks: [], layers: parts.map(([type, name, params]) => ({ kind: 'correction', type, name, params, mask: null, inverted: false })) }),
  source: PRACTICE,
});
const cleanWide = lensGroup('clean-wide', 'Clean 28 mm', 'A good wide lens: corners fall off a little, and colours hardly part there.', 'scene', [
  ['colour-fringes', 'Fringes', { redPercent: 0.03, bluePercent: -0.02 }],
  ['vignette', 'Corners', { cornerStops: -0.3, midpointPercent: 75 }],
]);
const eveningLens = lensGroup('evening-lens', 'Evening glow', 'Lamps and windows glow warmly, corners fall off a little.', 'scene', [
  ['glow', 'Glow of lamps', { amountPercent: 14, power: 2.2, sizePercent: 0.12, tint: [1, 0.82, 0.62] }],
  ['vignette', 'Corners', { cornerStops: -0.35, midpointPercent: 70 }],
]);
const oldWide = lensGroup('old-wide', 'Old wide lens', 'A veil of scattered light, dark corners, edges a little soft.', 'scene', [
  ['glow', 'Veil', { amountPercent: 8, power: 1.9, sizePercent: 0.4 }],
  ['tilt-blur', 'Soft top and bottom', { sigmaPercent: 0.12, sharpPercent: 28, fadePercent: 30 }],
  ['vignette', 'Corners', { cornerStops: -1, midpointPercent: 62, roundnessPercent: 100 }],
]);
const halation = lensGroup('halation', 'Halation', 'Red edges around what is bright, as film has them where light comes back from its base. Even places stay as they are.', 'scene', [['glow', 'Halation', { amountPercent: 12, power: 3, sizePercent: 0.12, tint: [1, 0.22, 0.05] }]]);
const filmFinish = lensGroup('film-finish', 'Film', 'A soft glow and grain over all of it, so that render and photographs are of one piece.', 'picture', [
  ['glow', 'Soft glow', { amountPercent: 6, power: 2.1, sizePercent: 0.3, tint: [1, 0.7, 0.55] }],
  ['grain', 'Grain', { amountStops: 0.13, sizePx: 1.4 }],
]);

/** Rows of the schedule that are water. */
const waterRows = ({ materials }: TazzelDocument) => namedLike(materials, THINGS.water.words);

const longExposure: ReadyGroup = {
  id: 'long-exposure-water',
  label: 'Water in a long exposure',
  summary: 'What it mirrors is drawn out up and down, ripples to the sides; nothing beside the water is taken in.',
  zone: 'scene',
  isOfLens: true,
  lack: (document) => (waterRows(document).length > 0 ? null : 'No material is called water, pool or sea. Name it in the material schedule first.'),
  make: (document): Ready => ({
    masks: [newMask('', 'Water', [materialTerm(waterRows(document).map(({ id }) => id))])],
    layers: [
      { kind: 'correction', name: 'Mirrored: up and down', type: 'motion-blur', params: { lengthPercent: 3, angleDegrees: 90 }, mask: 0, inverted: false },
      { kind: 'correction', name: 'Ripples: to the sides', type: 'motion-blur', params: { lengthPercent: 1.2, angleDegrees: 0 }, mask: 0, inverted: false },
    ],
  }),
  source: PRACTICE,
};

export const readyGroups: readonly ReadyGroup[] = [depthCues, warmAndCool, brighterMiddle, depthFade, moreAtmosphere, renderedGlare, cleanWide, eveningLens, oldWide, halation, filmFinish, longExposure];

export const readyGroupById = (id: string): ReadyGroup | null => readyGroups.find((group) => group.id === id) ?? null;
