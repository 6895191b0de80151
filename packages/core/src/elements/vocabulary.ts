/**
 * What materials, objects and light groups are usually called, in the languages in which they are: one vocabulary for masks, recipes, checks and lights.
 * Common practice, no published source.
 */
export interface Thing {
  /** As a mask of it is called. */
  readonly label: string;
  readonly words: readonly string[];
}

export const THINGS = {
  sky: { label: 'Sky', words: ['sky', 'himmel', 'ciel', 'cielo', 'background', 'backdrop'] },
  glazing: { label: 'Glazing', words: ['glass', 'glazing', 'window', 'windows', 'pane', 'panes', 'glas', 'verglasung', 'verre', 'vidrio', 'vetro'] },
  water: { label: 'Water', words: ['water', 'wasser', 'eau', 'agua', 'acqua', 'pool', 'pond', 'sea', 'river'] },
  foliage: { label: 'Foliage', words: ['leaf', 'leaves', 'foliage', 'grass', 'tree', 'trees', 'woods', 'hedge', 'plant', 'plants', 'bush', 'lawn', 'meadow', 'laub', 'gras', 'feuilles'] },
  ground: { label: 'Ground', words: ['gravel', 'ground', 'paving', 'pavement', 'asphalt', 'floor', 'terrain', 'soil', 'kies', 'boden'] },
  metal: { label: 'Metal', words: ['metal', 'steel', 'chrome', 'zinc', 'bronze', 'brass', 'copper', 'aluminium', 'aluminum', 'iron', 'metall', 'stahl', 'acier', 'metallo'] },
  lamps: { label: 'Lamps', words: ['lamp', 'lamps', 'light', 'lights', 'luminaire', 'luminaires', 'bulb', 'leuchte', 'leuchten', 'lampe', 'lampen', 'lampada', 'lampara'] },
} as const satisfies Readonly<Record<string, Thing>>;

export type ThingId = keyof typeof THINGS;

/** Light that most scenes have, by the words that groups of it are called with. */
export const LIGHTS = {
  sun: ['sun', 'sunlight', 'daylight', 'sonne', 'soleil', 'sol', 'sole'],
  environment: ['sky', 'skylight', 'env', 'environment', 'dome', 'hdri', 'ibl', 'himmel', 'umgebung', 'ciel', 'cielo'],
  emission: ['self', 'emission', 'emissive', 'illumination', 'selfillumination'],
  rest: ['rest', 'other', 'others', 'remaining', 'default', 'unassigned'],
} as const satisfies Readonly<Record<string, readonly string[]>>;
