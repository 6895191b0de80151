/** The parameters of a sky, what they make of it, and what brings it to a picture. */
import { camera, cameraOf, type Camera } from '../camera/camera.ts';
import { type CameraView, horizonAt, rayThrough, viewOfCamera } from '../camera/view.ts';
import { luminanceOf } from '../color/luminance.ts';
import type { PictureLayer, TazzelDocument } from '../model/model.ts';
import { layersInOrder } from '../model/query.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { element } from '../params/references.ts';
import { completeParams, type KeptValues, type ParamValues } from '../params/table.ts';
import type { AffineMap } from '../raster/affine.ts';
import type { Region, Size } from '../raster/region.ts';
import { CLOUDS } from '../sky/clouds.ts';
import { clearLook, GENERAL_LABELS, generalLook } from '../sky/look.ts';
import type { ShelfSky } from '../sky/shelf.ts';
import { directionOf, positionOf, sunDirection } from '../sun/position.ts';
import { sunOf, sunPlace } from '../sun/sun.ts';
import { dot, plus, scaledBy, type Triple } from '../vector.ts';
import { plainSight, prepareSky, type SkyPicture, skyPixel } from '../sky/pixel.ts';

const LOOKS = { clear: 'Clear sky', general: 'Sky of the CIE standard', environment: 'Environment', photograph: 'Photograph' } as const;
const CLOUD_OPTIONS = { none: 'None', cumulus: CLOUDS.cumulus.label, stratus: CLOUDS.stratus.label, cirrus: CLOUDS.cirrus.label } as const;
const TYPES = Object.fromEntries(GENERAL_LABELS.map((label, i) => [`type-${i + 1}`, `${i + 1} ${label}`]));

export const skyParams = {
  look: choice({ label: 'Sky', options: LOOKS, default: 'clear', help: 'What it is computed by, or that it is a picture.' }),
  turbidity: number({ label: 'Turbidity', unit: '', min: 1.7, max: 10, default: 2.5, step: 0.1, digits: 1, help: 'Haze in the air: 2 is very clear, 4 a warm day, 8 white.', when: { look: 'clear' } }),
  type: choice({ label: 'Type', options: TYPES, default: 'type-3', help: 'Of the fifteen standard skies (ISO 15469).', when: { look: 'general' } }),
  kelvin: number({ label: 'White', unit: 'K', min: 1700, max: 25_000, default: 6500, step: 100, digits: 0, byFactors: true, help: 'The standard says how bright it is, not its colour.', when: { look: 'general' } }),
  environment: element({ label: 'All around', help: 'A picture of everything around, twice as wide as high.', when: { look: 'environment' } }),
  turnDegrees: number({ label: 'Turned', unit: '°', min: -360, max: 360, default: 0, step: 1, digits: 1, usual: [-180, 180], help: 'Its middle looks there: from −z of the scene (north on the plan) over +x (east).', when: { look: 'environment' } }),
  photograph: element({ label: 'Photograph', help: 'A picture of a sky.', when: { look: 'photograph' } }),
  horizonPercent: number({ label: 'Its horizon', unit: '%', min: -100, max: 300, default: 100, step: 0.5, digits: 1, usual: [0, 120], help: 'Where it lies in the photograph, from its upper edge. It comes to the horizon of the camera.', when: { look: 'photograph' } }),
  widthPercent: number({ label: 'Width', unit: '%', min: 10, max: 2000, default: 100, step: 1, digits: 0, usual: [50, 300], byFactors: true, help: 'Of the picture.', when: { look: 'photograph' } }),
  asidePercent: number({ label: 'To the right', unit: '%', min: -1000, max: 1000, default: 0, step: 0.5, digits: 1, usual: [-50, 50], help: 'How far its middle lies from that of the picture, of the picture’s width.', when: { look: 'photograph' } }),
  isMirrored: flag({ label: 'Mirrored', default: false, help: 'Left and right exchanged: the sun comes from the other side.', when: { look: 'photograph' } }),
  sunFrom: choice({ label: 'Sun', options: { document: 'The document’s', own: 'Of its own' }, default: 'document', help: 'Where the sun of this sky stands.' }),
  altitudeDegrees: number({ label: 'Sun’s height', unit: '°', min: -18, max: 90, default: 20, step: 0.5, digits: 1, help: 'Above the horizon; below it, it is twilight.', when: { sunFrom: 'own' } }),
  azimuthDegrees: number({ label: 'Sun’s direction', unit: '°', min: -360, max: 360, default: 0, step: 1, digits: 1, usual: [-180, 180], help: 'From −z of the scene (north on the plan) over +x (east).', when: { sunFrom: 'own' } }),
  exposureStops: number({ label: 'Exposure', unit: 'EV', min: -16, max: 24, default: 0, step: 0.1, digits: 2, usual: [-4, 4], help: 'At 0 white is 10,000 cd/m².' }),
  tint: color({ label: 'Tint', of: 'light', default: [1, 1, 1], help: 'Its light is multiplied with this.' }),
  hasDisc: flag({ label: 'Sun’s disc', default: false, help: 'Whether the sun itself is seen, where the camera looks there.' }),
  clouds: choice({ label: 'Clouds', options: CLOUD_OPTIONS, default: 'none', help: 'One layer of clouds, lit by the sun of this sky.' }),
  coverPercent: number({ label: 'Cover', unit: '%', min: 0, max: 100, default: 40, step: 1, digits: 0, help: 'How much of the sky they take.' }),
  cloudMetres: number({ label: 'Clouds at', unit: 'm', min: 0, max: 15_000, default: 0, step: 100, digits: 0, help: 'Higher ones look smaller; 0 is what is usual for them.' }),
  windDegrees: number({ label: 'Wind towards', unit: '°', min: -360, max: 360, default: 60, step: 5, digits: 0, usual: [-180, 180], help: 'Clouds are drawn out along it. From −z of the scene over +x.' }),
  seed: number({ label: 'Seed', unit: '', min: 0, max: 9999, default: 1, step: 1, digits: 0, usual: [0, 100], help: 'Other clouds of the same kind.' }),
  alpha: element({ label: 'Behind', roles: ['alpha'], help: 'The element that says how much of a pixel is not sky; the usual alpha, unless another is chosen.' }),
  edges: choice({ label: 'Edges', options: { exchange: 'Old sky taken out', plain: 'As they are' }, default: 'exchange', help: 'Pixels of which only a part is sky hold some of the old one, which would be a rim.' }),
  wrapPercent: number({ label: 'Light around edges', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 0, usual: [0, 50], help: 'As much of the light of the new sky lies over the rim of what stands before it, as a lens spreads it.', when: { edges: 'exchange' } }),
  wrapPx: number({ label: 'As wide as', unit: 'px', min: 0.5, max: 400, default: 5, step: 0.5, digits: 1, usual: [0.5, 40], help: 'How far that reaches: standard deviation in pixels of the full picture.', when: { edges: 'exchange' } }),
};
export type SkyValues = ParamValues<typeof skyParams>;

