/** The roles of render elements. How one is guessed: see guess.ts. */
import type { Encoding } from '../color/zones.ts';

interface RoleRow {
  readonly id: string;
  readonly label: string;
  /** `light` follows the file's own encoding; `data` is never colour managed. */
  readonly nature: 'light' | 'data';
  /** All words of one set must occur in the name, in any order. The largest set wins, then the first. See words.ts for spellings. */
  readonly words: readonly string[];
}

const rows = [
  { id: 'denoised-beauty', label: 'Denoised beauty', nature: 'light', words: ['denoised', 'denoised beauty'] },
  { id: 'material-id', label: 'Material ID', nature: 'data', words: ['material id', 'material mask', 'material group', 'id'] },
  { id: 'object-id', label: 'Object ID', nature: 'data', words: ['object id', 'object mask', 'beauty id', 'wireframe filter', 'object id filter'] },
  { id: 'coverage-matte', label: 'Coverage matte', nature: 'data', words: ['crypto', 'crypto material', 'crypto object', 'crypto matte'] },
  { id: 'rgb-matte', label: 'RGB matte', nature: 'data', words: ['matte', 'beauty matte', 'beauty mask', 'mask'] },
  { id: 'light-group', label: 'Light group', nature: 'light', words: ['lightgroup', 'light lightgroup', 'sunlight', 'lamp', 'light lamp', 'lamp group', 'light group', 'lighting group', 'light environment group', 'light emission group', 'light ambient group', 'light self group', 'light background group'] },
  { id: 'diffuse-filter', label: 'Diffuse filter', nature: 'light', words: ['diffuse filter', 'albedo', 'diffuse albedo', 'filter', 'diffuse filter raw', 'diffuse'] },
  { id: 'reflection-filter', label: 'Reflection filter', nature: 'light', words: ['reflection filter', 'reflection filter raw', 'specular filter', 'specular reflection filter'] },
  { id: 'refraction-filter', label: 'Refraction filter', nature: 'light', words: ['refraction filter', 'refraction filter raw'] },
  { id: 'raw-gi', label: 'Raw GI', nature: 'light', words: ['raw gi', 'raw global lighting', 'raw diffuse gi', 'raw gi lighting'] },
  { id: 'raw-lighting', label: 'Raw lighting', nature: 'light', words: ['raw lighting', 'raw light', 'raw direct', 'raw diffuse', 'raw direct lighting', 'raw direct light', 'raw diffuse direct', 'raw total lighting', 'raw total light'] },
  { id: 'raw-reflection', label: 'Raw reflection', nature: 'light', words: ['raw reflection', 'raw specular reflection'] },
  { id: 'raw-refraction', label: 'Raw refraction', nature: 'light', words: ['raw refraction'] },
  { id: 'raw-shadow', label: 'Raw shadow', nature: 'light', words: ['raw shadow'] },
  { id: 'gi', label: 'GI', nature: 'light', words: ['gi', 'global lighting', 'diffuse gi', 'gi lighting', 'gi light'] },
  { id: 'direct-lighting', label: 'Direct lighting', nature: 'light', words: ['lighting', 'direct', 'diffuse lighting', 'direct lighting', 'direct light', 'diffuse direct', 'diffuse light', 'diffuse direct lighting', 'total lighting', 'total light', 'light'] },
  { id: 'reflection', label: 'Reflection', nature: 'light', words: ['reflection', 'specular gi', 'reflection gi', 'reflection direct', 'specular reflection', 'reflection lighting'] },
  { id: 'refraction', label: 'Refraction', nature: 'light', words: ['refraction', 'refraction direct', 'refraction gi', 'refraction lighting'] },
  { id: 'specular', label: 'Specular', nature: 'light', words: ['specular', 'specular direct'] },
  { id: 'self-illumination', label: 'Self-illumination', nature: 'light', words: ['self lighting', 'emission', 'self emission', 'emission lighting'] },
  { id: 'subsurface', label: 'Subsurface', nature: 'light', words: ['subsurface', 'subsurface direct', 'subsurface gi'] },
  { id: 'caustics', label: 'Caustics', nature: 'light', words: ['caustics', 'caustics reflection', 'caustics refraction'] },
  { id: 'shadow', label: 'Shadow', nature: 'light', words: ['shadow', 'shadow matte', 'shadow direct'] },
  { id: 'stand-in', label: 'Stand-in', nature: 'light', words: ['standin', 'standin shadow', 'standin reflection'] },
  { id: 'ambient-occlusion', label: 'Ambient occlusion', nature: 'light', words: ['occlusion', 'ambient occlusion', 'ambient'] },
  { id: 'atmosphere', label: 'Atmosphere', nature: 'light', words: ['atmosphere', 'atmosphere light', 'atmosphere lighting', 'atmosphere direct', 'atmosphere gi'] },
  { id: 'glare', label: 'Glare', nature: 'light', words: ['glare', 'glare light'] },
  { id: 'background', label: 'Background', nature: 'light', words: ['background', 'environment', 'background environment'] },
  { id: 'seen-depth', label: 'Depth in glass and mirrors', nature: 'data', words: ['refraction depth', 'reflection depth', 'specular depth', 'reflection refraction depth'] },
  { id: 'depth', label: 'Depth', nature: 'data', words: ['depth'] },
  { id: 'distance', label: 'Distance', nature: 'data', words: ['distance'] },
  { id: 'normals', label: 'Normals', nature: 'data', words: ['normals'] },
  { id: 'position', label: 'Position', nature: 'data', words: ['position'] },
  { id: 'alpha', label: 'Alpha', nature: 'data', words: ['alpha'] },
  { id: 'measure', label: 'Other numbers', nature: 'data', words: ['measure', 'measure reflection', 'measure refraction', 'measure specular', 'measure coat', 'measure diffuse', 'measure filter', 'measure material', 'atmosphere depth', 'subsurface depth'] },
  { id: 'wireframe', label: 'Wireframe', nature: 'light', words: ['wireframe'] },
  { id: 'beauty', label: 'Beauty', nature: 'light', words: ['beauty', 'beauty total', 'beauty filter'] },
  { id: 'other-light', label: 'Other light', nature: 'light', words: ['coat', 'coat direct', 'coat gi', 'coat reflection', 'coat specular', 'sheen', 'sheen direct', 'sheen gi'] },
  { id: 'picture', label: 'Picture', nature: 'light', words: [] },
] as const satisfies readonly RoleRow[];

