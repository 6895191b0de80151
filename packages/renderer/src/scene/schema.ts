/** The scene's border: files and messages pass here, and every error names its field. */
import { JsonError, parseJson } from '@tazzel/formats';
import * as yup from 'yup';
import { RenderError } from '../errors.ts';
import { parseIes } from '../light/ies.ts';
import type { CameraDescription, SceneDescription } from './model.ts';

const LARGEST = 1e6;
const text = () => yup.string().strict().defined().min(1).max(200);
const number = () => yup.number().strict().defined().test('finite', '${path} must be a finite number', (value) => value === undefined || value === null || Number.isFinite(value)).min(-LARGEST).max(LARGEST);
const length = () => number().moreThan(0);
const unit = () => number().min(0).max(1);
const whole = () => number().integer();
const triple = (of: () => yup.Schema = number) => yup.array(of()).strict().defined().length(3, '${path} must be three numbers');
const color = () => triple(unit);
const lightFilter = () => yup.array(number().min(0)).strict().length(3, '${path} must be three numbers').optional() as yup.Schema;
const nullable = (schema: yup.Schema) => schema.nullable().defined();

/** A long list of numbers, looked at in plain code: a schema for each of millions takes minutes. */
const numbers = (least: number, fits: (value: number) => boolean) =>
  yup.mixed().defined().test('numbers', '${path}', function check(value) {
    if (!Array.isArray(value) || value.length < least) return this.createError({ message: `${this.path} must be a list of at least ${least} numbers` });
    const at = value.findIndex((one) => typeof one !== 'number' || !Number.isFinite(one) || !fits(one));
    return at < 0 || this.createError({ message: `${this.path}[${at}] is no number that fits` });
  });

type Fields = Record<string, yup.Schema>;
const record = (fields: Fields) => yup.object(fields).noUnknown('${path} has an unknown field: ${unknown}').strict().defined();

/** A record whose other fields depend on one of them. */
function variants(key: string, kinds: Readonly<Record<string, Fields>>, common: Fields = {}): yup.Schema {
  return yup.lazy((value: unknown) => {
    const kind = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[key] : undefined;
    const fields = typeof kind === 'string' && Object.hasOwn(kinds, kind) ? kinds[kind] : null;
    if (!fields) return yup.object({ [key]: yup.string().defined().oneOf(Object.keys(kinds)) }).defined();
    return record({ [key]: text(), ...common, ...fields });
  }) as unknown as yup.Schema;
}

const paint = variants('pattern', {
  flat: { color: color() },
  brick: { color: color(), mortar: color(), lengthMetres: length(), courseMetres: length(), jointMetres: number().min(0) },
  slats: { color: color(), pitchMetres: length(), gapMetres: number().min(0), lies: text().oneOf(['upright', 'level']) },
  boards: { color: color(), widthMetres: length(), lengthMetres: length(), along: text().oneOf(['x', 'z']) },
  concrete: { color: color(), panelMetres: length() },
  gravel: { color: color(), grainMetres: length() },
  grass: { color: color() },
  plaster: { color: color() },
  cells: { color: color(), other: color(), cellMetres: triple(length) },
});
const ior = () => number().min(1).max(4);
const surface = variants('kind', {
  matt: { paint },
  coated: { paint, ior: ior(), roughness: unit() },
  metal: { color: color(), roughness: unit() },
  leaf: { paint, through: unit() },
  'thin-glass': { ior: ior(), tint: color() },
  'solid-glass': { ior: ior(), clearness: color() },
  water: { ior: ior(), clearness: color(), waveMetres: length(), waveSlope: number().min(0).max(0.5) },
  luminous: { luminance: number().min(0), kelvin: number().min(1000).max(40000), group: nullable(text()), filter: lightFilter() },
});
const seed = () => whole().min(0);
const shape = variants('kind', {
  box: { min: triple(), max: triple(), turnDegrees: number().optional() as yup.Schema },
  quad: { corner: triple(), u: triple(), v: triple() },
  cylinder: { from: triple(), to: triple(), radius: length(), endRadius: number().min(0).optional() as yup.Schema, sides: whole().min(3).max(256) },
  sphere: { center: triple(), radius: length(), sides: whole().min(4).max(256) },
  trunk: { at: triple(), height: length(), seed: seed() },
  crown: { at: triple(), height: length(), seed: seed(), leaves: whole().min(1).max(200_000), leafMetres: length() },
  blades: { min: triple(), max: triple(), count: whole().min(1).max(500_000), height: length(), widthMetres: length(), seed: seed() },
  books: { from: triple(), to: triple(), height: length(), depth: triple(), seed: seed() },
  mesh: { positions: numbers(9, (value) => Math.abs(value) <= LARGEST), indices: numbers(3, (value) => Number.isInteger(value) && value >= 0) },
});

