import { packedLut } from '../color/lut.ts';
import { lut } from '../params/lut.ts';
import { defineTone } from './define.ts';

/** A table of colours from a file makes the picture of scene light. */
export const lutTone = defineTone({
  id: 'lut-file',
  label: 'Table of colours (LUT)',
  summary: 'A .cube or .clf file that makes picture values of scene light.',
  params: { table: lut({ label: 'Table', help: 'It is given scene light and gives picture values from 0 to 1. Without a file the tone line is straight.' }) },
  curve: null,
  table: ({ table }) => (table.steps.length === 0 ? null : packedLut(table)),
  examples: [{ table: { name: '', steps: [] } }, { table: { name: 'Root', steps: [{ kind: 'range', low: 0, high: 4 }, { kind: 'power', values: [0.5, 0.5, 0.5] }, { kind: 'matrix', values: [0.5, 0, 0, 0, 0, 0.5, 0, 0, 0, 0, 0.5, 0] }] } }],
  source: 'Academy S-2014-006, “Common LUT Format”, 2021',
});