/** Values of a sky that were kept, complete. @throws CoreError `bad-parameter` */
export const skyValuesOf = (kept: KeptValues): SkyValues => completeParams({ label: 'Sky', params: skyParams }, kept) as unknown as SkyValues;

/** The sky of a document: the last of its layers of that kind; null if there is none. */
export const skyOfDocument = (document: TazzelDocument): PictureLayer | null => layersInOrder(document).map(({ layer }) => layer).filter((layer): layer is PictureLayer => layer.kind === 'picture' && layer.type === 'sky').at(-1) ?? null;

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
    look: look === 'general' ? generalLook(Number(type.slice('type-'.length)), kelvin, sun) : clearLook(turbidity, sun),
    sun,
    gain: [tint[0] * gain, tint[1] * gain, tint[2] * gain],
    hasDisc,
    clouds: kind && { ...kind, metres: cloudMetres === 0 ? kind.metres : cloudMetres, cover: coverPercent / 100, windAngle: (windDegrees * Math.PI) / 180, seed: Math.round(seed) },
  };
}

/** The parameter that names the picture of a sky which is one; null if it is computed. */
export const pictureOfSky = ({ look, environment, photograph }: Pick<SkyValues, 'look' | 'environment' | 'photograph'>): string | null => (look === 'environment' ? environment : look === 'photograph' ? photograph : null);

/** From places in the picture to places in a photograph that lies in `box`: its horizon at the camera's, as it is in the middle of the picture. */
export function photographMap({ horizonPercent, widthPercent, asidePercent, isMirrored }: SkyValues, box: Region, view: CameraView, { width, height }: Size): AffineMap {
  const scale = (box.width / width) * (100 / widthPercent);
  const horizon = horizonAt(view, width / 2);
  const across = isMirrored ? -scale : scale;
  const middle = width * (0.5 + asidePercent / 100);
  return [across, 0, 0, scale, box.x + box.width / 2 - across * middle, box.y + (box.height * horizonPercent) / 100 - scale * (Number.isFinite(horizon) ? horizon : height / 2)];
}

/** The document’s camera, or a level one that looks north. */
export const cameraOrLevel = ({ camera: known }: Pick<TazzelDocument, 'camera'>): Camera => (known ? cameraOf(known) : (completeParams(camera, {}) as unknown as Camera));

/** Mean light that a sky without clouds has above the horizon of the picture: linear sRGB; null if there is no sky in it. */
export function meanSkyLight(values: SkyValues, document: Pick<TazzelDocument, 'sun' | 'camera' | 'size'>): Triple | null {
  const view = viewOfCamera(cameraOrLevel(document), document.size);
  const prepared = prepareSky({ ...skyPicture(values, document), clouds: null, hasDisc: false }, plainSight(view));
  const { width, height } = document.size;
  const [across, down] = [24, 16];
  const lights: Triple[] = [];
  for (let i = 0; i < across * down; i++) {
    const [x, y] = [(((i % across) + 0.5) / across) * width, ((Math.floor(i / across) + 0.5) / down) * height];
    if (rayThrough(view, x, y)[1] <= 0) continue;
    const [r, g, b] = skyPixel(prepared, [x, y], [[0, 0, 0], [0, 0, 0], [0, 0, 0]], 1);
    lights.push([r, g, b]);
  }
  if (lights.length === 0) return null;
  return scaledBy(lights.reduce(plus), 1 / lights.length);
}

