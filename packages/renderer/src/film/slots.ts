/** What one camera sample leaves behind, as places in one list of numbers. */

/** Kinds of path, told apart at the first surface. Every path belongs to one of them, so their sum is the beauty. */
export const PATHS = ['direct-lighting', 'gi', 'reflection', 'refraction', 'specular', 'self-illumination', 'background', 'atmosphere'] as const;
export type PathKind = (typeof PATHS)[number];
export const PATH = { direct: 0, gi: 1, reflection: 2, refraction: 3, specular: 4, self: 5, background: 6, atmosphere: 7 } as const;

/** Sums besides the light, with their numbers of channels. */
const REST = [
  ['shadow', 3],
  ['diffuse-filter', 3],
  ['reflection-filter', 3],
  ['refraction-filter', 3],
  ['normals', 3],
  ['position', 3],
  ['alpha', 1],
  ['ambient-occlusion', 1],
  ['depth', 1],
  ['distance', 1],
  ['seen-depth', 1],
  ['wireframe', 1],
] as const;
export type RestName = (typeof REST)[number][0];

export interface Slot {
  readonly name: string;
  readonly at: number;
  readonly channels: number;
}

export interface SlotPlan {
  readonly groups: number;
  /** Light by path, then by group: three channels each. */
  readonly light: readonly Slot[];
  readonly rest: Readonly<Record<RestName, Slot>>;
  /** Sums of squared luminance: one for each slot of light, then the beauty's. */
  readonly moments: readonly Slot[];
  readonly size: number;
}

export const groupName = (group: string) => `group ${group}`;
export const momentName = (of: string) => `moment ${of}`;
export const BEAUTY = 'beauty';

export function planSlots(groups: readonly string[]): SlotPlan {
  let at = 0;
  const take = (name: string, channels: number): Slot => {
    at += channels;
    return { name, at: at - channels, channels };
  };
  const light = [...PATHS, ...groups.map(groupName)].map((name) => take(name, 3));
  const rest = Object.fromEntries(REST.map(([name, channels]) => [name, take(name, channels)])) as unknown as SlotPlan['rest'];
  const moments = [...light.map((slot) => slot.name), BEAUTY].map((name) => take(momentName(name), 1));
  return { groups: groups.length, light, rest, moments, size: at };
}

export const allSlots = (plan: SlotPlan): Slot[] => [...plan.light, ...Object.values(plan.rest), ...plan.moments];
