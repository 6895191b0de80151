import { guessEncoding, guessRole, roleNature, type RoleRule, type Source, wordsOf } from '@tazzel/core';
import type { FileReport } from './report.ts';

/** Names that some systems keep for devices, whatever ending follows. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)$/;

/** A name as part of a file's name, on every system: `Kiln Yard: dusk` → `kiln-yard-dusk`. At most so many bytes, as systems take 255 for the whole. */
export function safeName(name: string, mostBytes = 100): string {
  const plain =
    name
      .slice(0, 1000)
      .normalize('NFKD')
      .replace(/\p{M}+/gu, '')
      .normalize('NFC')
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/^-+|-+$/g, '')
      .toLowerCase() || 'picture';
  return DEVICES.test(plain) ? `${plain}-picture` : withinBytes(plain, mostBytes);
}

/** A text of at most so many bytes of UTF-8; no letter is cut in two. */
export function withinBytes(text: string, most: number): string {
  const encoder = new TextEncoder();
  let bytes = 0;
  let cut = '';
  for (const letter of text) {
    bytes += encoder.encode(letter).length;
    if (bytes > most) return cut.replace(/-+$/, '');
    cut += letter;
  }
  return cut;
}

/** The name without folders and ending. */
export const fileStem = (name: string) => name.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');

/** A channel's own name says little of an element that is alone in its file: `house_distance.exr` holds a Z as `house_depth.exr` does. */
const isLetter = (name: string) => /^[a-z]$/i.test(name);
const saysNumbers = (stem: string, rules: readonly RoleRule[]) => {
  const { role, confidence } = guessRole(stem, null, rules);
  return confidence >= 0.6 && roleNature(role) === 'data';
};

/** Sources for all elements of a file, with roles and encodings as their names suggest. `nextId` gives ids that are free in the document. */
export function sourcesFromReport(report: FileReport, hash: string, nextId: () => string, rules: readonly RoleRule[] = []): Source[] {
  const { format, fileName, byteLength } = report;
  const stem = fileStem(fileName);
  const several = report.elements.length > 1;
  return report.elements.map((element) => {
    const unnamed = element.name === '' || (!several && isLetter(element.name) && saysNumbers(stem, rules));
    // The unnamed layer beside named ones is the finished render, whatever the file is called.
    const name = unnamed ? (several ? `${stem} beauty` : stem) : element.name;
    const { role, ...guess } = element.hint ?? guessRole(name, null, rules, unnamed && several ? wordsOf(stem).length : 0);
    return {
      id: nextId(),
      name,
      role,
      guess,
      findings: [],
      file: { hash, name: fileName, format, byteLength },
      colorChannels: element.colorChannels,
      alphaChannel: element.alphaChannel,
      encoding: roleNature(role) === 'light' && element.encoding ? element.encoding : guessEncoding(role, element.types.every((type) => type === 'u8' || type === 'u16') ? 'integer' : 'float'),
      alpha: element.alphaChannel === null ? 'none' : (element.premultiplied ?? report.premultiplied) ? 'premultiplied' : 'straight',
      scale: 1,
      offset: 0,
      inSum: 'auto',
      fit: null,
      part: element.part,
      ...element.window,
    };
  });
}

/** How many words of an element's name say nothing about it, because they are the name of a file with many elements. */
export const titleOfPart = ({ name, file }: Source): number => (name === `${fileStem(file.name)} beauty` ? wordsOf(fileStem(file.name)).length : 0);