/** Changes that make a sky as bright as another light that was measured, or as white. `own` is its own, if that was measured, too. */
export function skyMatch(values: SkyValues, document: Pick<TazzelDocument, 'sun' | 'camera' | 'size'>, wanted: Triple, what: 'brightness' | 'white', own: Triple | null = meanSkyLight(values, document)): { readonly exposureStops: number } | { readonly tint: Triple } | null {
  if (!own) return null;
  const factor = luminanceOf(wanted) / luminanceOf(own);
  if (!(factor > 0) || !Number.isFinite(factor)) return null;
  if (what === 'brightness') return { exposureStops: Math.min(24, Math.max(-16, values.exposureStops + Math.log2(factor))) };
  // Luminance stays what it is: only the ratios of the channels change.
  const [r, g, b] = wanted.map((value, c) => (values.tint[c] * value) / Math.max(1e-9, own[c]) / factor);
  return { tint: [r, g, b] };
}

/** Standard skies that are alike all around: no sun is told by them. @source ISO 15469, table 1: group 1 of the indicatrices */
const ALIKE_AROUND: ReadonlySet<string> = new Set(['type-1', 'type-3', 'type-5']);

/** How far the sun of a sky stands from the document's, in degrees; null if that is not known, or nothing tells of it. */
export function sunsApart(values: SkyValues, { sun }: Pick<TazzelDocument, 'sun'>): number | null {
  if (!sun || (values.look === 'general' && ALIKE_AROUND.has(values.type))) return null;
  const { direction } = sunDirection(sunPlace(sunOf(sun)));
  return (Math.acos(Math.min(1, Math.max(-1, dot(direction, sunOfSky(values, { sun }))))) * 180) / Math.PI;
}

/** What a sky of the shelf becomes in a document: its sun stands where the picture's does on the plan, or aside of where the camera looks. */
export function shelfParams({ altitudeDegrees, params }: ShelfSky, document: Pick<TazzelDocument, 'sun' | 'camera'>): KeptValues {
  const azimuth = document.sun ? positionOf(sunDirection(sunPlace(sunOf(document.sun))).direction).azimuthDegrees : cameraOrLevel(document).headingDegrees + 60;
  return { look: 'clear', tint: [1, 1, 1], clouds: 'none', coverPercent: 40, cloudMetres: 0, hasDisc: false, ...params, sunFrom: 'own', altitudeDegrees, azimuthDegrees: ((azimuth + 540) % 360) - 180 };
}

/** What a sky of the shelf says of a sky: all but where it stands, and how bright it is there. */
const KEPT_OF_SKY = ['look', 'turbidity', 'type', 'kelvin', 'tint', 'hasDisc', 'clouds', 'coverPercent', 'cloudMetres', 'windDegrees', 'seed'] as const satisfies readonly (keyof typeof skyParams)[];
const LONGEST_LABEL = 80;

/** A sky of a document for the shelf; null if it is a picture, or none of it is seen. */
export function shelfSkyOf(values: SkyValues, document: Pick<TazzelDocument, 'sun' | 'camera' | 'size'>, id: string, label: string): ShelfSky | null {
  const mean = pictureOfSky(values) === null ? meanSkyLight(values, document) : null;
  if (!mean) return null;
  const { altitudeDegrees } = positionOf(sunOfSky(values, document));
  return { id, label: label.slice(0, LONGEST_LABEL), altitudeDegrees, brightness: luminanceOf(mean), params: Object.fromEntries(KEPT_OF_SKY.map((name) => [name, values[name]])) };
}

/** A sky of the shelf as it was kept; null if it is none. Numbers out of range are brought into it. */
export function readShelfSky(item: unknown): ShelfSky | null {
  const { id, label, altitudeDegrees, brightness, params } = (item ?? {}) as Partial<Record<keyof ShelfSky, unknown>>;
  if (typeof id !== 'string' || typeof label !== 'string' || typeof altitudeDegrees !== 'number' || typeof brightness !== 'number' || typeof params !== 'object' || params === null) return null;
  if (!(Math.abs(altitudeDegrees) <= 90) || !(brightness > 0 && brightness < Number.POSITIVE_INFINITY) || label.trim() === '' || label.length > LONGEST_LABEL) return null;
  let values: SkyValues;
  try {
    values = skyValuesOf(params as KeptValues);
  } catch {
    return null;
  }
  if (values.look !== 'clear' && values.look !== 'general') return null;
  return { id, label, altitudeDegrees, brightness, params: Object.fromEntries(KEPT_OF_SKY.map((name) => [name, values[name]])) };
}
