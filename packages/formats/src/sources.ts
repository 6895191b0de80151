import { guessEncoding, guessRole, roleNature, type RoleRule, type Source } from '@tazzel/core';
import type { FileReport } from './report.ts';

/** `Kiln Yard: dusk` → `kiln-yard-dusk`. */
export const safeName = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase() || 'picture';

/** The name without folders and ending. */
export const fileStem = (name: string) => name.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');

/** Sources for all elements of a file, with roles and encodings as their names suggest. `nextId` gives ids that are free in the document. */
export function sourcesFromReport(report: FileReport, hash: string, nextId: () => string, rules: readonly RoleRule[] = []): Source[] {
  const { format, fileName, byteLength } = report;
  const stem = fileStem(fileName);
  const several = report.elements.length > 1;
  return report.elements.map((element) => {
    const unnamed = element.name === '';
    // The unnamed layer beside named ones is the finished render.
    const name = unnamed ? (several ? `${stem} beauty` : stem) : element.name;
    const { role, ...guess } = element.hint ?? guessRole(name, null, rules);
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
