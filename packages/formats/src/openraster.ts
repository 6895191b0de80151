/**
 * Files of layers, read: where each of their pictures lies, and how they are put together. Pictures are files of their own from here on.
 * @source OpenRaster specification 0.0.6 (freedesktop.org)
 */
import type { GivenItem } from '@tazzel/core';
import { orderedXml, type OrderedElement } from './colours/xml.ts';
import type { ByteSource } from './bytes.ts';
import { FormatError } from './errors.ts';
import { readEntry, readZip } from './project/zip.ts';
import { safeName } from './sources.ts';

export const OPENRASTER_ENDING = 'ora';

export interface ReadOpenRaster {
  readonly width: number;
  readonly height: number;
  /** From the lowest on. */
  readonly items: readonly GivenItem[];
  /** Each with a name of its own. */
  readonly files: readonly { readonly name: string; readonly bytes: Uint8Array }[];
  /** What is missing or could not be read, in sentences. */
  readonly problems: readonly string[];
}

const [MOST_STACK, MOST_PICTURE, MOST_LAYERS, DEEPEST] = [4 * 2 ** 20, 2 ** 30, 500, 20];

/** @throws FormatError if it is no such file, or larger than what is read */
export async function readOpenRaster(source: ByteSource): Promise<ReadOpenRaster> {
  const { entries } = await readZip(source);
  const found = new Map(entries.map((entry) => [entry.name, entry]));
  const described = found.get('stack.xml');
  const text = described && (await readEntry(source, described, MOST_STACK));
  if (!text) throw new FormatError('not-recognised', source.name, 'there is no readable stack.xml in it: this is no file of layers, or it is damaged.');
  const image = orderedXml(new TextDecoder().decode(text), source.name).find(({ name }) => name === 'image');
  const [width, height] = ['w', 'h'].map((name) => Number(image?.attributes[name]));
  if (!image || !Number.isInteger(width) || !Number.isInteger(height) || width < 1 || height < 1) throw new FormatError('corrupt', source.name, 'its stack.xml does not say how large the picture is.');
  const problems: string[] = [];
  const files: { name: string; bytes: Uint8Array }[] = [];
  const byPath = new Map<string, string>();
  let layers = 0;
  const fileOf = async (path: string, name: string): Promise<string | null> => {
    const known = byPath.get(path);
    if (known) return known;
    const entry = found.get(path);
    const bytes = entry && (await readEntry(source, entry, MOST_PICTURE));
    if (!bytes) {
      problems.push(`“${name}”: its picture ${path || 'has no name and'} is ${entry ? 'damaged' : 'missing'} in the file. The layer was left out.`);
      return null;
    }
    const fileName = `${String(files.length + 1).padStart(2, '0')} ${safeName(name)}.${/\.([a-z0-9]+)$/i.exec(path)?.[1] ?? 'png'}`;
    files.push({ name: fileName, bytes });
    byPath.set(path, fileName);
    return fileName;
  };
  const read = async (elements: readonly OrderedElement[], depth: number): Promise<GivenItem[]> => {
    const items: GivenItem[] = [];
    // The topmost comes first.
    for (const { name: tag, attributes, children } of elements.toReversed()) {
      if (tag !== 'layer' && tag !== 'stack') continue;
      if (++layers > MOST_LAYERS || depth > DEEPEST) throw new FormatError('too-large', source.name, `it has more than ${MOST_LAYERS} layers, or groups more than ${DEEPEST} deep.`);
      const opacity = Number(attributes.opacity ?? '1');
      const operator = attributes['composite-op'] ?? 'svg:src-over';
      const common = { name: attributes.name || (tag === 'stack' ? 'Group' : `Layer ${layers}`), operator, opacity: Number.isFinite(opacity) ? Math.min(1, Math.max(0, opacity)) : 1, visible: attributes.visibility !== 'hidden' };
      if (tag === 'stack') items.push({ kind: 'group', ...common, isolated: attributes.isolation === 'isolate' || common.opacity < 1 || operator !== 'svg:src-over', items: await read(children, depth + 1) });
      else {
        const fileName = await fileOf(attributes.src ?? '', common.name);
        const [x, y] = ['x', 'y'].map((name) => Math.round(Number(attributes[name] ?? '0')) || 0);
        if (fileName) items.push({ kind: 'picture', ...common, fileName, x, y });
      }
    }
    return items;
  };
  const root = image.children.find(({ name }) => name === 'stack');
  const items = await read(root?.children ?? [], 0);
  if (items.length === 0) throw new FormatError('corrupt', source.name, 'there is no layer in it that can be read.');
  return { width, height, items, files, problems };
}
