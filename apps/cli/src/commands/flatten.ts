import { readFile } from 'node:fs/promises';
import { applyEdit, applyLook, CoreError, correctionById, correctionPlace, corrections, defaultsOf, findLayer, freshId, type KeptValues, layerSpec, readLook, type TazzelDocument, toneById, tones, underScheme, valueFromText, withMix, pixelsIn, type Cut, cutRegion, partOfRegion, type Size, type FilterId, outputSpaces, ratioIn, resamplingFilters } from '@tazzel/core';
import { type PictureFormat, pictureFormatOf, pictureFormats, readLut } from '@tazzel/formats';
import { type Command, type Invocation, text, texts, UsageError } from '../command.ts';
import { mustNotExist, openProject, withEngine, writeParts } from '../files.ts';
import { layerNamed } from '../layers.ts';
import { scenarioNamed } from './light.ts';

const FILTERS = Object.keys(resamplingFilters).sort();
export const SCALES: Readonly<Record<string, number>> = { '1': 0, '0.5': 1, '0.25': 2, '0.125': 3 };

export const flatten: Command = {
  name: 'flatten',
  summary: 'Writes the finished picture of a project file: PNG, TIFF, JPEG and WebP hold the picture, EXR and HDR the scene light under the tone line.',
  usage: `flatten doc.tazzel --out picture.${pictureFormats.map(({ endings }) => endings[0]).join('|')}`,
  options: {
    out: { type: 'string', value: 'FILE', help: 'The picture to write; its ending chooses the format.' },
    scale: { type: 'string', value: '1|0.5|0.25|0.125', help: 'Size of the result, 1 by default.' },
    width: { type: 'string', value: 'N', help: 'Any other width in pixels, in the same proportions; with --dpi also on paper: 420mm, 42cm, 16.5in.' },
    height: { type: 'string', value: 'N', help: 'Any other height, likewise; with --width the picture is as large as fits into both.' },
    cut: { type: 'string', value: 'A:B', help: 'In other proportions, as large as they allow: 16:9, 1:1, 1.414.' },
    region: { type: 'string', value: 'X,Y,W,H', help: 'A rectangle of it: where it begins, how wide and how high, in pixels.' },
    shift: { type: 'string', value: '-100…100', help: 'Where the part of --cut lies: from the left or upper end over the middle (0, by default) to the other.' },
    filter: { type: 'string', value: FILTERS.join('|'), help: 'How another width is filtered, lanczos by default.' },
    upto: { type: 'string', value: 'LAYER', help: 'Stop after this layer (name or id).' },
    bits: { type: 'string', value: '8|16|32', help: 'Bits of a PNG (8 by default) or TIFF (16 by default; 32 holds the scene light).' },
    holds: { type: 'string', value: 'light|picture|parts', help: 'What an EXR holds: the scene light (by default), the finished picture in linear light, or both with all layers and masks as parts.' },
    samples: { type: 'string', value: 'half|float', help: 'Numbers of an EXR, half by default.' },
    compression: { type: 'string', value: 'NAME', help: 'Packing: zip, zips, piz, rle or none of an EXR, deflate, lzw or none of a TIFF; all of them lose nothing.' },
    layout: { type: 'string', value: 'strips|tiles', help: 'Of a TIFF, strips by default.' },
    quality: { type: 'string', value: '1…100', help: 'Of a JPEG, 92 by default, or a WebP, 90 by default.' },
    passes: { type: 'string', value: 'one|several', help: 'How a JPEG is written: row by row, or in passes, which slow pages show coarse first.' },
    lossless: { type: 'boolean', help: 'A WebP that loses nothing.' },
    dpi: { type: 'string', value: 'N', help: 'Dots per inch, written into a PNG, TIFF or JPEG.' },
    space: { type: 'string', value: Object.keys(outputSpaces).join('|'), help: 'Colour space of the picture, srgb by default; its profile lies in the file. Linear light for a PNG or TIFF with 16 bits.' },
    title: { type: 'string', value: 'WORDS', help: 'Written into the file.' },
    author: { type: 'string', value: 'WORDS', help: 'Written into the file.' },
    'no-dither': { type: 'boolean', help: 'Round to 8 bits plainly, without the ordered pattern against banding.' },
    add: { type: 'string', multiple: true, value: 'ID:NAME=VALUE,…', help: `Add a correction for this picture only, under the tone line or, if it works there alone, over it: ${corrections.map((c) => c.id).join(', ')}. See “tazzel corrections”.` },
    set: { type: 'string', multiple: true, value: 'LAYER:NAME=VALUE,…', help: 'Set parameters of a layer for this picture only; colours as hex codes or light, curves as points: “all=0,0 0.5,0.6 1,1”.' },
    tone: { type: 'string', value: 'ID or ID:NAME=VALUE,…', help: `The curve of the tone line for this picture only: ${tones.map(({ id }) => id).join(', ')}.` },
    lut: { type: 'string', value: 'FILE', help: 'A table of colours (.cube or .clf) over the finished picture.' },
    scenario: { type: 'string', value: 'NAME', help: 'A lighting scenario of the document instead of the mix on its light board.' },
    scheme: { type: 'string', value: 'NAME', help: 'A scheme of the document instead of the one that it was saved with; none is without any.' },
    look: { type: 'string', multiple: true, value: 'FILE', help: 'A look for this picture only: corrections that were kept in another document.' },
    force: { type: 'boolean', help: 'Replace the picture if it exists.' },
  },
  run: async (invocation) => {
    const out = text(invocation, 'out');
    if (!out || invocation.files.length !== 1) throw new UsageError('Name one project file and the picture: flatten doc.tazzel --out picture.png');
    const format = pictureFormatOf(out);
    if (!format) throw new UsageError(`${out}: the ending must be one of ${pictureFormats.flatMap(({ endings }) => endings.map((ending) => `.${ending}`)).join(', ')}.`);
    const values = valuesFor(format, invocation);
    const sides = sidesOf(invocation, Number(values.dpi ?? 0));
    const level = SCALES[text(invocation, 'scale') ?? '1'];
    if (level === undefined) throw new UsageError(`--scale ${text(invocation, 'scale')}: expected one of ${Object.keys(SCALES).sort().reverse().join(', ')}.`);
    mustNotExist(out, invocation.values.force === true);
    await withEngine(async (engine) => {
      const problems: string[] = [];
      const document = await openProject(engine, invocation.files[0], (problem) => {
        problems.push(problem);
        invocation.problem(problem);
      });
      const cut = cutFor(invocation, document.size);
      const resize = resizeFor(invocation, sides, cutRegion(document.size, cut));
      const changed = adjust(await withFiles(document, invocation), invocation);
      const upto = text(invocation, 'upto');
      const last = upto === undefined ? undefined : layerNamed(changed, upto);
      const result = await engine.deliver({ document: changed, format: format.id, values, level, resize, cut, upto: last });
      for (const problem of result.problems) if (!problems.includes(problem)) invocation.problem(problem);
      const bytes = await writeParts(out, result.parts);
      invocation.say(`${out}: ${result.size.width} × ${result.size.height}, ${(bytes / 2 ** 20).toFixed(1)} MB`);
      invocation.result({ out, bytes, ...result.size, format: format.id, values: { ...defaultsOf(format), ...values }, problems: result.problems });
    });
  },
};

