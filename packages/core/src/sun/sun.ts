/** The sun of a document: by place and time, or by its direction. It lights the scene that was rendered; skies, air, shadows and masks ask where it stands. */
import { choice } from '../params/choice.ts';
import { moment } from '../params/moment.ts';
import { number } from '../params/number.ts';
import { completeParams, type KeptValues, type Parametric, type ParamValues } from '../params/table.ts';
import type { SunPlace } from './position.ts';

const degrees = (place: string, label: string, min: number, max: number, initial: number, help: string) => number({ label, unit: '°', min, max, default: initial, step: 0.5, digits: 2, help, when: { place } });

export const sunParams = {
  place: choice({ label: 'Given by', options: { angles: 'Direction', date: 'Place and time' }, default: 'angles', help: 'How it is said where the sun stands.' }),
  azimuthDegrees: degrees('angles', 'Direction', -360, 360, 180, 'From −z of the scene (north on the plan) over +x (east).'),
  altitudeDegrees: degrees('angles', 'Height', -90, 90, 40, 'Above the horizon.'),
  latitudeDegrees: degrees('date', 'Latitude', -90, 90, 48, 'North above 0.'),
  longitudeDegrees: degrees('date', 'Longitude', -180, 180, 11, 'East above 0.'),
  utc: moment({ label: 'Time', default: '2026-06-21T12:00Z', help: 'In universal time.', when: { place: 'date' } }),
  northDegrees: degrees('date', 'North', -360, 360, 0, 'The compass direction of −z of the scene.'),
};

export const sun: Parametric & { readonly params: typeof sunParams } = { label: 'Sun', params: sunParams };
export type Sun = ParamValues<typeof sunParams>;

/** As a document keeps it. */
export interface DocumentSun {
  readonly from: 'file' | 'hand';
  readonly params: KeptValues;
}

/** @throws CoreError `bad-parameter` */
export const sunOf = ({ params }: DocumentSun): Sun => completeParams(sun, params) as unknown as Sun;

/** A document's sun for `sunDirection`. */
export const sunPlace = ({ place, ...rest }: Sun): SunPlace => ({ ...rest, place: place as SunPlace['place'] }) as SunPlace;
