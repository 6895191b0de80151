/**
 * A scene as plain data. Lengths in metres, y up, right-handed; colours are linear, with the primaries of sRGB; light is
 * photometric (lumen, lux, candela per square metre).
 */
import type { SkyDescription, SunPlace, Triple } from '@tazzel/core';

export type { SkyDescription, Triple };

/** Surface colour: flat, or a pattern that is computed where it is seen. Reflectances from 0 to 1. */
export type Paint =
  | { readonly pattern: 'flat'; readonly color: Triple }
  | { readonly pattern: 'brick'; readonly color: Triple; readonly mortar: Triple; readonly lengthMetres: number; readonly courseMetres: number; readonly jointMetres: number }
  | { readonly pattern: 'slats'; readonly color: Triple; readonly pitchMetres: number; readonly gapMetres: number; readonly lies: 'upright' | 'level' }
  | { readonly pattern: 'boards'; readonly color: Triple; readonly widthMetres: number; readonly lengthMetres: number; readonly along: 'x' | 'z' }
  | { readonly pattern: 'concrete'; readonly color: Triple; readonly panelMetres: number }
  | { readonly pattern: 'gravel'; readonly color: Triple; readonly grainMetres: number }
  | { readonly pattern: 'grass'; readonly color: Triple }
  | { readonly pattern: 'plaster'; readonly color: Triple }
  /** Every cell of the given width, height and depth in another shade between the two colours. */
  | { readonly pattern: 'cells'; readonly color: Triple; readonly other: Triple; readonly cellMetres: Triple };

export type Surface =
  | { readonly kind: 'matt'; readonly paint: Paint }
  /** Matt under a clear coat. */
  | { readonly kind: 'coated'; readonly paint: Paint; readonly ior: number; readonly roughness: number }
  /** Roughness 0 makes a mirror. */
  | { readonly kind: 'metal'; readonly color: Triple; readonly roughness: number }
  /** Thin and translucent: `through` is the share of the reflected light that leaves on the other side. */
  | { readonly kind: 'leaf'; readonly paint: Paint; readonly through: number }
  /** One sheet stands for a pane with two sides; light goes straight through. */
  | { readonly kind: 'thin-glass'; readonly ior: number; readonly tint: Triple }
  /** A closed body. `clearness` is what is left of the light after a metre. */
  | { readonly kind: 'solid-glass'; readonly ior: number; readonly clearness: Triple }
  /** As solid glass, with waves on its upper side. */
  | { readonly kind: 'water'; readonly ior: number; readonly clearness: Triple; readonly waveMetres: number; readonly waveSlope: number }
  | { readonly kind: 'luminous'; readonly luminance: number; readonly kelvin: number; readonly group: string | null; readonly filter?: Triple };

export interface MaterialDescription {
  readonly name: string;
  /** Materials with the same number select as one. */
  readonly number: number;
  /** ID colour set by hand, 0 to 1; null takes the colour that belongs to the number. */
  readonly idColor: Triple | null;
  readonly surface: Surface;
}

export type Shape =
  | { readonly kind: 'box'; readonly min: Triple; readonly max: Triple; readonly turnDegrees?: number }
  /** A parallelogram: a corner and its two edges. Its front is the side from which `u` to `v` turns anticlockwise. */
  | { readonly kind: 'quad'; readonly corner: Triple; readonly u: Triple; readonly v: Triple }
  | { readonly kind: 'cylinder'; readonly from: Triple; readonly to: Triple; readonly radius: number; readonly endRadius?: number; readonly sides: number }
  | { readonly kind: 'sphere'; readonly center: Triple; readonly radius: number; readonly sides: number }
  /** Trunk and branches of a young tree. */
  | { readonly kind: 'trunk'; readonly at: Triple; readonly height: number; readonly seed: number }
  /** The leaves of the tree with the same place, height and seed. */
  | { readonly kind: 'crown'; readonly at: Triple; readonly height: number; readonly seed: number; readonly leaves: number; readonly leafMetres: number }
  /** Blades that stand on a rectangle of ground. */
  | { readonly kind: 'blades'; readonly min: Triple; readonly max: Triple; readonly count: number; readonly height: number; readonly widthMetres: number; readonly seed: number }
  /** Books that stand in a row from one point to another, each of its own width and height. */
  | { readonly kind: 'books'; readonly from: Triple; readonly to: Triple; readonly height: number; readonly depth: Triple; readonly seed: number }
  | { readonly kind: 'mesh'; readonly positions: readonly number[]; readonly indices: readonly number[] };