export type RoleId = (typeof rows)[number]['id'];
export const roles: readonly (RoleRow & { readonly id: RoleId })[] = rows;
const byId = new Map<string, RoleRow>(rows.map((role) => [role.id, role]));

export const isRoleId = (id: string): id is RoleId => byId.has(id);
export const roleLabel = (id: RoleId): string => byId.get(id)?.label ?? id;
export const roleNature = (id: RoleId): 'light' | 'data' => byId.get(id)?.nature ?? 'light';

/** Whether its numbers say how far away things are. */
export const roleSaysHowFar = (id: RoleId): boolean => id === 'depth' || id === 'seen-depth' || id === 'distance';

/** Whether numbers of an element must not be mixed with each other: those of reduced levels are some of its own, not means. */
export const roleKeepsValues = (id: RoleId): boolean => roleNature(id) === 'data' && /-id$|matte/.test(id);

export interface RoleGuess {
  readonly role: RoleId;
  /** For people: what decided. */
  readonly reason: string;
  /** 0…1; below a half somebody should look. */
  readonly confidence: number;
}

/** The encoding an element most likely has: data by role, otherwise light in float files and display in integer ones. */
export function guessEncoding(role: RoleId, samples: 'float' | 'integer'): Encoding {
  if (roleNature(role) === 'data') return 'data';
  return samples === 'float' ? 'linear' : 'display';
}
