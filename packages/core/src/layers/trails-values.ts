/** The parameters of a layer of light trails, for those who read and change them. */
import type { PictureLayer } from '../model/model.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { paths } from '../params/paths.ts';
import { element } from '../params/references.ts';
import { completeParams, type ParamValues } from '../params/table.ts';
import { DEPTHS } from './figures-values.ts';

/** What the kind of layer is called in a document. */
export const TRAILS = 'trails';

const metres = (label: string, min: number, max: number, initial: number, step: number, help: string) => number({ label, unit: 'm', min, max, default: initial, step, digits: 2, help });
const whole = (label: string, min: number, max: number, initial: number, help: string, usual?: readonly [number, number]) => number({ label, unit: '', min, max, default: initial, step: 1, digits: 0, help, ...(usual ? { usual } : {}) });

const params = {
  courses: paths({ label: 'Courses', help: 'Lines on the ground that vehicles drive along, drawn on the picture.' }),
  exposureStops: number({ label: 'Brightness', unit: 'EV', min: -10, max: 16, default: 1.5, step: 0.1, digits: 2, usual: [-3, 8], help: 'Of the lamps, as they are drawn. Slow traffic draws brighter lines than fast.' }),
  towards: color({ label: 'Coming', of: 'light', default: [1, 0.88, 0.7], help: 'The light of lamps that come nearer.' }),
  away: color({ label: 'Leaving', of: 'light', default: [1, 0.035, 0.012], help: 'The light of lamps that go away.' }),
  vehicles: whole('Vehicles', 1, 60, 6, 'On each course while the shutter is open.', [1, 24]),
  traffic: choice({ label: 'Traffic', options: { 'one-way': 'One way', right: 'Both ways, on the right', left: 'Both ways, on the left' }, default: 'right', help: 'Along the course as it was drawn, or both ways beside it.' }),
  lanes: whole('Lanes', 1, 8, 2, 'Side by side, with the course in their middle.'),
  laneMetres: metres('Lane', 0.5, 6, 3, 0.05, 'How wide one is.'),
  kmPerHour: number({ label: 'Speed', unit: 'km/h', min: 1, max: 300, default: 40, step: 1, digits: 0, usual: [5, 130], help: 'Speed times shutter is how long a trail is.' }),
  shutterSeconds: number({ label: 'Shutter', unit: 's', min: 0.01, max: 600, default: 4, step: 0.5, digits: 2, usual: [0.1, 30], byFactors: true, help: 'How long it is open.' }),
  lampHeightMetres: metres('Lamp height', 0.05, 5, 0.7, 0.05, 'Over the ground.'),
  lampMetres: metres('Lamp', 0.01, 1, 0.08, 0.01, 'How large one is across.'),
  trackMetres: metres('Apart', 0, 4, 1.4, 0.05, 'The two lamps of a vehicle; 0 is one lamp, as of a bicycle.'),
  flickerPercent: number({ label: 'Flicker', unit: '%', min: 0, max: 100, default: 0, step: 5, digits: 0, help: 'How far lamps go dark between two flashes.' }),
  flickerHertz: number({ label: 'Flashes', unit: 'Hz', min: 0.5, max: 400, default: 20, step: 1, digits: 1, usual: [1, 100], byFactors: true, help: 'In a second. Those too close to be seen apart are seen as their mean.' }),
  mirrorPercent: number({ label: 'Mirrored', unit: '%', min: 0, max: 400, default: 0, step: 5, digits: 0, help: 'In wet ground, as the reflection filter says; as in water where there is none. Needs depths.' }),
  groundMetres: number({ label: 'Ground at', unit: 'm', min: -10_000, max: 10_000, default: 0, step: 0.05, digits: 2, usual: [-3, 12], help: 'How high the ground is that they drive on.' }),
  seed: whole('Seed', 0, 9999, 1, 'Other vehicles.', [0, 50]),
  depth: element({ label: 'Hidden by', roles: DEPTHS, help: 'The element of depths or distances that tells what stands before them.' }),
};
export const trailsParams = { label: 'Light trails', params } as const;
export type TrailsValues = ParamValues<typeof params>;
export const trailsValues = (layer: PictureLayer): TrailsValues => completeParams(trailsParams, layer.params) as unknown as TrailsValues;
export const isTrails = (layer: unknown): layer is PictureLayer => (layer as PictureLayer | null)?.kind === 'picture' && (layer as PictureLayer).type === TRAILS;