export interface ObjectDescription {
  readonly name: string;
  readonly material: string;
  readonly shapes: readonly Shape[];
}

interface LampBase {
  readonly name: string;
  /** Light group; null puts the lamp into the rest. */
  readonly group: string | null;
  readonly lumens: number;
  readonly kelvin: number;
  /** What each channel of its light is multiplied with, as by coloured glass. */
  readonly filter?: Triple;
}
export type LampDescription = LampBase &
  (
    | { readonly kind: 'sphere'; readonly center: Triple; readonly radius: number }
    /** Shines from its front only: the side from which `u` to `v` turns anticlockwise. */
    | { readonly kind: 'rectangle'; readonly corner: Triple; readonly u: Triple; readonly v: Triple }
    /** A point with a photometric web (IES LM-63 text), scaled to `lumens`. `aim` is the direction of the web's nadir. */
    | { readonly kind: 'web'; readonly at: Triple; readonly aim: Triple; readonly ies: string }
  );

export type SunDescription = {
  /** Lux on a surface that faces the sun; null follows the altitude. */
  readonly lux: number | null;
  readonly kelvin: number;
  readonly angularDegrees: number;
  readonly filter?: Triple;
} & SunPlace;

export type ExposureDescription =
  | { readonly kind: 'settings'; readonly fNumber: number; readonly shutterSeconds: number; readonly iso: number }
  /** Chosen so that the picture's mean comes out as 18 % grey, then corrected by stops. */
  | { readonly kind: 'automatic'; readonly stops: number };

export interface CameraDescription {
  readonly name: string;
  readonly at: Triple;
  /** The point in the middle of the picture when nothing is shifted. */
  readonly lookAt: Triple;
  readonly focalMillimetres: number;
  readonly sensorMillimetres: number;
  /** The lens moved upwards, in millimetres on the sensor. */
  readonly shiftMillimetres: number;
  /** Keeps uprights parallel: the height of `lookAt` becomes shift. */
  readonly upright: boolean;
  readonly focus: { readonly distanceMetres: number; readonly fNumber: number } | null;
  readonly exposure: ExposureDescription;
}

export interface FogDescription {
  /** Distance after which 1/e of the light is left at the ground, in metres. */
  readonly distanceMetres: number;
  /** Where the density has fallen to 1/e, in metres above the ground; null is the same everywhere. */
  readonly heightMetres: number | null;
  readonly color: Triple;
  /** Henyey–Greenstein's mean cosine, −1 to 1. */
  readonly forwardness: number;
}

export interface SceneDescription {
  readonly format: 'tazzel-scene';
  readonly version: 1;
  readonly name: string;
  readonly materials: readonly MaterialDescription[];
  readonly objects: readonly ObjectDescription[];
  readonly lamps: readonly LampDescription[];
  readonly sun: SunDescription | null;
  readonly sky: SkyDescription;
  /** What each channel of the sky’s light is multiplied with. */
  readonly skyFilter?: Triple;
  readonly cameras: readonly CameraDescription[];
  readonly fog: FogDescription | null;
}

export const SUN_GROUP = 'sun';
export const SKY_GROUP = 'environment';
export const REST_GROUP = 'rest';

/** All light groups of a scene, in the order of their elements. */
export function lightGroups(scene: SceneDescription): string[] {
  const named = [...scene.lamps.map((lamp) => lamp.group), ...scene.materials.map(({ surface }) => (surface.kind === 'luminous' ? surface.group : null))];
  const groups = [SUN_GROUP, SKY_GROUP, ...named.filter((group) => group !== null), REST_GROUP];
  return [...new Set(groups)];
}
