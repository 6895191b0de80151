import { readFileSync } from 'node:fs';
import { floatToHalf, halfToFloat, lutColor, lutFault, packedLut, type Triple } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { cccFile, cdlFile, readCdl } from './cdl.ts';
import { readLut } from './lut.ts';

const text = (name: string) => readFileSync(new URL(`fixtures/${name}`, import.meta.url), 'utf8');
const ocio = JSON.parse(text('ocio.json')) as { points: Triple[]; files: Record<string, Triple[]> };

describe('tables of colours', () => {
  // Computed by ociochecklut of OpenColorIO 2.1.2, which interpolates in tetrahedra. Entries are kept as halves: half a thousandth.
  it.each(Object.keys(ocio.files))('%s gives what OpenColorIO gives', (name) => {
    const lut = readLut(text(name), name);
    expect(lutFault(lut)).toBeNull();
    const packed = packedLut(lut);
    for (const [i, point] of ocio.points.entries()) for (const [c, value] of lutColor(point, packed).entries()) expect(Math.abs(value - ocio.files[name][i][c]), `${name} ${point} ${c}`).toBeLessThan(6e-4);
  });
  /** A list of one step over all halves: each channel log2(1 + k |x|) / 8 with the sign of x. */
  const overHalves = (attributes: string, row: (value: number) => string) =>
    `<ProcessList id="h"><LUT1D halfDomain="true" ${attributes}><Array dim="65536 3">${Array.from({ length: 65536 }, (_, code) => [8, 2, 0.5].map((k) => row((Math.sign(halfToFloat(code)) * Math.log2(1 + Math.abs(halfToFloat(code)) * k)) / 8)).join(' ')).join('\n')}</Array></LUT1D></ProcessList>`;
  // Computed by ociochecklut of OpenColorIO 2.1.2.
  const byOcio: readonly (readonly [Triple, Triple])[] = [
    [[0.18, 0.5, 1], [0.1608601, 0.125, 0.07312031]],
    [[0, -0.25, 2.7], [0, -0.07312031, 0.1540826]],
    [[1e-5, 3e-6, 0.0001], [0.00001442637, 0.000001082018, 0.000009016619]],
    [[1000.3, 65504, 7e4], [1.6208, 2.124913, 1.874917]],
    [[-3.3, 0.0303, 16.5], [-0.597013, 0.01061008, 0.4011817]],
  ];
  it.each([
    ['in words', '', (value: number) => (Number.isFinite(value) ? value.toPrecision(7) : 'nan')],
    ['as bits of halves', 'rawHalfs="true" outBitDepth="16f"', (value: number) => String(floatToHalf(Number.isFinite(value) ? value : 0))],
  ] as const)('over all halves, %s, give what OpenColorIO gives: between them, below the least normal one, beyond the last', (_, attributes, row) => {
    const lut = readLut(overHalves(attributes, row), 'halves.clf');
    expect(lutFault(lut)).toBeNull();
    const packed = packedLut(lut);
    // Entries are kept as halves: half a thousandth of their value.
    for (const [point, wanted] of byOcio) for (const [c, value] of lutColor(point, packed).entries()) expect(Math.abs(value - wanted[c]), `${point} ${c}`).toBeLessThanOrEqual(6e-4 * Math.abs(wanted[c]) + 3e-8);
    expect(lutColor([Number.NaN, Number.POSITIVE_INFINITY, -1e9], packed)).toEqual([0, expect.closeTo(2.1249, 2), expect.closeTo(-1.8749, 2)]);
  });
  it('have the name that their file gives them', () => {
    expect([readLut(text('three.cube'), 'a.cube').name, readLut(text('one.cube'), 'one.cube').name, readLut(text('steps.clf'), 'b.clf').name]).toEqual(['Evening', 'one.cube', 'Steps']);
  });
  it.each([
    ['', /no table of colours/],
    ['LUT_3D_SIZE 2\n0 0 0\n', /it holds 1 of 8 values/],
    ['LUT_3D_SIZE 900\n', /a size from 2 to 65 is read, found “900”/],
    ['LUT_1D_SIZE 2\n0 0 0\n1 1 x\n', /line 3: expected three numbers/],
    ['LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1\n', /more values than a table of that size/],
    ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\n0 0 0\n1 1 1\n', /DOMAIN_MIN must lie below/],
    ['GAMUT 3\n', /“GAMUT” is no word of such a table/],
    ['1 2 3\n', /values stand before/],
    ['<html><body>no</body></html>', /ProcessList is missing/],
    ['<ProcessList><Matrix>', /line 1/],
    ['<ProcessList></ProcessList>', /list of steps is empty|ProcessList is missing/],
    ['<ProcessList><Log style="logC"/></ProcessList>', /a Log of the style “logC” is not read/],
    ['<ProcessList><Log style="linToLog"><LogParams base="1"/></Log></ProcessList>', /a base above 1/],
    ['<ProcessList><Log style="cameraLinToLog"><LogParams base="2"/></Log></ProcessList>', /needs its linSideBreak/],
    ['<ProcessList><Exponent style="basicFwd"><ExponentParams exponent="x"/></Exponent></ProcessList>', /exponent is no number: “x”/],
    ['<ProcessList><Exponent style="basicFwd"/></ProcessList>', /an exponent from 0.01 to 100/],
    ['<ProcessList><Reference style="x"/></ProcessList>', /the step “Reference” is not read/],
    ['<ProcessList><LUT1D halfDomain="true"><Array dim="2 1">0 1</Array></LUT1D></ProcessList>', /over all halves has 65536 entries, this one has 2/],
    ['<ProcessList><LUT1D><Array dim="3 1">0 1</Array></LUT1D></ProcessList>', /holds 2 numbers, its dimensions \(3 1\) say 3/],
    ['<ProcessList><Matrix inBitDepth="7i"><Array dim="3 3">1 0 0 0 1 0 0 0 1</Array></Matrix></ProcessList>', /bit depth “7i” is not known/],
  ])('refuses %j with a sentence', (given, sentence) => {
    expect(() => readLut(given, 'bad.cube')).toThrow(sentence);
  });
});

