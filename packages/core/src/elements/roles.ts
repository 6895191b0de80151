/** The roles of render elements and how a name gives one away. Recognition by content follows with the intake. */
import type { Encoding } from '../color/zones.ts';

interface RoleRow {
  readonly id: string;
  readonly label: string;
  /** `light` follows the file's own encoding; `data` is never colour managed. */
  readonly nature: 'light' | 'data';
  /** All words of one set must occur in the name, in any order. The first role with a matching set wins. */
  readonly words: readonly (readonly string[])[];
}

const rows = [
  { id: 'denoised-beauty', label: 'Denoised beauty', nature: 'light', words: [['denoised'], ['denoise']] },
  { id: 'material-id', label: 'Material ID', nature: 'data', words: [['material', 'id'], ['mtl', 'id'], ['mat', 'id'], ['materialid'], ['mtlid'], ['matid']] },
  { id: 'object-id', label: 'Object ID', nature: 'data', words: [['object', 'id'], ['obj', 'id'], ['render', 'id'], ['objectid'], ['objid'], ['renderid']] },
  { id: 'coverage-matte', label: 'Coverage matte', nature: 'data', words: [['cryptomatte'], ['crypto']] },
  { id: 'rgb-matte', label: 'RGB matte', nature: 'data', words: [['matte'], ['multimatte']] },
  { id: 'light-group', label: 'Light group', nature: 'light', words: [['lightgroup'], ['light', 'group']] },
  { id: 'diffuse-filter', label: 'Diffuse filter', nature: 'light', words: [['diffuse', 'filter'], ['diff', 'filter'], ['diffusefilter'], ['albedo'], ['diffuse', 'color'], ['diffuse', 'colour']] },
  { id: 'reflection-filter', label: 'Reflection filter', nature: 'light', words: [['reflection', 'filter'], ['reflectionfilter']] },
  { id: 'refraction-filter', label: 'Refraction filter', nature: 'light', words: [['refraction', 'filter'], ['refractionfilter']] },
  { id: 'raw-gi', label: 'Raw GI', nature: 'light', words: [['raw', 'gi'], ['rawgi'], ['raw', 'indirect'], ['raw', 'global']] },
  { id: 'raw-lighting', label: 'Raw lighting', nature: 'light', words: [['raw', 'lighting'], ['raw', 'light'], ['rawlighting'], ['rawlight'], ['raw', 'direct']] },
  { id: 'raw-reflection', label: 'Raw reflection', nature: 'light', words: [['raw', 'reflection'], ['rawreflection']] },
  { id: 'raw-refraction', label: 'Raw refraction', nature: 'light', words: [['raw', 'refraction'], ['rawrefraction']] },
  { id: 'raw-shadow', label: 'Raw shadow', nature: 'light', words: [['raw', 'shadow'], ['rawshadow']] },
  { id: 'gi', label: 'GI', nature: 'light', words: [['gi'], ['indirect'], ['global', 'illumination']] },
  { id: 'direct-lighting', label: 'Direct lighting', nature: 'light', words: [['lighting'], ['direct'], ['directlighting']] },
  { id: 'reflection', label: 'Reflection', nature: 'light', words: [['reflection'], ['reflections'], ['reflect']] },
  { id: 'refraction', label: 'Refraction', nature: 'light', words: [['refraction'], ['refractions'], ['refract']] },
  { id: 'specular', label: 'Specular', nature: 'light', words: [['specular'], ['spec']] },
  { id: 'self-illumination', label: 'Self-illumination', nature: 'light', words: [['self', 'illumination'], ['selfillumination'], ['emission'], ['emissive']] },
  { id: 'shadow', label: 'Shadow', nature: 'light', words: [['shadow'], ['shadows']] },
  { id: 'ambient-occlusion', label: 'Ambient occlusion', nature: 'light', words: [['ao'], ['ambient', 'occlusion'], ['occlusion'], ['extratex']] },
  { id: 'atmosphere', label: 'Atmosphere', nature: 'light', words: [['atmosphere'], ['atmospherics'], ['volumetrics'], ['fog']] },
  { id: 'background', label: 'Background', nature: 'light', words: [['background'], ['environment']] },
  { id: 'depth', label: 'Depth', nature: 'data', words: [['depth'], ['zdepth'], ['z']] },
  { id: 'distance', label: 'Distance', nature: 'data', words: [['distance']] },
  { id: 'normals', label: 'Normals', nature: 'data', words: [['normal'], ['normals']] },
  { id: 'position', label: 'Position', nature: 'data', words: [['position'], ['world', 'position']] },
  { id: 'alpha', label: 'Alpha', nature: 'data', words: [['alpha']] },
  { id: 'wireframe', label: 'Wireframe', nature: 'light', words: [['wireframe'], ['wire']] },
  { id: 'beauty', label: 'Beauty', nature: 'light', words: [['beauty'], ['rgba'], ['rgb'], ['combined'], ['final']] },
  { id: 'picture', label: 'Picture', nature: 'light', words: [] },
] as const satisfies readonly RoleRow[];

export type RoleId = (typeof rows)[number]['id'];
export const roles: readonly (RoleRow & { readonly id: RoleId })[] = rows;
const byId = new Map<string, RoleRow>(rows.map((role) => [role.id, role]));

export const isRoleId = (id: string): id is RoleId => byId.has(id);
export const roleLabel = (id: RoleId): string => byId.get(id)?.label ?? id;
export const roleNature = (id: RoleId): 'light' | 'data' => byId.get(id)?.nature ?? 'light';

/** Splits a name at separators, at case changes and before digits: `kiln_DiffuseFilter.0001` → kiln, diffuse, filter, 0001. */
export function wordsOf(name: string): string[] {
  return name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Za-z])(\d)/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== '');
}

/** Guesses a role from a name. `reason` says which words decided. */
export function guessRole(name: string): { role: RoleId; reason: string } {
  const words = new Set(wordsOf(name));
  for (const role of rows) {
    for (const set of role.words) {
      if (set.every((word: string) => words.has(word))) return { role: role.id, reason: `the name says “${set.join(' ')}”` };
    }
  }
  return { role: 'picture', reason: 'no word of the name is known' };
}

/** The encoding an element most likely has: data by role, otherwise light in float files and display in integer ones. */
export function guessEncoding(role: RoleId, samples: 'float' | 'integer'): Encoding {
  if (roleNature(role) === 'data') return 'data';
  return samples === 'float' ? 'linear' : 'display';
}
