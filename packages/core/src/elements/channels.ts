/** Channels of one file grouped into elements by their names. @source OpenEXR "Technical Introduction", "Layers" */

export interface ChannelGroup {
  /** The part before the last dot; empty for channels without one. */
  readonly name: string;
  /** One channel, or three in the order red, green, blue (or x, y, z). */
  readonly color: readonly string[];
  readonly alpha: string | null;
}

const TRIPLES = [
  [['r', 'red'], ['g', 'green'], ['b', 'blue']],
  [['ry'], ['y'], ['by']],
  [['x'], ['y'], ['z']],
] as const;
const ALPHA = ['a', 'alpha'];
const GREY = ['y', 'luminance'];

/** Every channel ends up in exactly one group. Triples win over single channels; an alpha belongs to the colours beside it. */
export function groupChannels(names: readonly string[]): ChannelGroup[] {
  const layers = new Map<string, Map<string, string>>();
  for (const name of names) {
    const dot = name.lastIndexOf('.');
    const layer = dot < 0 ? '' : name.slice(0, dot);
    const members = layers.get(layer) ?? new Map<string, string>();
    members.set(name.slice(dot + 1).toLowerCase(), name);
    layers.set(layer, members);
  }
  return [...layers].flatMap(([layer, members]) => groupLayer(layer, members, names));
}

function groupLayer(layer: string, members: Map<string, string>, all: readonly string[]): ChannelGroup[] {
  const take = (aliases: readonly string[]) => {
    const key = aliases.find((alias) => members.has(alias));
    const name = key === undefined ? null : (members.get(key) ?? null);
    if (key !== undefined) members.delete(key);
    return name;
  };
  const groups: ChannelGroup[] = [];
  for (const triple of TRIPLES) {
    if (!triple.every((aliases) => aliases.some((alias) => members.has(alias)))) continue;
    const color = triple.map((aliases) => take(aliases) as string);
    groups.push({ name: layer, color, alpha: groups.length === 0 ? take(ALPHA) : null });
  }
  if (groups.length === 0 && GREY.some((alias) => members.has(alias))) groups.push({ name: layer, color: [take(GREY) as string], alpha: take(ALPHA) });
  // What is left are single numbers: depth, alpha, IDs. Names that differ only in case were overwritten in the map.
  const grouped = new Set(groups.flatMap((group) => [...group.color, ...(group.alpha === null ? [] : [group.alpha])]));
  const inLayer = all.filter((name) => (name.lastIndexOf('.') < 0 ? '' : name.slice(0, name.lastIndexOf('.'))) === layer);
  const singles = inLayer.filter((name) => !grouped.has(name)).map((name) => ({ name, color: [name], alpha: null }));
  return [...groups, ...(singles.length === 1 && groups.length === 0 && layer !== '' ? [{ ...singles[0], name: layer }] : singles)];
}
