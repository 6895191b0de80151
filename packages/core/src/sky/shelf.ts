/** Skies to begin with: nothing but parameters of the layer, so that each can be changed. */
import type { KeptValues } from '../params/table.ts';

export interface ShelfSky {
  readonly id: string;
  readonly label: string;
  /** How high its sun (or moon) stands; its direction is that of the picture's sun. */
  readonly altitudeDegrees: number;
  readonly params: KeptValues;
  /** How bright it is in a picture, on the mean, in light. */
  readonly brightness: number;
}

/** The order of a day. Common practice, no published source. */
export const SKY_SHELF: readonly ShelfSky[] = [
  { id: 'dawn', label: 'Dawn', altitudeDegrees: -2.5, brightness: 0.3, params: { turbidity: 2.6, clouds: 'cirrus', coverPercent: 35, windDegrees: 100, seed: 3 } },
  { id: 'clear-noon', label: 'Clear noon', altitudeDegrees: 55, brightness: 0.42, params: { turbidity: 2.2 } },
  { id: 'thin-cirrus', label: 'Thin cirrus', altitudeDegrees: 42, brightness: 0.45, params: { turbidity: 2.4, clouds: 'cirrus', coverPercent: 60, windDegrees: 35, seed: 11 } },
  { id: 'fair-cumulus', label: 'Fair-weather cumulus', altitudeDegrees: 48, brightness: 0.4, params: { turbidity: 2.4, clouds: 'cumulus', coverPercent: 28, seed: 7 } },
  { id: 'broken-cumulus', label: 'Broken cumulus', altitudeDegrees: 38, brightness: 0.36, params: { turbidity: 2.6, clouds: 'cumulus', coverPercent: 58, seed: 4 } },
  { id: 'overcast', label: 'Overcast', altitudeDegrees: 40, brightness: 0.5, params: { look: 'general', type: 'type-1', kelvin: 6600 } },
  { id: 'storm-light', label: 'Storm light', altitudeDegrees: 16, brightness: 0.16, params: { turbidity: 3, clouds: 'stratus', coverPercent: 88, windDegrees: 70, seed: 5, tint: [0.82, 0.93, 1.08] } },
  { id: 'late-sun', label: 'Late sun', altitudeDegrees: 9, brightness: 0.42, params: { turbidity: 3.2, clouds: 'cumulus', coverPercent: 22, cloudMetres: 2200, seed: 9 } },
  { id: 'afterglow', label: 'Afterglow', altitudeDegrees: -1.5, brightness: 0.26, params: { turbidity: 3.2, clouds: 'stratus', coverPercent: 30, cloudMetres: 2600, windDegrees: 90, seed: 2 } },
  { id: 'blue-hour', label: 'Blue hour', altitudeDegrees: -6, brightness: 0.13, params: { turbidity: 2.4 } },
  { id: 'moonlit', label: 'Moonlit', altitudeDegrees: 32, brightness: 0.035, params: { turbidity: 2.2, clouds: 'cumulus', coverPercent: 20, seed: 12, tint: [0.42, 0.62, 1.1] } },
];