const lampFields = { name: text(), group: nullable(text()), lumens: number().min(0), kelvin: number().min(1000).max(40000), filter: lightFilter() };
const lamp = variants(
  'kind',
  {
    sphere: { center: triple(), radius: length() },
    rectangle: { corner: triple(), u: triple(), v: triple() },
    web: {
      at: triple(),
      aim: triple(),
      ies: yup.string().strict().defined().test('ies', '', function check(value) {
        try {
          parseIes(value);
          return true;
        } catch (error) {
          return this.createError({ message: `${this.path}: ${(error as Error).message}` });
        }
      }),
    },
  },
  lampFields,
);

const sunFields = { lux: nullable(number().min(0)), kelvin: number().min(1000).max(40000), angularDegrees: number().min(0).max(20), filter: lightFilter() };
const sun = variants(
  'place',
  {
    angles: { azimuthDegrees: number(), altitudeDegrees: number().min(-90).max(90) },
    date: {
      latitudeDegrees: number().min(-90).max(90),
      longitudeDegrees: number().min(-180).max(180),
      utc: yup.string().strict().defined().test('utc', '${path} must be a date as in 2026-09-21T16:10:00Z', (value) => Number.isFinite(Date.parse(value))),
      northDegrees: number(),
    },
  },
  sunFields,
);

const sky = variants('kind', {
  none: {},
  uniform: { luminance: number().min(0), color: triple(() => number().min(0)) },
  daylight: { turbidity: number().min(1.7).max(10), lux: nullable(number().min(0)), clouds: unit() },
  general: { type: whole().min(1).max(15), lux: number().min(0), kelvin: number().min(1000).max(40000) },
  image: { width: whole().min(1).max(16384), height: whole().min(1).max(8192), pixels: numbers(3, (value) => value >= 0), luminance: number().min(0) },
});

const camera = record({
  name: text(),
  at: triple(),
  lookAt: triple(),
  focalMillimetres: number().min(4).max(1000),
  sensorMillimetres: number().min(1).max(200),
  shiftMillimetres: number(),
  upright: yup.boolean().strict().defined(),
  focus: record({ distanceMetres: length(), fNumber: number().min(0.5).max(128) }).nullable().defined(),
  exposure: variants('kind', {
    settings: { fNumber: number().min(0.5).max(128), shutterSeconds: number().min(1e-5).max(3600), iso: number().min(1).max(1e6) },
    automatic: { stops: number().min(-20).max(20) },
  }),
});

const fog = record({ distanceMetres: length(), heightMetres: nullable(length()), color: color(), forwardness: number().min(-0.95).max(0.95) });

const material = record({ name: text(), number: whole().min(0).max(65535), idColor: nullable(color()), surface });
const objectHead = record({ name: text(), material: text() });

const frame = record({
  format: text().oneOf(['tazzel-scene']),
  version: number().oneOf([1]),
  name: text(),
  sun: yup.lazy((value) => (value === null ? yup.mixed().nullable().defined() : sun)) as unknown as yup.Schema,
  sky,
  skyFilter: lightFilter(),
  fog: fog.nullable().defined(),
});

const MOST_SENTENCES = 12;

/** The JSON of a scene file, not yet looked into. @throws RenderError `bad-scene` that names the file */
export function parseSceneFile(bytes: Uint8Array, fileName: string): unknown {
  try {
    return parseJson(bytes);
  } catch (error) {
    if (!(error instanceof JsonError)) throw error;
    throw new RenderError('bad-scene', error.code === 'corrupt' ? `${fileName} is not JSON. A scene file is the JSON that docs/scenes.md describes.` : `${fileName} cannot be opened: ${error.message}.`);
  }
}

/** @throws RenderError `bad-scene`, one line for each field */
export function readCamera(value: unknown): CameraDescription {
  const problems = problemsOf(camera, value);
  const { at, lookAt } = value as CameraDescription;
  if (problems.length === 0 && at.every((v, axis) => v === lookAt[axis])) problems.push('lookAt is where the camera stands; it must be another point');
  if (problems.length > 0) throw new RenderError('bad-scene', ['The camera cannot be used:', ...problems.map((problem) => `  ${problem}`)].join('\n'));
  return value as CameraDescription;
}

/** What is wrong with a value; `path` is where it stands. A field that is wrong in a thousand ways says a few of them. */
function problemsOf(schema: yup.Schema, value: unknown, path = ''): string[] {
  try {
    // The path is where the messages begin.
    schema.validateSync(value, { abortEarly: false, ...(path === '' ? {} : { path }) });
    return [];
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    return error.inner.length > 0 ? error.inner.flatMap((inner) => inner.errors) : [...error.errors];
  }
}