describe('colour decision lists', () => {
  const decision = { name: 'Shot “1” <A>', slope: [1.2, 1, 0.85], offset: [0.01, 0, -0.02], power: [0.9, 1, 1.1], saturation: 0.75 } as const;
  it('are read as they were written, one or several', () => {
    expect(readCdl(cdlFile(decision), 'a.cdl')).toEqual([decision]);
    const other = { ...decision, name: 'B', saturation: 1 };
    expect(readCdl(cccFile([decision, other]), 'a.ccc')).toEqual([decision, other]);
  });
  // The example of ASC CDL 1.2, chapter 5 (values from memory), with a namespace and the older spelling of the second node.
  it('of others are read', () => {
    const given = '<ColorCorrection id="cc03345" xmlns="urn:ASC:CDL:v1.01"><SOPNode><Slope>0.904462 0.904462 0.904462</Slope><Offset>-0.000300 -0.000300 -0.000300</Offset><Power>1.040000 1.040000 1.040000</Power></SOPNode><SATNode><Saturation>1.2</Saturation></SATNode></ColorCorrection>';
    expect(readCdl(given, 'x.cc')).toEqual([{ name: 'cc03345', slope: [0.904462, 0.904462, 0.904462], offset: [-0.0003, -0.0003, -0.0003], power: [1.04, 1.04, 1.04], saturation: 1.2 }]);
  });
  it('that are none get a sentence', () => {
    expect(() => readCdl('<a/>', 'x.cdl')).toThrow(/holds no ColorCorrection/);
    expect(() => readCdl('nothing', 'x.cdl')).toThrow(/x\.cdl: /);
    expect(() => readCdl('<ColorCorrection><SOPNode><Slope>1 2</Slope></SOPNode></ColorCorrection>', 'x.cdl')).toThrow(/Slope must be three numbers/);
  });
});
