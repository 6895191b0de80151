import { cameraOf } from '../camera/camera.ts';
import { vanishingPoint, viewOfCamera } from '../camera/view.ts';
import { alphaSource, missingElement, sourceOf } from '../masks/read.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { element } from '../params/references.ts';
import { sunDirection } from '../sun/position.ts';
import { sunOf, sunPlace } from '../sun/sun.ts';
import { type Air, prepareAir } from './air-pixel.ts';
import { defineLayer, type Factor } from './define.ts';

const ROLES = ['distance', 'depth'] as const;

const metres = (label: string, min: number, max: number, initial: number, usual: readonly [number, number], help: string) => number({ label, unit: 'm', min, max, default: initial, step: 1, digits: 1, usual, help });
const percent = (label: string, max: number, initial: number, help: string) => number({ label, unit: '%', min: 0, max, default: initial, step: 1, digits: 0, help });

/** Haze, mist and fog in metres: light of the air before what lies behind it. */
export const air = defineLayer({
  id: 'air',
  label: 'Air',
  summary: 'Haze, mist or fog in metres, by the distance of what is seen.',
  isPlaced: false,
  readsBelow: true,
  params: {
    visibilityMetres: number({ label: 'Visibility', unit: 'm', min: 5, max: 277_000, default: 300, step: 10, digits: 0, usual: [20, 20_000], byFactors: true, help: 'As far as one sees: what is dark is just lost there (contrast of 2 %).' }),
    startMetres: metres('Begins', 0, 100_000, 0, [0, 200], 'No air nearer than this.'),
    endMetres: metres('Ends at', 0, 100_000, 0, [0, 500], 'No air farther than this: smoke over one place. 0 is no end.'),
    fallOffMetres: metres('Thins out over', 0, 100_000, 20, [0, 200], 'So much higher up it is e times (2.7 times) thinner; 0 is even at any height. Needs the camera.'),
    groundMetres: metres('Lies on', -10_000, 10_000, 0, [-10, 20], 'The height at which it is as thick as its visibility says.'),
    ceilingMetres: metres('Ends above', 0, 100_000, 0, [0, 100], 'A height over its ground with no air above; 0 is no end. Needs the camera.'),
    color: color({ label: 'Light', of: 'light', default: [0.62, 0.69, 0.78], help: 'What very much of it looks like. Pick it from the sky near the horizon.' }),
    glowPercent: percent('Glow', 400, 0, 'Light on its way from the sun, added to that. Needs camera and sun.'),
    glowColor: color({ label: 'Of the sun', of: 'light', default: [1, 0.82, 0.6], help: 'The light of the glow.' }),
    forwardness: number({ label: 'Forwards', unit: '', min: 0, max: 0.95, default: 0.76, step: 0.02, digits: 2, help: 'How closely the glow lies around the sun: 0 is even, 0.76 is haze.' }),
    shaftsPercent: percent('Shafts', 100, 0, 'How far the glow comes only from where the sky is seen past what stands before it: rays through trees, doors, between buildings. Needs glow, and an alpha.'),
    reachPercent: percent('Reaching', 300, 80, 'How long the shafts are, as a share of the picture’s height.'),
    skyPercent: percent('On the sky', 100, 100, 'How much of it lies before the sky.'),
    bluePercent: percent('Blue distance', 200, 0, 'Clear air takes blue from what is far, and shines blue before what is dark: 100 % is air without any haze in it.'),
    mistPercent: percent('Drifting', 100, 0, 'How unevenly it lies, in banks: at 100 % from nothing to twice as thick. Needs the camera.'),
    mistMetres: number({ label: 'Banks of', unit: 'm', min: 0.5, max: 5000, default: 25, step: 1, digits: 1, usual: [2, 200], byFactors: true, help: 'How wide its banks are.' }),
    seed: number({ label: 'Seed', unit: '', min: 0, max: 9999, default: 1, step: 1, digits: 0, usual: [0, 100], help: 'Other banks of the same kind.' }),
    source: element({ label: 'Reads', roles: ROLES, help: 'The element of distances or depths; the usual one, unless another is chosen.' }),
    alpha: element({ label: 'Not sky by', roles: ['alpha'], help: 'The element that says how much of a pixel is not sky; the usual alpha, unless another is chosen.' }),
  },
  nameOf: () => 'Air',
  problem: ({ document, values }) => (missingElement(values, document, ROLES) === null ? null : 'there is no element of depths or distances in metres. Render one, or choose it where it reads.'),
  uses: ({ document, values }) => [sourceOf(values, document, ROLES), alphaSource(values, document)].flatMap((source) => (source ? [source.id] : [])),
  origin: (values, { document, source: read, sides, below, coveredBy, smeared }) => {
    const wanted = sourceOf(values, document, ROLES);
    const source = wanted && read(wanted.id);
    if (!source) return null;
    const alpha = alphaSource(values, document);
    const covered = alpha && read(alpha.id);
    const covering = covered && coveredBy(covered);
    const { endMetres, glowPercent, glowColor, shaftsPercent, reachPercent, skyPercent, bluePercent, mistPercent, fallOffMetres, ceilingMetres } = values;
    const under = bluePercent > 0 ? below() : null;
    const view = document.camera && viewOfCamera(cameraOf(document.camera), document.size);
    const sun = document.sun && sunDirection(sunPlace(sunOf(document.sun))).direction;
    const towards = view && sun && covered && glowPercent > 0 && shaftsPercent > 0 ? vanishingPoint(view, sun) : null;
    const before = covering && towards ? smeared(covering.node(), towards, (reachPercent / 100) * document.size.height) : null;
    const of: Air = {
      ...values,
      fallOffMetres: fallOffMetres === 0 ? null : fallOffMetres,
      ceilingMetres: ceilingMetres === 0 ? null : ceilingMetres,
      endMetres: endMetres === 0 ? null : endMetres,
      glow: [(glowColor[0] * glowPercent) / 100, (glowColor[1] * glowPercent) / 100, (glowColor[2] * glowPercent) / 100],
      sky: skyPercent / 100,
      mist: mistPercent / 100,
      blue: bluePercent / 100,
      shafts: before === null ? 0 : shaftsPercent / 100,
      seed: Math.round(values.seed),
    };
    const sight = {
      view,
      sun,
      areDepths: source.role !== 'distance',
      hasAlpha: covered !== null,
      readsBelow: under !== null,
    };
    const reads: (Factor | null)[] = [{ from: { kind: 'picture', node: sides(source) }, scale: null, load: 'as-is' }, covering ? covering.factor : null, under === null ? null : { from: { kind: 'picture', node: under }, scale: null, load: 'as-is' }, before === null ? null : { from: { kind: 'picture', node: before }, scale: null, load: 'as-is', isGrey: true }];
    return { from: { kind: 'formula', formula: 'air', prepared: prepareAir(of, sight), of: { ...of, ...sight }, reads }, domain: 'light', bounded: false, scale: null, domainRegion: null };
  },
});
