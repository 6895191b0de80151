/**
 * The demo's render as an artist might get it: one EXR with layers and a PNG of material IDs. OpenImageIO makes them of the
 * multi-part files, once for each run.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const folder = fileURLToPath(new URL('../.cache/elements/', import.meta.url));
const demoFolder = fileURLToPath(new URL('../apps/web/public/demo/', import.meta.url));
/** The files of a set of the demo, in their order. */
export const demoSet = (name: 'courtyard' | 'courtyard_fog' | 'courtyard_shadow' | 'reading-room'): string[] =>
  readdirSync(demoFolder).filter((file) => new RegExp(`^${name}(_\\d+)?\\.exr$`).test(file)).sort().map((file) => join(demoFolder, file));

const partNames = new Map<string, string>();
/** The file of the courtyard's set that holds an element. */
export function demoPart(name: string): string {
  const found = demoSet('courtyard').find((file) => {
    const text = partNames.get(file) ?? execFileSync('oiiotool', ['--info', '-v', '-a', file], { encoding: 'utf8' });
    partNames.set(file, text);
    return text.includes(`"${name}"`);
  });
  if (!found) throw new Error(`The demo has no element ${name}.`);
  return found;
}

type SetName = Parameters<typeof demoSet>[0];
const fresh = (path: string, from: SetName) => existsSync(path) && demoSet(from).every((file) => statSync(path).mtimeMs > statSync(file).mtimeMs);

function make(name: string, args: (to: string) => readonly string[], from: SetName = 'courtyard'): string {
  const path = join(folder, name);
  if (fresh(path, from)) return path;
  mkdirSync(folder, { recursive: true });
  // Made beside and moved into place: several test files may want it at once.
  const partial = join(folder, `${process.pid}-${name}`);
  execFileSync('oiiotool', args(partial), { stdio: ['ignore', 'ignore', 'inherit'] });
  renameSync(partial, path);
  return path;
}

/** Nothing is mixed: IDs stay what they are. */
const HALF = ['--resample:interp=0', '50%'];
const LAYERS = ['diffuse_filter', 'raw_lighting', 'self_illumination'];

/** 600 × 400, every second pixel: the beauty as R, G, B; layers for diffuse filter, raw lighting, self-illumination, occlusion, depth. */
export const layeredExr = (): string =>
  make('kiln-yard.exr', (to) => {
    const layers = LAYERS.flatMap((name) => [demoPart(name), '--subimage', name, '--ch', `${name}.R=R,${name}.G=G,${name}.B=B`, '--chappend']);
    const single = [['ambient_occlusion', 'Y'], ['depth', 'Z']].flatMap(([name, channel]) => [demoPart(name), '--subimage', name, '--ch', `${name}.${channel}=${channel}`, '--chappend']);
    return [demoPart('denoised_beauty'), '--subimage', 'denoised_beauty', '--ch', 'R,G,B', ...layers, ...single, ...HALF, '--compression', 'zip', '-d', 'half', '-d', 'depth.Z=float', '-o', to];
  });

export const idPng = (): string => make('kiln-yard_material_id.png', (to) => [demoPart('material_id'), '--subimage', 'material_id', ...HALF, '--attrib', 'oiio:ColorSpace', 'sRGB', '-d', 'uint8', '-o', to]);

/** The files of a set, smaller: means of pixels, so that sums are what they were. A quarter of the courtyard has 300 × 200. */
export const smallSet = (name: SetName, size: '50%' | '25%' = '25%'): string[] => demoSet(name).map((file) => make(`${Number.parseInt(size, 10)}-${basename(file)}`, (to) => ['-a', file, '--resize:filter=box', size, '-o', to], name));

/** The file of the courtyard's small set that holds an element. */
export const smallPart = (name: string): string => smallSet('courtyard')[demoSet('courtyard').indexOf(demoPart(name))];

/** A file of the demo by its name. */
export const demoFile = (name: string): string => join(demoFolder, name);
