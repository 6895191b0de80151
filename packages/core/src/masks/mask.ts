import { defineTerm, needKey } from './define.ts';
import { findMask } from '../model/query.ts';
import { mask as maskParam } from '../params/references.ts';

/** Another mask of the shelf, as it is after its own recipe. */
export const mask = defineTerm({
  id: 'mask',
  label: 'Mask of the shelf',
  summary: 'Another mask; it follows when that one changes.',
  params: { mask: maskParam({ label: 'Mask', help: 'The mask it refers to.' }) },
  reads: null,
  areShares: false,
  isSmooth: true,
  needs: (values) => [{ what: 'mask', maskId: values.mask }],
  fault: (values, document) => (findMask(document, values.mask) ? null : 'The mask it refers to is gone.'),
  prepare: (values, inputs) => {
    const plane = inputs.masks[needKey({ what: 'mask', maskId: values.mask })];
    if (!plane) return (_, out) => void out.fill(0);
    // Paint that was computed before comes as it is, in floating-point numbers.
    const most = plane.type === 'u8' ? 255 : plane.type === 'u16' ? 65535 : 1;
    return (y, out) => {
      for (let x = 0, i = y * plane.width; x < out.length; x++, i++) out[x] = plane.data[i] / most;
    };
  },
  source: 'common practice, no published source',
});
