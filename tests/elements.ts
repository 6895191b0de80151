/**
 * The demo's render as an artist might get it: one EXR with layers and a PNG of material IDs. OpenImageIO makes them of the
 * multi-part file, once for each run.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const folder = fileURLToPath(new URL('../.cache/elements/', import.meta.url));
export const courtyard = fileURLToPath(new URL('../apps/web/public/demo/courtyard.exr', import.meta.url));

export const courtyardFog = courtyard.replace('courtyard.exr', 'courtyard_fog.exr');

const fresh = (path: string) => existsSync(path) && statSync(path).mtimeMs > statSync(courtyard).mtimeMs;

function make(name: string, args: (to: string) => readonly string[]): string {
  const path = join(folder, name);
  if (fresh(path)) return path;
  mkdirSync(folder, { recursive: true });
  // Made beside and moved into place: several test files may want it at once.
  const partial = join(folder, `${process.pid}-${name}`);
  execFileSync('oiiotool', args(partial), { stdio: ['ignore', 'ignore', 'inherit'] });
  renameSync(partial, path);
  return path;
}

const LAYERS = ['diffuse_filter', 'raw_lighting', 'self_illumination'];

/** 1200 × 800: the beauty as R, G, B; layers for diffuse filter, raw lighting, self-illumination, occlusion, depth. */
export const layeredExr = (): string =>
  make('kiln-yard.exr', (to) => {
    const layers = LAYERS.flatMap((name) => [courtyard, '--subimage', name, '--ch', `${name}.R=R,${name}.G=G,${name}.B=B`, '--chappend']);
    const single = [['ambient_occlusion', 'Y'], ['depth', 'Z']].flatMap(([name, channel]) => [courtyard, '--subimage', name, '--ch', `${name}.${channel}=${channel}`, '--chappend']);
    return [courtyard, '--subimage', 'denoised_beauty', '--ch', 'R,G,B', ...layers, ...single, '--compression', 'zip', '-d', 'half', '-d', 'depth.Z=float', '-o', to];
  });

export const idPng = (): string => make('kiln-yard_material_id.png', (to) => [courtyard, '--subimage', 'material_id', '--attrib', 'oiio:ColorSpace', 'sRGB', '-d', 'uint8', '-o', to]);
