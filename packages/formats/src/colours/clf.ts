/** Tables of colours as a list of steps in XML. @source Academy S-2014-006, “Common LUT Format”, 2021 */
import { ALL_HALVES, halfToFloat, halvesToText, LARGEST_LIGHT, type Lut, LUT_LIMITS, type LutStep } from '@tazzel/core';
import { FormatError } from '../errors.ts';
import { readCdlNode } from './cdl.ts';
import { attributeOf, childOf, childrenOf, numbersOf, parseXml, textOf, type XmlElement } from './xml.ts';

/** What the largest code of a depth stands for; floats are as they are. */
const DEPTHS: Readonly<Record<string, number>> = { '8i': 255, '10i': 1023, '12i': 4095, '16i': 65535, '16f': 1, '32f': 1 };
const NOT_STEPS = new Set(['Id', 'Description', 'InputDescriptor', 'OutputDescriptor', 'Info', '#text']);

/** @throws FormatError for what is no such list, and by name for steps that are not known */
export function readClf(text: string, fileName: string): Lut {
  const list = childOf(parseXml(text, fileName), 'ProcessList');
  if (!list) throw new FormatError('not-recognised', fileName, 'this is no table of colours: the element ProcessList is missing');
  // Steps of different names lie apart once parsed; where they stood in the file tells their order.
  const order = [...text.matchAll(/<(?:\w+:)?(Matrix|Range|LUT1D|LUT3D|ASC_CDL|Log|Exponent)\b/g)].map(([, name]) => name);
  const unknown = Object.keys(list).find((name) => !name.startsWith('@') && !NOT_STEPS.has(name) && !(name in readers));
  if (unknown) throw new FormatError('unsupported', fileName, `the step “${unknown}” is not read; there are Matrix, Range, Exponent, Log, LUT1D, LUT3D and ASC_CDL. Write the table again without it`);
  const next = new Map<string, number>();
  const steps = order.flatMap((name): LutStep[] => {
    const at = next.get(name) ?? 0;
    next.set(name, at + 1);
    const element = childrenOf(list, name)[at];
    if (!element || attributeOf(element, 'bypass') === 'true') return [];
    return readers[name](element, fileName);
  });
  if (steps.length === 0) throw new FormatError('corrupt', fileName, 'the list of steps is empty');
  if (steps.length > LUT_LIMITS.steps) throw new FormatError('too-large', fileName, `it has ${steps.length} steps; up to ${LUT_LIMITS.steps} are read`);
  return { name: (attributeOf(list, 'name') ?? attributeOf(list, 'id') ?? fileName).slice(0, LUT_LIMITS.name), steps };
}

function depthsOf(element: XmlElement, fileName: string): [from: number, to: number] {
  return (['inBitDepth', 'outBitDepth'] as const).map((name) => {
    const depth = attributeOf(element, name) ?? '32f';
    return DEPTHS[depth] ?? refuse(fileName, `the bit depth “${depth}” is not known`);
  }) as [number, number];
}

const refuse = (fileName: string, what: string): never => {
  throw new FormatError('corrupt', fileName, what);
};

/** The numbers of an array, and what its dimensions say. Where entries stand for what is no number, they may be none. */
function arrayOf(element: XmlElement, name: string, fileName: string, mayBeEndless = false): { dim: number[]; values: number[] } {
  const array = childOf(element, 'Array') ?? refuse(fileName, `${name} has no Array`);
  const dim = (attributeOf(array, 'dim') ?? '').trim().split(/\s+/).map(Number);
  const values = numbersOf(array);
  const count = dim.reduce((product, n) => product * n, 1);
  if (!mayBeEndless && !values.every(Number.isFinite)) refuse(fileName, `the Array of ${name} holds something that is no number`);
  if (values.length !== count) refuse(fileName, `the Array of ${name} holds ${values.length} numbers, its dimensions (${dim.join(' ')}) say ${count}`);
  return { dim, values };
}

/** Below every number there is. */
const LOWEST = -3e38;

/** What the parameters of a step say for red, green and blue: those that name no channel are for all, and what stands later counts. */
function channelParams(element: XmlElement, name: string, fileName: string): ((what: string, fallback: number) => number)[] {
  const given = childrenOf(element, name);
  return ['R', 'G', 'B'].map((channel) => {
    const params = given.findLast((each) => [channel, undefined].includes(attributeOf(each, 'channel')));
    return (what, fallback) => {
      const text = params && attributeOf(params, what);
      const value = text === undefined ? fallback : Number(text);
      return Number.isFinite(value) || text === undefined ? value : refuse(fileName, `${what} is no number: “${text}”`);
    };
  });
}

