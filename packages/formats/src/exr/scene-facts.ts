/**
 * What an OpenEXR file says of the place it shows: the camera and the sun. Standard attributes where there are some; a direction of the sun, which has none,
 * stands in `sunDirection` (v3f, towards the sun, in the axes of the world).
 *
 * @source "Standard attributes", OpenEXR: worldToCamera, worldToNDC, focus, aperture, isoSpeed, expTime, latitude, longitude, capDate (local time), utcOffset
 */
import { type CameraFacts, camera, cameraFromFacts, type DocumentSun, positionOf, type SceneFacts, type Size, type Triple } from '@tazzel/core';

/** Values of attributes by name: numbers as a list. */
export type Attributes = Readonly<Record<string, readonly number[] | string>>;

export const SCENE_ATTRIBUTES: ReadonlySet<string> = new Set(['worldToCamera', 'worldToNDC', 'focus', 'aperture', 'isoSpeed', 'expTime', 'nominalFocalLength', 'latitude', 'longitude', 'capDate', 'utcOffset', 'sunDirection']);

const NAMES = { focusMetres: 'focus', fNumber: 'aperture', iso: 'isoSpeed', shutterSeconds: 'expTime', focalMillimetres: 'nominalFocalLength' } as const;

/** @param towardsSun in the axes of the file's world; null if there is no sun */
export function attributesOf(facts: CameraFacts, towardsSun: Triple | null): Record<string, readonly number[]> {
  const numbers = Object.entries(NAMES).flatMap(([fact, name]) => {
    const value = facts[fact as keyof typeof NAMES];
    return value === undefined ? [] : [[name, [value]] as const];
  });
  const matrices = (['worldToCamera', 'worldToNDC'] as const).flatMap((name) => (facts[name] ? [[name, facts[name]] as const] : []));
  return Object.fromEntries([...matrices, ...numbers, ...(towardsSun ? [['sunDirection', towardsSun] as const] : [])]);
}

export const NO_FACTS: Required<SceneFacts> = { camera: null, sun: null };

/** @param size the display window */
export function sceneFactsOf(attributes: Attributes, size: Size): Required<SceneFacts> {
  const list = (name: string) => (Array.isArray(attributes[name]) ? (attributes[name] as readonly number[]) : undefined);
  const one = (name: string) => {
    const value = list(name)?.[0];
    return value !== undefined && Number.isFinite(value) && value > 0 ? value : undefined;
  };
  const numbers = Object.fromEntries(Object.entries(NAMES).flatMap(([fact, name]) => (one(name) === undefined ? [] : [[fact, one(name)]])));
  const found = cameraFromFacts({ ...numbers, ...matrix(list, 'worldToCamera'), ...matrix(list, 'worldToNDC') }, size);
  return { camera: found && { from: 'file', params: rounded({ ...found }) }, sun: sunOf(attributes, list, found?.up ?? camera.params.up.default) };
}

const matrix = (list: (name: string) => readonly number[] | undefined, name: 'worldToCamera' | 'worldToNDC') => (list(name) ? { [name]: list(name) } : {});

/** Single precision says no more than this; what is left of a zero is one. */
const significant = (value: number) => (Math.abs(value) < 1e-5 ? 0 : Number(value.toPrecision(6)));
const rounded = <V extends Record<string, string | number>>(values: V): V => Object.fromEntries(Object.entries(values).map(([name, value]) => [name, typeof value === 'number' ? significant(value) : value])) as V;

function sunOf(attributes: Attributes, list: (name: string) => readonly number[] | undefined, up: string): DocumentSun | null {
  const direction = list('sunDirection');
  if (direction?.length === 3 && direction.every(Number.isFinite) && Math.hypot(...direction) > 0) {
    const [x, y, z] = direction;
    return { from: 'file', params: { place: 'angles', ...rounded({ ...positionOf(up === 'z' ? [x, z, -y] : [x, y, z]) }) } };
  }
  const [latitude, longitude, offset] = ['latitude', 'longitude', 'utcOffset'].map((name) => list(name)?.[0]);
  const date = typeof attributes.capDate === 'string' ? /^(\d{4}):(\d\d):(\d\d) (\d\d):(\d\d):(\d\d)$/.exec(attributes.capDate) : null;
  if (!date || latitude === undefined || longitude === undefined || !(Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180)) return null;
  const [, year, month, day, hour, minute, second] = date.map(Number);
  const time = Date.UTC(year, month - 1, day, hour, minute, second) + (offset ?? 0) * 1000;
  return Number.isFinite(time) ? { from: 'file', params: { place: 'date', ...rounded({ latitudeDegrees: latitude, longitudeDegrees: longitude }), utc: `${new Date(time).toISOString().slice(0, 16)}Z` } } : null;
}
