import { isShortage } from '@tazzel/core';
import type { ByteSource } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { readDirectories } from './directory.ts';
import { readPage, type TiffPage } from './page.ts';

/** The pages of a file that are read, with one sentence for each that is not. @throws FormatError if there is none */
export async function readTiffPages(source: ByteSource): Promise<{ pages: (TiffPage & { index: number })[]; leftOut: string[] }> {
  const pages: (TiffPage & { index: number })[] = [];
  const refused: FormatError[] = [];
  for (const [index, directory] of (await readDirectories(source)).entries()) {
    try {
      // Smaller copies of a page are not pages.
      if ((await directory.number(254, 0)) & 1) continue;
      pages.push({ ...(await readPage(directory)), index });
    } catch (error) {
      if (isShortage(error)) throw error;
      refused.push(error instanceof FormatError ? error : new FormatError('corrupt', source.name, `page ${index + 1} cannot be read. The file is damaged; save it again.`));
    }
  }
  if (pages.length === 0) throw refused[0] ?? new FormatError('corrupt', source.name, 'it holds no picture. Save it again.');
  return { pages, leftOut: refused.map((error) => error.message) };
}
