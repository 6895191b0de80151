import { camera, cameraOf, type Camera } from '../camera/camera.ts';
import { viewOfCamera } from '../camera/view.ts';
import { alphaSource } from './air.ts';
import type { TazzelDocument } from '../model/model.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { element } from '../params/references.ts';
import { completeParams, type ParamValues } from '../params/table.ts';
import { CLOUDS } from '../sky/clouds.ts';
import { clearLook, GENERAL_LABELS, generalLook } from '../sky/look.ts';
import { directionOf, sunDirection } from '../sun/position.ts';
import { sunOf, sunPlace } from '../sun/sun.ts';
import type { Triple } from '../vector.ts';
import { defineLayer, type Factor } from './define.ts';
import { prepareSky, type SkyPicture } from './sky-pixel.ts';

const LOOKS = { clear: 'Clear sky', general: 'Sky of the CIE standard' } as const;
const CLOUD_OPTIONS = { none: 'None', cumulus: CLOUDS.cumulus.label, stratus: CLOUDS.stratus.label, cirrus: CLOUDS.cirrus.label } as const;
const TYPES = Object.fromEntries(GENERAL_LABELS.map((label, i) => [`type-${i + 1}`, `${i + 1} ${label}`]));

const skyParams = {
  look: choice({ label: 'Sky', options: LOOKS, default: 'clear', help: 'What it is computed by.' }),
  turbidity: number({ label: 'Turbidity', unit: '', min: 1.7, max: 10, default: 2.5, step: 0.1, digits: 1, help: 'Haze in the air: 2 is very clear, 4 a warm day, 8 white.', when: { look: 'clear' } }),
  type: choice({ label: 'Type', options: TYPES, default: 'type-3', help: 'Of the fifteen standard skies (ISO 15469).', when: { look: 'general' } }),
  kelvin: number({ label: 'Its white', unit: 'K', min: 1700, max: 25_000, default: 6500, step: 100, digits: 0, byFactors: true, help: 'The standard says how bright it is, not its colour.', when: { look: 'general' } }),
  sunFrom: choice({ label: 'Sun', options: { document: 'The document’s', own: 'Of its own' }, default: 'document', help: 'Where the sun of this sky stands.' }),
  altitudeDegrees: number({ label: 'Its height', unit: '°', min: -18, max: 90, default: 20, step: 0.5, digits: 1, help: 'Above the horizon; below it, it is twilight.', when: { sunFrom: 'own' } }),
  azimuthDegrees: number({ label: 'Its direction', unit: '°', min: -360, max: 360, default: 0, step: 1, digits: 1, usual: [-180, 180], help: 'From −z of the scene (north on the plan) over +x (east).', when: { sunFrom: 'own' } }),
  exposureStops: number({ label: 'Exposure', unit: 'stops', min: -16, max: 24, default: 0, step: 0.1, digits: 2, usual: [-4, 4], help: 'At 0 white is 10,000 cd/m².' }),
  tint: color({ label: 'Tint', of: 'light', default: [1, 1, 1], help: 'Its light is multiplied with this.' }),
  hasDisc: flag({ label: 'Sun’s disc', default: false, help: 'Whether the sun itself is seen, where the camera looks there.' }),
  clouds: choice({ label: 'Clouds', options: CLOUD_OPTIONS, default: 'none', help: 'One layer of clouds, lit by the sun of this sky.' }),
  coverPercent: number({ label: 'Cover', unit: '%', min: 0, max: 100, default: 40, step: 1, digits: 0, help: 'How much of the sky they take.' }),
  cloudMetres: number({ label: 'Height of clouds', unit: 'm', min: 0, max: 15_000, default: 0, step: 100, digits: 0, help: 'Higher ones look smaller; 0 is what is usual for them.' }),
  windDegrees: number({ label: 'Wind towards', unit: '°', min: -360, max: 360, default: 60, step: 5, digits: 0, usual: [-180, 180], help: 'Clouds are drawn out along it. From −z of the scene over +x.' }),
  seed: number({ label: 'Seed', unit: '', min: 0, max: 9999, default: 1, step: 1, digits: 0, usual: [0, 100], help: 'Other clouds of the same kind.' }),
  alpha: element({ label: 'Behind', roles: ['alpha'], help: 'The element that says how much of a pixel is not sky; the usual alpha, unless another is chosen.' }),
  edges: choice({ label: 'Edges', options: { exchange: 'Old sky taken out', plain: 'As they are' }, default: 'exchange', help: 'Pixels of which only a part is sky hold some of the old one, which would be a rim.' }),
};
export type SkyValues = ParamValues<typeof skyParams>;

