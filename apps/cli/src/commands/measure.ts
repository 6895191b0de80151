import { type ChannelMeasure, findMask, PERCENTS, type TazzelDocument } from '@tazzel/core';
import { type Command, text, UsageError } from '../command.ts';
import { openProject, withEngine } from '../files.ts';
import { layerNamed } from '../layers.ts';

const CHANNELS = ['red', 'green', 'blue', 'luminance'] as const;

export const measureCommand: Command = {
  name: 'measure',
  summary: 'Says how light is spread in the picture: extremes, mean, percentiles; with --json the histogram, too.',
  usage: 'measure doc.tazzel [--light] [--layer NAME] [--mask NAME]',
  options: {
    light: { type: 'boolean', help: 'Measure scene light under the tone line instead of picture values from 0 to 255.' },
    layer: { type: 'string', value: 'LAYER', help: 'Only this layer, alone (name or id).' },
    mask: { type: 'string', value: 'MASK', help: 'Only what this mask of the shelf covers (name or id).' },
  },
  run: async (invocation) => {
    if (invocation.files.length !== 1) throw new UsageError('Name one project file: measure doc.tazzel');
    await withEngine(async (engine) => {
      const document = await openProject(engine, invocation.files[0], invocation.problem);
      const layer = text(invocation, 'layer');
      const mask = text(invocation, 'mask');
      const scale = invocation.values.light === true ? 'light' : 'picture';
      const measure = await engine.measure(document, { scale, options: layer === undefined ? {} : { only: layerNamed(document, layer) }, mask: mask === undefined ? null : { maskId: maskNamed(document, mask), inverted: false, enabled: true } });
      const show = (value: number) => (scale === 'picture' ? (value * 255).toFixed(1) : value.toPrecision(4)).padStart(10);
      invocation.say(`${measure.pixels} pixels, ${scale === 'picture' ? 'codes from 0 to 255' : 'scene light'}`);
      if (measure.cutShare > 0) invocation.say(`${(100 * measure.cutShare).toFixed(2)} % of them ${scale === 'picture' ? 'have a channel cut at an end of sRGB while others are not' : 'lie outside of Rec. 709: less than none of a primary'}`);
      invocation.say(['', 'least', ...PERCENTS.map((percent) => `${percent} %`), 'most', 'mean'].map((title, i) => (i === 0 ? title.padEnd(10) : title.padStart(10))).join(''));
      for (const name of CHANNELS) {
        const { min, percentiles, max, mean }: ChannelMeasure = measure[name];
        invocation.say(name.padEnd(10) + [min, ...percentiles, max, mean].map(show).join(''));
      }
      invocation.result({ scale, percents: PERCENTS, ...measure });
    });
  },
};

function maskNamed(document: TazzelDocument, name: string): string {
  const found = findMask(document, name) ?? document.masks.find((mask) => mask.name === name);
  if (!found) throw new UsageError(document.masks.length === 0 ? 'The document has no masks.' : `There is no mask “${name}”. Masks: ${document.masks.map((mask) => mask.name).join(', ')}.`);
  return found.id;
}
