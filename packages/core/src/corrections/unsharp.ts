import type { LocalLight } from './define.ts';

/** No edge is kept in a base that is only a mean. */
const NO_EDGES = 1e4;

/** What a picture blurred by a radius lacks, added again to a share; differences below a threshold stay. A base is smoothed twice: variances add up. */
export const unsharp = (amount: number, radiusPx: number, thresholdStops: number): LocalLight => ({
  kind: 'local',
  bases: [{ sigmaPx: radiusPx / Math.SQRT2, edgeStops: NO_EDGES }],
  weights: { amounts: [amount], thresholds: [thresholdStops], curve: null },
});