const MOST = { materials: 4000, objects: 60_000, shapes: 1_000_000, lamps: 1000, cameras: 1000 };

/** Looks at one thing after the other and stops when enough is wrong to be said: sixty thousand faults are no better news than a dozen. */
function faults(value: unknown): string[] {
  const problems: string[] = [];
  const isEnough = () => problems.length > MOST_SENTENCES;
  if (typeof value !== 'object' || value === null) return problemsOf(frame, value);
  const { materials, objects, lamps, cameras, ...rest } = value as Record<string, unknown>;
  problems.push(...problemsOf(frame, rest));
  const each = (list: unknown, name: keyof typeof MOST, path: string, least: number, look: (item: unknown, path: string) => void) => {
    if (!Array.isArray(list) || list.length < least) problems.push(`${path} must be a list${least > 0 ? ` of at least ${least}` : ''}`);
    else if (list.length > MOST[name]) problems.push(`${path} has ${list.length} entries; up to ${MOST[name]} are read`);
    else for (let i = 0; i < list.length && !isEnough(); i++) look(list[i], `${path}[${i}]`);
  };
  const plainly = (schema: yup.Schema) => (item: unknown, path: string) => void problems.push(...problemsOf(schema, item, path).slice(0, MOST_SENTENCES));
  each(materials, 'materials', 'materials', 1, plainly(material));
  each(objects, 'objects', 'objects', 1, (item, path) => {
    const { shapes, ...head } = (typeof item === 'object' && item !== null ? item : {}) as Record<string, unknown>;
    problems.push(...problemsOf(objectHead, head, path));
    each(shapes, 'shapes', `${path}.shapes`, 1, plainly(shape));
  });
  each(lamps, 'lamps', 'lamps', 0, plainly(lamp));
  each(cameras, 'cameras', 'cameras', 1, plainly(camera));
  return problems;
}

/** Accepts a scene or says what is wrong with it. @throws RenderError `bad-scene`, one line for each of the first fields */
export function readScene(value: unknown): SceneDescription {
  const problems = faults(value);
  if (problems.length === 0) problems.push(...contradictions(value as SceneDescription));
  if (problems.length === 0) return value as SceneDescription;
  const more = problems.length > MOST_SENTENCES ? ['… and more'] : [];
  throw new RenderError('bad-scene', ['The scene cannot be rendered:', ...problems.slice(0, MOST_SENTENCES).map((problem) => `  ${problem}`), ...more].join('\n'));
}

/** What no single field shows. */
function contradictions(value: SceneDescription): string[] {
  const problems: string[] = [];
  const twice = (what: string, names: readonly string[]) => {
    const seen = new Set<string>();
    for (const name of names) {
      if (seen.has(name)) problems.push(`${what} has the name “${name}” twice; every name must be its own`);
      seen.add(name);
    }
  };
  twice('materials', value.materials.map(({ name }) => name));
  twice('objects', value.objects.map(({ name }) => name));
  twice('cameras', value.cameras.map(({ name }) => name));
  const materials = new Set(value.materials.map(({ name }) => name));
  for (const [i, { material: wanted, shapes }] of value.objects.entries()) {
    if (!materials.has(wanted)) problems.push(`objects[${i}].material is “${wanted}”, but there is no such material; there are ${[...materials].slice(0, 20).join(', ')}`);
    for (const [k, one] of shapes.entries()) {
      if (one.kind === 'mesh' && (one.positions.length % 3 !== 0 || one.indices.length % 3 !== 0)) problems.push(`objects[${i}].shapes[${k}]: positions and indices must come in threes`);
      if (one.kind === 'mesh' && one.indices.some((index) => index >= one.positions.length / 3)) problems.push(`objects[${i}].shapes[${k}].indices points beyond the ${one.positions.length / 3} positions`);
      if (one.kind === 'box' && one.min.some((low, axis) => low > one.max[axis])) problems.push(`objects[${i}].shapes[${k}].min must not lie above max`);
    }
  }
  for (const [i, one] of value.cameras.entries()) {
    if (one.at.every((v, axis) => v === one.lookAt[axis])) problems.push(`cameras[${i}].lookAt is where the camera stands; it must be another point`);
  }
  const picture = value.sky;
  if (picture.kind === 'image' && picture.pixels.length !== picture.width * picture.height * 3) problems.push(`sky.pixels has ${picture.pixels.length} numbers, ${picture.width * picture.height * 3} expected for ${picture.width} × ${picture.height}`);
  return problems;
}
