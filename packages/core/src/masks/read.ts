/** How terms read numbers: at a pixel of the picture at a level, 0 outside of the element. */
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { findLayer, findSource } from '../model/query.ts';
import type { Source, TazzelDocument } from '../model/model.ts';
import { roleLabel, type RoleId } from '../elements/roles.ts';
import { sampleReader } from '../raster/read.ts';
import type { Plane } from '../raster/planes.ts';
import { type MaskInputs, type MaskView, type Need, needKey } from './define.ts';

export type ReadPixel = (x: number, y: number) => number;

/** What a channel's numbers mean (its scale and offset applied), not colour managed. */
export function readChannel(view: MaskView, channel: number): ReadPixel {
  const plane = view.color[Math.min(channel, view.color.length - 1)];
  return place(plane, view, view.scale, view.offset);
}

function place(plane: Plane, { x: left, y: top }: { x: number; y: number }, scale: number, offset: number): ReadPixel {
  const { width, height } = plane;
  const value = sampleReader(plane);
  return (x, y) => {
    const [sx, sy] = [x - left, y - top];
    return sx >= 0 && sy >= 0 && sx < width && sy < height ? value(sy * width + sx) * scale + offset : 0;
  };
}

export const readAlpha = (view: MaskView): ReadPixel => (view.alpha ? place(view.alpha, view, 1, 0) : () => 1);

/** Red, green and blue in light, whatever the element is encoded in. */
export function readLight(view: MaskView): readonly [ReadPixel, ReadPixel, ReadPixel] {
  const channel = (c: number): ReadPixel => {
    const read = readChannel(view, c);
    return view.encoding === 'display' ? (x, y) => srgbDecode(read(x, y)) : read;
  };
  return [channel(0), channel(1), channel(2)];
}

/** What a term reads. */
export interface Reads {
  /** The element; empty takes the usual one. */
  readonly source: string;
  /** Reads the picture after this layer instead; only tone and colour can. */
  readonly after?: string;
}

/** The element or picture that a term of tones or colours looks at, in light. Pictures come as display values. */
export function readLooks(reads: Reads, inputs: MaskInputs): readonly [ReadPixel, ReadPixel, ReadPixel] {
  if (!reads.after) return readLight(viewOf(reads, inputs));
  const planes = inputs.pictures[needKey({ what: 'picture', layerId: reads.after })];
  const channel = (plane: Plane): ReadPixel => {
    const read = place(plane, { x: 0, y: 0 }, 1, 0);
    return (x, y) => srgbDecode(read(x, y));
  };
  return [channel(planes[0]), channel(planes[1]), channel(planes[2])];
}

/** Luminance of light as it looks: display-encoded, 0…1. Weights of Rec. 709. */
export const lightness = (r: number, g: number, b: number): number => srgbEncode(Math.max(0, 0.2126 * r + 0.7152 * g + 0.0722 * b));

/** The element a term reads: the chosen one, or the first with the best of the roles. */
export function sourceOf({ source }: Reads, document: TazzelDocument, roles: readonly RoleId[]): Source | null {
  if (source !== '') return findSource(document, source);
  return roles.map((role) => document.sources.find((one) => one.role === role)).find((one) => one !== undefined) ?? null;
}

export function viewNeeds(reads: Reads, document: TazzelDocument, roles: readonly RoleId[]): Need[] {
  if (reads.after) return [{ what: 'picture', layerId: reads.after }];
  const source = sourceOf(reads, document, roles);
  return source ? [{ what: 'view', sourceId: source.id }] : [];
}

/** The element that says how much of a pixel is not sky: the chosen one, or the usual alpha. */
export const alphaSource = (values: { readonly alpha: string }, document: TazzelDocument) => sourceOf({ source: values.alpha }, document, ['alpha']);

/** A sentence if the element of a term is not there. */
export function missingElement(reads: Reads, document: TazzelDocument, roles: readonly RoleId[]): string | null {
  if (reads.after) return findLayer(document, reads.after) ? null : 'The layer whose picture it reads is gone. Choose another.';
  if (sourceOf(reads, document, roles)) return null;
  return reads.source !== '' ? 'The element it reads is gone. Choose another.' : `There is no element with the role ${roles.map((role) => roleLabel(role).toLowerCase()).join(' or ')}. Add one, or choose the element here.`;
}

/** The element of a term that was resolved: `source` says which. */
export const viewOf = ({ source }: Reads, inputs: MaskInputs): MaskView => inputs.views[needKey({ what: 'view', sourceId: source })];
