import { needKey, type TermSpec } from './define.ts';
import { findMask } from '../document/query.ts';

/** Another mask of the shelf, as it is after its own recipe. */
export const mask: TermSpec<'mask'> = {
  kind: 'mask',
  label: 'Mask of the shelf',
  summary: 'Another mask; it follows when that one changes.',
  params: {},
  reads: null,
  areShares: false,
  needs: ({ maskId }) => [{ what: 'mask', maskId }],
  problem: ({ maskId }, document) => (findMask(document, maskId) ? null : 'The mask it refers to is gone.'),
  prepare: ({ maskId }, inputs) => {
    const plane = inputs.masks[needKey({ what: 'mask', maskId })];
    if (!plane) return (_, out) => void out.fill(0);
    // Paint that was computed before comes as it is, in floating-point numbers.
    const most = plane.type === 'u8' ? 255 : plane.type === 'u16' ? 65535 : 1;
    return (y, out) => {
      for (let x = 0, i = y * plane.width; x < out.length; x++, i++) out[x] = plane.data[i] / most;
    };
  },
  source: 'common practice, no published source',
};
