/** Elements as they are looked at while they come in. */
import { type Region, srgbEncode } from '@tazzel/core';
import { samplesAt } from '../film/film.ts';
import { lightGroups, type SceneDescription, type Triple } from '../scene/model.ts';
import { matteNumbers } from './ids.ts';
import { elementRow } from './registry.ts';
import { type ElementPicture, pictureOf, type Rendering, resolveElement } from './resolve.ts';

/** One picture of an element that consists of several, or the only one. */
export interface DisplayView {
  readonly element: string;
  readonly index: number;
  readonly label: string;
}

/** The sum of all light groups in a mix: a view of them, no element of its own. */
export const LIGHT_MIX = 'light-mix';

/** Everything that can be flipped through. */
export function displayViews(scene: SceneDescription, elements: readonly string[]): DisplayView[] {
  return elements.flatMap((element) => {
    const { label } = elementRow(element);
    if (element === 'light-group') return [...lightGroups(scene).map((group, index) => ({ element, index, label: `Light group: ${group}` })), { element: LIGHT_MIX, index: 0, label: 'Light mix' }];
    if (element === 'rgb-matte') return matteNumbers(scene.materials).map((three, index) => ({ element, index, label: `RGB matte ${three.join(', ')}` }));
    return [{ element, index: 0, label }];
  });
}

const ENCODED = Array.from({ length: 4097 }, (_, i) => Math.round(255 * srgbEncode(i / 4096)));
const light = (v: number) => ENCODED[Math.round(4096 * Math.min(1, Math.max(0, v)))];
const plain = (v: number) => Math.round(255 * Math.min(1, Math.max(0, v)));
const shows = { light, plain, direction: (v: number) => plain(v * 0.5 + 0.5) } as const;

/** Σ group × gain, in light. */
function mixed(groups: readonly ElementPicture[], gains: readonly Triple[]): Pick<ElementPicture, 'role' | 'channels'> {
  const channels = groups[0].channels.map(({ name, data }, c) => {
    const sum = new Float32Array(data.length);
    for (const [g, group] of groups.entries()) {
      const gain = gains[g]?.[c] ?? 1;
      if (gain !== 0) for (const [i, value] of group.channels[c].data.entries()) sum[i] += gain * value;
    }
    return { name, data: sum };
  });
  return { role: 'light-group', channels };
}

/**
 * sRGB bytes of a region, opaque where there are samples. Light is encoded and cut at white, directions are shown as colours, lengths from black
 * (far) to white (near) within the depth range, coverage in the colours of its IDs.
 * @param gains of a light mix, in the order of the scene's groups
 */
export function displayElement(rendering: Rendering, { element, index }: DisplayView, clean: boolean, region: Region, gains: readonly Triple[] = []): Uint8ClampedArray<ArrayBuffer> {
  const area = region.width * region.height;
  const out = new Uint8ClampedArray(area * 4).fill(255);
  const shown = element === 'crypto-material' ? 'material-id' : element === 'crypto-object' ? 'object-id' : element === 'depth' ? 'depth-normalised' : element === 'beauty' && clean ? 'denoised-beauty' : element;
  const picture = element === LIGHT_MIX ? mixed(resolveElement(rendering, 'light-group', clean, region), gains) : resolveElement(rendering, shown, clean, region)[index];
  const planes = picture.channels.map(({ data }) => data);
  const { near, far } = rendering.depthRange;
  const show: (value: number) => number =
    picture.role === 'distance' || picture.role === 'seen-depth' ? (v) => plain((far - v) / (far - near))
    : picture.role === 'position' ? (v) => plain(v / 10 - Math.floor(v / 10))
    : shows[pictureOf(picture.role)];
  for (let c = 0; c < 3; c++) {
    const plane = planes[c % planes.length];
    for (let i = 0; i < area; i++) out[i * 4 + c] = show(plane[i]);
  }
  // Where nothing was sampled yet, the ground shows.
  for (let y = 0, i = 3; y < region.height; y++) for (let x = 0; x < region.width; x++, i += 4) if (samplesAt(rendering.film, region.x + x, region.y + y) === 0) out[i] = 0;
  return out;
}