/** The document with looks and a table of colours from files. */
async function withFiles(document: TazzelDocument, invocation: Invocation): Promise<TazzelDocument> {
  const scenario = text(invocation, 'scenario');
  const scheme = text(invocation, 'scheme');
  const shown = scheme === undefined ? document : underScheme(document, schemeNamed(document, scheme));
  let result = scenario === undefined ? shown : withMix(shown, scenarioNamed(shown, scenario).mix);
  for (const file of texts(invocation, 'look')) {
    const { look, problems } = readLook(jsonOf(await readFile(file, 'utf8'), file));
    const { edit, missing } = applyLook(result, look);
    for (const sentence of [...problems, ...missing]) invocation.problem(`${file}: ${sentence}`);
    result = applyEdit(result, edit);
  }
  const lut = text(invocation, 'lut');
  if (lut === undefined) return result;
  return withCorrection(result, 'lut-file', { zone: 'picture' }, { table: readLut(await readFile(lut, 'utf8'), lut) });
}

/** By name or id; none is null. @throws UsageError */
function schemeNamed({ schemes: { list } }: TazzelDocument, wanted: string): string | null {
  const found = list.find(({ id, name }) => name === wanted || id === wanted);
  if (!found && wanted !== 'none') throw new UsageError(`There is no scheme “${wanted}”. There are: ${[...list.map(({ name }) => name), 'none'].join(', ')}.`);
  return found?.id ?? null;
}