/** A power with a straight piece in the dark, as sRGB has it, there or back: see LutExponent. */
function monCurve(gamma: number, offset: number, isBack: boolean): number[] {
  const edge = offset / (gamma - 1);
  const slope = ((gamma - 1) / offset) * ((offset * gamma) / ((gamma - 1) * (1 + offset))) ** gamma;
  return isBack ? [1, 0, 1 / gamma, 1 + offset, -offset, edge * slope, 1 / slope] : [1 / (1 + offset), offset / (1 + offset), gamma, 1, 0, edge, slope];
}

const UNIT = { low: [0, 0, 0], high: [1, 1, 1] } as const;

const readers: Readonly<Record<string, (element: XmlElement, fileName: string) => LutStep[]>> = {
  Matrix: (element, fileName) => {
    const [from, to] = depthsOf(element, fileName);
    const { dim, values } = arrayOf(element, 'Matrix', fileName);
    const width = dim[1];
    if (dim[0] !== 3 || (width !== 3 && width !== 4)) refuse(fileName, `a Matrix of ${dim.join(' ')} is not read; 3 3 and 3 4 are`);
    return [{ kind: 'matrix', values: [0, 1, 2].flatMap((row) => [...values.slice(row * width, row * width + 3).map((value) => (value * from) / to), width === 4 ? values[row * width + 3] / to : 0]) }];
  },
  Range: (element, fileName) => {
    const [from, to] = depthsOf(element, fileName);
    const given = (name: string, scale: number) => {
      const found = childOf(element, name);
      return found ? Number(textOf(found)) / scale : null;
    };
    const [minIn, maxIn, minOut, maxOut] = [given('minInValue', from), given('maxInValue', from), given('minOutValue', to), given('maxOutValue', to)];
    if ([minIn, maxIn, minOut, maxOut].some((value) => Number.isNaN(value)) || (minIn === null) !== (minOut === null) || (maxIn === null) !== (maxOut === null)) refuse(fileName, 'a Range needs its values in and out in pairs');
    const clamp: LutStep[] = attributeOf(element, 'style') === 'noClamp' ? [] : [{ kind: 'range', low: minOut, high: maxOut }];
    if (minIn === null && maxIn === null) return clamp;
    const scale = minIn !== null && maxIn !== null ? ((maxOut as number) - (minOut as number)) / (maxIn - minIn) : 1;
    const offset = minIn !== null ? (minOut as number) - minIn * scale : (maxOut as number) - (maxIn as number) * scale;
    return scale === 1 && offset === 0 ? clamp : [{ kind: 'matrix', values: [scale, 0, 0, offset, 0, scale, 0, offset, 0, 0, scale, offset] }, ...clamp];
  },
  Exponent: (element, fileName) => {
    const style = attributeOf(element, 'style') ?? '';
    const [, base, isMirrored, back] = /^(basic|monCurve)(Mirror|PassThru)?(Fwd|Rev)$/i.exec(style) ?? refuse(fileName, `an Exponent of the style “${style}” is not read`);
    const isBack = /rev/i.test(back);
    const isCurve = /moncurve/i.test(base);
    return [{ kind: 'exponent', isMirrored: /mirror/i.test(isMirrored ?? ''), values: channelParams(element, 'ExponentParams', fileName).flatMap((params) => {
      // A channel that none is for stays as it is.
      const gamma = params('exponent', childrenOf(element, 'ExponentParams').length === 0 ? Number.NaN : 1);
      const offset = isCurve ? params('offset', 0) : 0;
      if (!(gamma >= 0.01 && gamma <= 100) || !(offset >= 0 && offset <= 0.9)) refuse(fileName, 'an Exponent needs an exponent from 0.01 to 100, and an offset from 0 to 0.9');
      return isCurve && offset > 0 && gamma > 1 ? monCurve(gamma, offset, isBack) : [1, 0, isBack ? 1 / gamma : gamma, 1, 0, 0, /passthru/i.test(isMirrored ?? '') ? 1 : 0];
    }) }];
  },
  Log: (element, fileName) => {
    const style = attributeOf(element, 'style') ?? '';
    const plain = /^(anti)?log(2|10)$/i.exec(style);
    if (plain) {
      const perBase = Math.log(Number(plain[2]));
      const numbers = plain[1] ? [perBase, 0, 1, 0] : [1, 0, 1 / perBase, 0];
      return [{ kind: plain[1] ? 'antilog' : 'log', values: [0, 1, 2].flatMap(() => [...numbers, LOWEST, 0, 0]) }];
    }
    const [, camera, back] = /^(camera)?(linToLog|logToLin)$/i.exec(style) ?? refuse(fileName, `a Log of the style “${style}” is not read`);
    const isBack = /logToLin/i.test(back);
    const values = channelParams(element, 'LogParams', fileName).flatMap((params) => {
      const [perBase, m, n, l, q] = [Math.log(params('base', 2)), params('linSideSlope', 1), params('linSideOffset', 0), params('logSideSlope', 1), params('logSideOffset', 0)];
      if (!(perBase > 0) || m === 0 || l === 0) refuse(fileName, 'a Log needs a base above 1 and slopes that are not 0');
      const curve = isBack ? [perBase / l, (-q * perBase) / l, 1 / m, -n / m] : [m, n, l / perBase, q];
      if (!camera) return [...curve, LOWEST, 0, 0];
      const edge = params('linSideBreak', Number.NaN);
      if (!Number.isFinite(edge) || !(m * edge + n > 0)) refuse(fileName, 'a Log of a camera needs its linSideBreak');
      const atEdge = (l * Math.log(m * edge + n)) / perBase + q;
      // As steep as the curve is there, unless the file says otherwise; and it meets it.
      const slope = params('linearSlope', (l * m) / ((m * edge + n) * perBase));
      const meets = atEdge - slope * edge;
      return isBack ? [...curve, atEdge, 1 / slope, -meets / slope] : [...curve, edge, slope, meets];
    });
    return [{ kind: isBack ? 'antilog' : 'log', values }];
  },
  LUT1D: (element, fileName) => {
    const areHalves = attributeOf(element, 'halfDomain') === 'true';
    const areRaw = attributeOf(element, 'rawHalfs') === 'true';
    const [, scale] = depthsOf(element, fileName);
    const to = areRaw ? 1 : scale;
    const { dim, values: given } = arrayOf(element, 'LUT1D', fileName, areHalves);
    const values = areRaw ? given.map(halfToFloat) : given;
    const [entries, channels] = dim;
    if (areHalves && entries !== ALL_HALVES) refuse(fileName, `a LUT1D over all halves has ${ALL_HALVES} entries, this one has ${entries}`);
    if (entries < 2 || entries > LUT_LIMITS.entries || (channels !== 1 && channels !== 3)) refuse(fileName, `a LUT1D of ${dim.join(' ')} is not read`);
    const all = channels === 3 ? values : values.flatMap((value) => [value, value, value]);
    const kept = halvesToText(all.map((value) => (Number.isNaN(value) ? 0 : Math.min(LARGEST_LIGHT, Math.max(-LARGEST_LIGHT, value / to)))));
    return [areHalves ? { kind: 'halves', values: kept } : { kind: 'curve', entries, ...UNIT, values: kept }];
  },
  LUT3D: (element, fileName) => {
    const [, to] = depthsOf(element, fileName);
    const { dim, values } = arrayOf(element, 'LUT3D', fileName);
    const [side] = dim;
    if (dim[1] !== side || dim[2] !== side || dim[3] !== 3 || side < 2 || side > LUT_LIMITS.side) refuse(fileName, `a LUT3D of ${dim.join(' ')} is not read; up to ${LUT_LIMITS.side} in each direction are`);
    // In the file blue changes first.
    const turned = new Float32Array(values.length);
    for (let r = 0; r < side; r++) for (let g = 0; g < side; g++) for (let b = 0; b < side; b++) for (let c = 0; c < 3; c++) turned[((b * side + g) * side + r) * 3 + c] = values[((r * side + g) * side + b) * 3 + c] / to;
    return [{ kind: 'cube', side, ...UNIT, values: halvesToText(turned) }];
  },
  ASC_CDL: (element, fileName) => {
    const { slope, offset, power, saturation } = readCdlNode(element, fileName);
    const clamps = !/noclamp/i.test(attributeOf(element, 'style') ?? '');
    if (/rev/i.test(attributeOf(element, 'style') ?? '')) refuse(fileName, 'an ASC_CDL backwards is not read');
    const unit: LutStep[] = clamps ? [{ kind: 'range', low: 0, high: 1 }] : [];
    const luma = [0.2126, 0.7152, 0.0722];
    const saturate: LutStep[] = saturation === 1 ? [] : [{ kind: 'matrix', values: [0, 1, 2].flatMap((row) => [...luma.map((share, c) => (1 - saturation) * share + (row === c ? saturation : 0)), 0]) }];
    return [{ kind: 'matrix', values: [0, 1, 2].flatMap((row) => [...[0, 1, 2].map((c) => (row === c ? slope[c] : 0)), offset[row]]) }, ...unit, { kind: 'power', values: power }, ...saturate, ...unit];
  },
};
