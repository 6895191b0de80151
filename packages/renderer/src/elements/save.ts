/** From a render to files: names, layouts and depths of samples. */
import { type Region, srgbEncode } from '@tazzel/core';
import { attributesOf, encodeExr, encodePng, type ExrChannelData, type ExrPicture, type Platform, safeName, withinBytes } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import { cameraFactsOf, towardsSun } from '../scene/facts.ts';
import { elementRow } from './registry.ts';
import { type ElementPicture, pictureOf, type Rendering, resolveElement } from './resolve.ts';

export const LAYOUTS = ['multi-part', 'multi-layer', 'exr', 'png'] as const;
export type Layout = (typeof LAYOUTS)[number];
export const LAYOUT_LABELS: Record<Layout, string> = { 'multi-part': 'One EXR, a part for each element', 'multi-layer': 'One EXR, a layer for each element', exr: 'An EXR for each element', png: 'A PNG for each element' };

export interface SaveSettings {
  readonly layout: Layout;
  /** EXR: 16 keeps light as half floats and what needs more as floats, 32 everything as floats. PNG: 8 or 16. */
  readonly bits: 8 | 16 | 32;
  /** Light of all elements without noise, besides the beauty: then they sum to the denoised beauty. */
  readonly clean: boolean;
}

export interface SaveRequest {
  readonly rendering: Rendering;
  readonly elements: readonly string[];
  readonly settings: SaveSettings;
  readonly region: Region;
  /** Beginning of every file name. */
  readonly stem: string;
}

export interface SavedFile {
  readonly name: string;
  readonly parts: Uint8Array[];
}
export interface Saved {
  readonly files: SavedFile[];
  /** What was left out, and why. */
  readonly leftOut: string[];
}

/** Bits that a layout can have, the usual first. */
export const bitsOf = (layout: Layout): readonly SaveSettings['bits'][] => (layout === 'png' ? [16, 8] : [16, 32]);

/** Bytes that scene and camera take in a file's name, so that the element's name fits behind them. */
const LONGEST = 60;
const LONGEST_ELEMENT = 90;

/** `kiln-yard-library_courtyard_fog_002`: scene, camera, kind, and the first number that `isTaken` does not know. */
export function fileStem(scene: string, camera: string, fog: boolean, isTaken: (stem: string) => boolean): string {
  for (let number = 1; ; number++) {
    const stem = `${safeName(scene, LONGEST)}_${safeName(camera, LONGEST)}${fog ? '_fog' : ''}_${String(number).padStart(3, '0')}`;
    if (!isTaken(stem)) return stem;
  }
}

/** Requests that can run side by side: one file, or one element each. */
export function splitSave(request: SaveRequest): SaveRequest[] {
  const isOneFile = request.settings.layout === 'multi-part' || request.settings.layout === 'multi-layer';
  return isOneFile ? [request] : request.elements.map((element) => ({ ...request, elements: [element] }));
}

export async function saveElements({ rendering, elements, settings, region, stem }: SaveRequest, platform: Pick<Platform, 'deflate'>, kernels: Kernels): Promise<Saved> {
  const pictures = distinct(elements.flatMap((id) => resolveElement(rendering, id, settings.clean && id !== 'beauty', region)));
  const { width, height } = rendering.film.plan;
  const common = { dataWindow: region, displayWindow: { x: 0, y: 0, width, height }, compression: 'ZIP', numbers: attributesOf(cameraFactsOf(rendering.camera, { width, height }), towardsSun(rendering.scene)) } as const;
  const channelsOf = ({ channels, needsFloat }: ElementPicture, prefix: string): ExrChannelData[] =>
    channels.map(({ name, data }) => {
      const full = prefix === '' || name.includes('.') ? name : `${prefix}.${name}`;
      if (settings.bits === 32 || needsFloat) return { name: full, type: 'f32', data };
      const halves = new Uint16Array(data.length);
      kernels.toHalf(data, halves);
      return { name: full, type: 'f16', data: halves };
    });
  const exr = async (name: string, content: ExrPicture | ExrPicture[]): Promise<SavedFile> => ({ name: `${name}.exr`, parts: await encodeExr(content, platform, kernels) });
  switch (settings.layout) {
    case 'multi-part':
      return { files: [await exr(stem, pictures.map((picture) => ({ ...common, name: picture.name, channels: channelsOf(picture, ''), notes: picture.notes })))], leftOut: [] };
    case 'multi-layer': {
      const channels = pictures.flatMap((picture) => channelsOf(picture, picture.name === 'beauty' ? '' : picture.name));
      return { files: [await exr(stem, { ...common, channels, notes: Object.assign({}, ...pictures.map(({ notes }) => notes)) })], leftOut: [] };
    }
    case 'exr':
      return { files: await Promise.all(pictures.map((picture) => exr(`${stem}_${picture.name}`, { ...common, channels: channelsOf(picture, ''), notes: picture.notes }))), leftOut: [] };
    case 'png': {
      const fitting = pictures.filter(({ needsFloat }) => !needsFloat);
      const leftOut = elements.filter((id) => pictures.some((picture) => picture.needsFloat && picture.name === id.replaceAll('-', '_'))).map((id) => `${elementRow(id).label} is not saved: a PNG keeps numbers from 0 to 1 only. Save it as EXR.`);
      const files = await Promise.all(fitting.map(async (picture): Promise<SavedFile> => ({ name: `${stem}_${picture.name}.png`, parts: await encodePng({ width: region.width, height: region.height, rgba: pngPixels(picture, settings.bits) }, platform) })));
      return { files, leftOut };
    }
  }
}

/** Names that fit into a file's name and differ, also where capitals do not count: groups and materials may be called anything. */
function distinct(pictures: readonly ElementPicture[]): ElementPicture[] {
  const taken = new Set<string>();
  return pictures.map((picture) => {
    const short = withinBytes(picture.name, LONGEST_ELEMENT);
    let name = short;
    for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${short}_${n}`;
    taken.add(name.toLowerCase());
    return name === picture.name ? picture : { ...picture, name };
  });
}

const encoders = { light: (v: number) => srgbEncode(Math.max(0, v)), plain: (v: number) => v, direction: (v: number) => v * 0.5 + 0.5 } as const;

function pngPixels({ channels, role }: ElementPicture, bits: number): Uint8Array | Uint16Array {
  const area = channels[0].data.length;
  const full = bits === 8 ? 255 : 65535;
  const out = bits === 8 ? new Uint8Array(area * 4) : new Uint16Array(area * 4);
  const encode = encoders[pictureOf(role)];
  for (let i = 0; i < area; i++) {
    for (let c = 0; c < 3; c++) out[i * 4 + c] = Math.round(full * Math.min(1, Math.max(0, encode(channels[c % channels.length].data[i]))));
    out[i * 4 + 3] = full;
  }
  return out;
}