/** With one more correction of everything below, last on its side or where it is said. */
function withCorrection(document: TazzelDocument, correction: string, place: ReturnType<typeof correctionPlace>, params: KeptValues): TazzelDocument {
  const layerId = freshId(document, 'layer');
  return applyEdit(applyEdit(document, { type: 'add-correction-layer', correction, ...place }), { type: 'set-params', layerId, params });
}

function jsonOf(given: string, file: string): unknown {
  try {
    return JSON.parse(given);
  } catch {
    throw new UsageError(`${file}: this is not a look.`);
  }
}

/** @throws UsageError */
function cutFor(invocation: Invocation, size: Size): Cut | null {
  const region = text(invocation, 'region');
  if (region !== undefined) {
    if (text(invocation, 'cut') !== undefined) throw new UsageError('Give --cut or --region, not both.');
    const [x, y, width, height, ...more] = region.split(',').map(Number);
    const isInside = more.length === 0 && [x, y, width, height].every(Number.isInteger) && x >= 0 && y >= 0 && width >= 1 && height >= 1 && x + width <= size.width && y + height <= size.height;
    if (!isInside) throw new UsageError(`--region ${region}: expected four whole numbers within ${size.width} × ${size.height} pixels, as in 200,100,1200,800.`);
    return partOfRegion(size, { x, y, width, height });
  }
  const [given, shift] = [text(invocation, 'cut'), text(invocation, 'shift')];
  if (given === undefined && shift !== undefined) throw new UsageError('--shift moves what --cut leaves: say how it is cut.');
  if (given === undefined) return null;
  const [ratio, shiftPercent] = [ratioIn(given), Number(shift ?? 0)];
  if (ratio === null) throw new UsageError(`--cut ${given}: expected proportions, as in 16:9, from 1:10 to 10:1.`);
  if (!(Math.abs(shiftPercent) <= 100)) throw new UsageError(`--shift ${shift}: expected a number from -100 to 100.`);
  return { ratio, shiftPercent };
}

interface Sides {
  readonly width: number | null;
  readonly height: number | null;
}

/** Width and height as they were asked for. @param dpi 0 if it was not said @throws UsageError */
function sidesOf(invocation: Invocation, dpi: number): Sides {
  const [width, height] = ['width', 'height'].map((name) => {
    const given = text(invocation, name);
    if (given === undefined) return null;
    try {
      const pixels = pixelsIn(given, dpi);
      if (pixels !== null) return pixels;
    } catch {
      throw new UsageError(`--${name} ${given}: say with --dpi how many pixels there are to an inch.`);
    }
    throw new UsageError(`--${name} ${given}: expected whole pixels, as in 2400, or a length on paper, as in 420mm or 16.5in.`);
  });
  if ((width ?? height) !== null && text(invocation, 'scale') !== undefined) throw new UsageError('Give --width and --height, or --scale, not both.');
  return { width, height };
}

