/** Pictures that are delivered in one go: which there are, and what their files are called. */
import { cameraOf } from '../camera/camera.ts';
import { cutRegion } from '../raster/cut.ts';
import { sizeAtLevel, type Size } from '../raster/region.ts';
import { sizeOfWidth } from '../raster/resize.ts';
import type { Delivery, TazzelDocument } from '../model/model.ts';
import { schemeOf } from './schemes.ts';

/** What can stand in the name of a file, in braces, with what it becomes. */
export const NAME_PARTS = {
  document: 'the name of the document',
  scheme: 'the name of the scheme; nothing without one',
  camera: 'the focal length; nothing if it is not known',
  date: 'the day, as 2026-11-30',
  size: 'width and height in pixels',
  width: 'the width in pixels',
  n: 'its number in this delivery',
} as const;
export const USUAL_NAME = '{document}-{scheme}-{size}';

/** A day as `{date}` writes it, by the clock of this place. */
export const dayOf = (date: Date): string => `${date.getFullYear()}-${String(date.getMonth() + 1).padStart(2, '0')}-${String(date.getDate()).padStart(2, '0')}`;

/** A delivery of one scheme. */
export interface PlannedPicture {
  readonly delivery: Delivery;
  /** Null without one. */
  readonly schemeId: string | null;
  readonly size: Size;
  /** Of the file, without its ending; other files may have it already. */
  readonly name: string;
}

/** What is delivered of a document of that size, in pixels: cut, then as wide as wanted or halved. */
export function sizeOfDelivery({ size }: Pick<TazzelDocument, 'size'>, { width, halvings, cut }: Pick<Delivery, 'width' | 'halvings' | 'cut'>): Size {
  const { width: across, height: down } = cutRegion(width === null ? sizeAtLevel(size, halvings) : size, cut);
  return width === null ? { width: across, height: down } : sizeOfWidth({ width: across, height: down }, width);
}

/** Parts of a name that are nothing take a dash, a space or an underscore beside them along. */
export function nameFrom(pattern: string, parts: Readonly<Record<string, string>>): string {
  const filled = pattern.replace(/([-_ .]?)\{([a-z]+)\}/g, (whole, before: string, name: string) => (Object.hasOwn(parts, name) ? (parts[name] === '' ? '' : before + parts[name]) : whole));
  return filled.replace(/^[-_ .]+/, '') || 'picture';
}

/** Everything that is delivered: a scheme after the other, since what pictures of one scheme have in common is computed once. `day` is written as 2026-11-30. */
export function plannedPictures(document: TazzelDocument, deliveries: readonly Delivery[], day: string): readonly PlannedPicture[] {
  const { schemes, camera } = document;
  const every = [null, ...schemes.list.map(({ id }) => id)];
  const wanted = every.flatMap((schemeId) => deliveries.filter((delivery) => delivery.schemes === 'all' || schemeId === schemes.chosenId).map((delivery) => ({ delivery, schemeId })));
  return wanted.map(({ delivery, schemeId }, i) => {
    const size = sizeOfDelivery(document, delivery);
    const name = nameFrom(delivery.name, {
      document: document.name,
      scheme: schemeOf(document, schemeId)?.name ?? '',
      camera: camera ? `${Math.round(cameraOf(camera).focalMillimetres)}mm` : '',
      date: day,
      size: `${size.width}x${size.height}`,
      width: String(size.width),
      n: String(i + 1).padStart(2, '0'),
    });
    return { delivery, schemeId, size, name };
  });
}

/** A name that nothing else has: with a number behind it where it must. */
export function freeName(name: string, isTaken: (name: string) => boolean, between = '-'): string {
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name : `${name}${between}${n}`;
    if (!isTaken(tried)) return tried;
  }
}
