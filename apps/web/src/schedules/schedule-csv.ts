import { layersOn, type TazzelDocument } from '@tazzel/core';
import { srgb } from '../bench/srgb.ts';
import { lrvOf } from './lrv.ts';

/** A field as RFC 4180 wants it; a leading sign would make a spreadsheet compute. */
const field = (value: string | number) => {
  const text = typeof value === 'string' && /^[=+\-@\t]/.test(value) ? `'${value}` : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** The material schedule as a table for other programs. @source RFC 4180 */
export function scheduleCsv(document: TazzelDocument): string {
  const head = ['tag', 'kind', 'name', 'surface', 'area %', 'mean red', 'mean green', 'mean blue', 'LRV', 'layers'];
  const rows = document.materials.map((row) => {
    const mean = row.mean ? srgb(row.mean).map((v) => Math.round(v * 255)) : ['', '', ''];
    return [row.tag, row.kind, row.name, row.surface ?? '', (row.area * 100).toFixed(3), ...mean, lrvOf(document, row)?.toFixed(1) ?? '', layersOn(document, row.id).map(({ name }) => name).join('; ')];
  });
  return `${[head, ...rows].map((cells) => cells.map(field).join(',')).join('\r\n')}\r\n`;
}