/** As wide as asked for, or as fits into both. @throws UsageError */
function resizeFor(invocation: Invocation, { width, height }: Sides, part: Size): { width: number; filter: FilterId } | undefined {
  const filter = text(invocation, 'filter') ?? 'lanczos';
  if (!Object.hasOwn(resamplingFilters, filter)) throw new UsageError(`--filter ${filter}: expected one of ${FILTERS.join(', ')}.`);
  const wide = Math.min(width ?? Number.POSITIVE_INFINITY, height === null ? Number.POSITIVE_INFINITY : Math.max(1, Math.round((height * part.width) / part.height)));
  return Number.isFinite(wide) ? { width: wide, filter: filter as FilterId } : undefined;
}

/** What the command line says of the file. @throws CoreError `bad-parameter` for what a format does not have */
function valuesFor(format: PictureFormat, invocation: Invocation): KeptValues {
  const said = Object.entries({
    ...Object.fromEntries(['bits', 'holds', 'samples', 'compression', 'layout', 'quality', 'passes', 'dpi', 'space', 'title', 'author'].map((name) => [name, text(invocation, name)])),
    lossless: invocation.values.lossless === true ? 'true' : undefined,
    // A format that has no dither needs none.
    dither: invocation.values['no-dither'] === true && Object.hasOwn(format.params, 'dither') ? 'false' : undefined,
  });
  return Object.fromEntries(said.flatMap(([name, value]) => (value === undefined ? [] : [[name, valueFromText(format, name, value)]])));
}

/** The document with what the command line changes. @throws UsageError for whatever would be refused: here it is the words that are wrong */
function adjust(document: TazzelDocument, invocation: Invocation): TazzelDocument {
  try {
    return adjusted(document, invocation);
  } catch (error) {
    throw error instanceof CoreError ? new UsageError(error.message) : error;
  }
}

function adjusted(document: TazzelDocument, invocation: Invocation): TazzelDocument {
  let result = document;
  for (const wanted of texts(invocation, 'set')) {
    const [name, values] = split(wanted);
    const layerId = layerNamed(result, name);
    result = applyEdit(result, { type: 'set-params', layerId, params: read(parametersOf(result, layerId), values) });
  }
  const tone = text(invocation, 'tone');
  if (tone !== undefined) {
    const [id, values] = tone.includes(':') ? split(tone) : [tone, []];
    result = applyEdit(result, { type: 'set-tone', tone: id, params: read(toneById(id), values) });
  }
  for (const wanted of texts(invocation, 'add')) {
    const [id, values] = split(wanted);
    const correction = correctionById(id);
    result = withCorrection(result, id, correctionPlace(correction, null), read(correction, values));
  }
  return result;
}

/** What declares the parameters of a layer. @throws UsageError if it has none */
function parametersOf(document: TazzelDocument, layerId: string) {
  const layer = findLayer(document, layerId)?.layer;
  if (layer?.kind === 'correction') return correctionById(layer.correction.type);
  if (layer?.kind === 'picture') return layerSpec(layer.type);
  throw new UsageError(`${layer?.name ?? layerId} is a group and has no parameters.`);
}

const read = (of: Parameters<typeof valueFromText>[0], values: readonly (readonly [name: string, text: string])[]): KeptValues => Object.fromEntries(values.map(([name, value]) => [name, valueFromText(of, name, value)]));

/** `NAME:one=1,two=0.1,0.2,0.3`: a comma or a semicolon before a name and its equals sign divides, all others belong to the value. */
function split(wanted: string): [string, (readonly [name: string, text: string])[]] {
  const colon = wanted.lastIndexOf(':');
  const pairs = colon < 0 ? [] : wanted.slice(colon + 1).split(/[,;]\s*(?=[A-Za-z]\w*=)/);
  if (pairs.length === 0 || pairs.some((pair) => !/^\s*[A-Za-z]\w*=.*\S/.test(pair))) throw new UsageError(`“${wanted}”: expected NAME:parameter=value, as in exposure:exposureStops=0.5`);
  return [wanted.slice(0, colon), pairs.map((pair) => [pair.slice(0, pair.indexOf('=')).trim(), pair.slice(pair.indexOf('=') + 1)] as const)];
}
