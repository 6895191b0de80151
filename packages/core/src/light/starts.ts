/** Mixes to begin with, made of what the names of the groups say. Each is a plain mix afterwards. Values: common practice, no published source. */
import { kelvinToLinearSrgb } from '../color/kelvin.ts';
import type { LightMix, TazzelDocument } from '../model/model.ts';
import type { Triple } from '../vector.ts';
import { groupsOf, withSetting } from './board.ts';
import { AS_RENDERED, type LightValues } from './group.ts';
import { type LightKind, lightKind } from './names.ts';

/** Stops, and the colour of the light in kelvin; null is off. What is not named is as rendered. */
type Wish = { readonly stops: number; readonly kelvin?: number } | null;

export interface LightStart {
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly wishes: Readonly<Partial<Record<LightKind, Wish>>>;
}

export const lightStarts: readonly LightStart[] = [
  { id: 'clear-day', label: 'Clear day', summary: 'Sun and sky as rendered or brighter, lamps off.', wishes: { sun: { stops: 0.5, kelvin: 5700 }, environment: { stops: 0.5, kelvin: 6504 }, background: { stops: 0.5 }, emission: null, lamps: null } },
  { id: 'late-sun', label: 'Late sun', summary: 'A low, warm sun under a darker sky; lamps just lit.', wishes: { sun: { stops: -0.5, kelvin: 3400 }, environment: { stops: -1, kelvin: 8000 }, background: { stops: -1 }, lamps: { stops: 0 } } },
  { id: 'dusk', label: 'Dusk with lamps', summary: 'No sun, a deep blue sky, lamps warm and bright.', wishes: { sun: null, environment: { stops: -2, kelvin: 12_000 }, background: { stops: -2, kelvin: 12_000 }, emission: { stops: 0.5 }, lamps: { stops: 1, kelvin: 2900 } } },
  { id: 'night', label: 'Night', summary: 'Next to no sky; lamps are all the light there is.', wishes: { sun: null, environment: { stops: -5, kelvin: 15_000 }, background: { stops: -5, kelvin: 15_000 }, emission: { stops: 1 }, lamps: { stops: 1, kelvin: 2700 } } },
];

/** The mix that a starting point makes of a document's groups. */
export const startMix = (document: Pick<TazzelDocument, 'sources'>, { wishes }: LightStart): LightMix =>
  groupsOf(document).reduce<LightMix>((mix, source) => {
    const wish = wishes[lightKind(source)];
    return wish === undefined ? mix : withSetting(mix, source.id, wished(wish));
  }, []);

const wished = (wish: Wish): LightValues =>
  wish === null ? { ...AS_RENDERED, on: false } : { ...AS_RENDERED, intensityStops: wish.stops, ...(wish.kelvin === undefined ? {} : { takes: 'chosen' as const, color: kelvinToLinearSrgb(wish.kelvin).map((value) => Math.round(value * 1e5) / 1e5) as unknown as Triple }) };