/** Towards the sun of a sky; the document’s, where it is asked for and known. */
export function sunOfSky({ sunFrom, altitudeDegrees, azimuthDegrees }: Pick<SkyValues, 'sunFrom' | 'altitudeDegrees' | 'azimuthDegrees'>, { sun }: Pick<TazzelDocument, 'sun'>): Triple {
  return sunFrom === 'document' && sun ? sunDirection(sunPlace(sunOf(sun))).direction : directionOf({ altitudeDegrees, azimuthDegrees });
}

/** What the parameters of a sky make of it. */
export function skyPicture(values: SkyValues, document: Pick<TazzelDocument, 'sun'>): SkyPicture {
  const { look, turbidity, type, kelvin, exposureStops, tint, hasDisc, clouds, coverPercent, cloudMetres, windDegrees, seed } = values;
  const sun = sunOfSky(values, document);
  const kind = clouds === 'none' ? null : CLOUDS[clouds];
  const gain = 2 ** exposureStops;
  return {
    look: look === 'clear' ? clearLook(turbidity, sun) : generalLook(Number(type.slice('type-'.length)), kelvin, sun),
    sun,
    gain: [tint[0] * gain, tint[1] * gain, tint[2] * gain],
    hasDisc,
    clouds: kind && { ...kind, metres: cloudMetres === 0 ? kind.metres : cloudMetres, cover: coverPercent / 100, windAngle: (windDegrees * Math.PI) / 180, seed: Math.round(seed) },
  };
}

/** The document’s camera, or a level one that looks north. */
export const cameraOrLevel = ({ camera: known }: Pick<TazzelDocument, 'camera'>): Camera => (known ? cameraOf(known) : (completeParams(camera, {}) as unknown as Camera));

/** Another sky behind the building, in perspective. */
export const sky = defineLayer({
  id: 'sky',
  label: 'Sky',
  summary: 'Another sky behind the building: computed by sun and haze, with clouds; edges without a rim.',
  isPlaced: false,
  readsBelow: true,
  params: skyParams,
  nameOf: () => 'Sky',
  begin: ({ sun }) => (sun ? {} : { sunFrom: 'own' }),
  uses: ({ document, values }) => {
    const alpha = alphaSource(values, document);
    return alpha ? [alpha.id] : [];
  },
  origin: (values, { document, source: read, below, oldSky }) => {
    const alpha = alphaSource(values, document);
    const covered = alpha && read(alpha.id);
    const picture = skyPicture(values, document);
    const under = covered && values.edges === 'exchange' ? below() : null;
    const view = viewOfCamera(cameraOrLevel(document), document.size);
    const sight = { view, hasAlpha: covered !== null, exchanges: under !== null };
    const asIs = (from: Factor['from']): Factor => ({ from, scale: null, load: 'as-is' });
    const reads: (Factor | null)[] = [
      covered && asIs({ kind: 'source', sourceId: covered.id }),
      under === null ? null : asIs({ kind: 'picture', node: under }),
      under === null || !covered ? null : asIs({ kind: 'picture', node: oldSky(under, covered) }),
    ];
    return { from: { kind: 'formula', formula: 'sky', prepared: prepareSky(picture, sight), of: { ...picture, ...sight }, reads }, domain: 'light', bounded: false, scale: null, domainRegion: null };
  },
});
