import { lutColor, packedLut } from '../color/lut.ts';
import { lut } from '../params/lut.ts';
import { defineCorrection } from './define.ts';

/** A table of colours from a file. It works on the values that are there: light under the tone line, picture values over it. Between entries colours are interpolated in tetrahedra. */
export const lutFile = defineCorrection({
  work: 'points',
  id: 'lut-file',
  label: 'Table of colours (LUT)',
  summary: 'Changes colours by a table from a file: 1D and 3D .cube, or .clf.',
  group: 'Colour',
  params: {
    table: lut({ label: 'Table', help: 'Under the tone line the table is given scene light, over it picture values from 0 to 1: choose the place by what it was made for.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  isNoOp: ({ table }) => table.steps.length === 0,
  prepare: ({ table }) => packedLut(table),
  pixel: lutColor,
  kernel: 'lut',
  examples: [
    { table: { name: '', steps: [] } },
    { table: { name: 'Warm', steps: [{ kind: 'matrix', values: [1.1, 0, 0, 0.01, 0, 1, 0, 0, 0.05, 0, 0.85, 0] }, { kind: 'range', low: 0, high: null }, { kind: 'power', values: [0.9, 1, 1.1] }] } },
    // Powers with a straight piece in the dark, there and mirrored back; a camera's logarithm there and back.
    { table: { name: 'Pieces', steps: [{ kind: 'exponent', isMirrored: false, values: [1 / 1.055, 0.055 / 1.055, 2.4, 1, 0, 0.0393, 1 / 12.92, 1, 0, 1.8, 1, 0, 0, 0, 1, 0, 1 / 1.8, 1, 0, 0, 1] }, { kind: 'exponent', isMirrored: true, values: Array.from({ length: 3 }, () => [1, 0, 0.5, 1, 0, 0, 0]).flat() }, { kind: 'log', values: Array.from({ length: 3 }, () => [5.5, 0.05, 0.11, 0.39, 0.01, 5.2, 0.09]).flat() }, { kind: 'antilog', values: Array.from({ length: 3 }, () => [1.4, -0.7, 1, -0.3, 0.1, 0.9, 0.01]).flat() }] } },
    // Two entries for each channel, and eight colours: halves of 0, 0.25, 0.5 and 1 in base64.
    { table: { name: 'Small', steps: [{ kind: 'curve', entries: 2, low: [0, 0, 0], high: [1, 2, 1], values: 'AAAANAAAADwAPAA4' }, { kind: 'cube', side: 2, low: [0, 0, 0], high: [1, 1, 1], values: 'AAAAAAAAADwAAAAAAAAAOAAAADwAOAAAAAAANAA8ADwANAA8AAAAOgA8ADwAOgA8' }] } },
  ],
  source: 'Academy S-2014-006, “Common LUT Format”, 2021; J. M. Kasson et al., Journal of Electronic Imaging 4(3), 1995 (tetrahedra)',
});
