/** What a plan says of light trails: plain data that crosses to workers. */
import type { Trails } from './lamps.ts';

export interface TrailsLook {
  readonly trails: Trails;
  /** How much of what it mirrors wet ground sends back: 1 is as it is. */
  readonly mirror: number;
  /** Metres that are read are depths, not distances. */
  readonly areDepths: boolean;
}
/** Trails of a layer and what they read, as nodes of the plan. */
export interface PlannedTrails extends TrailsLook {
  readonly sides: { readonly node: number } | null;
  readonly filter: { readonly node: number } | null;
}
