import { flag, number, type Size } from '@tazzel/core';
import { FormatError } from '../errors.ts';

/** Bytes show bands in skies without it. */
export const dither = flag({ label: 'Dither, against banding in skies', help: 'An ordered pattern below one code. Without it values are rounded plainly.', default: true, when: { bits: '8' } });

export const dpi = number({ label: 'Resolution', unit: 'dpi', min: 0, max: 4800, step: 1, digits: 0, usual: [0, 600], default: 0, help: 'Dots per inch, for programs that place the picture on paper. It changes no pixel; 0 says nothing.' });

/** @throws FormatError `too-large` */
export function mustFit({ width, height }: Size, side: number, format: string): void {
  if (width > side || height > side) throw new FormatError('too-large', `${width} × ${height} pixels`, `a ${format} has at most ${side} on each side. Deliver it smaller, or as TIFF.`);
}
