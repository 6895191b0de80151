/** Sample types and compressions of OpenEXR. @source "OpenEXR File Layout" (Academy Software Foundation) */
export type ExrType = 'u32' | 'f16' | 'f32';
/** In the order of their codes. */
export const EXR_TYPES: readonly ExrType[] = ['u32', 'f16', 'f32'];
export const EXR_TYPE_BYTES: Record<ExrType, number> = { u32: 4, f16: 2, f32: 4 };

const rows = [
  { code: 0, name: 'NONE', lines: 1 },
  { code: 1, name: 'RLE', lines: 1 },
  { code: 2, name: 'ZIPS', lines: 1 },
  { code: 3, name: 'ZIP', lines: 16 },
  { code: 4, name: 'PIZ', lines: 32 },
  { code: 5, name: 'PXR24', lines: 16 },
  { code: 6, name: 'B44', lines: 32 },
  { code: 7, name: 'B44A', lines: 32 },
  { code: 8, name: 'DWAA', lines: 32 },
  { code: 9, name: 'DWAB', lines: 256 },
] as const;

export type ExrCompression = (typeof rows)[number]['name'];
/** Those that are written. */
export type ExrWriteCompression = 'NONE' | 'RLE' | 'ZIPS' | 'ZIP' | 'PIZ';
export interface CompressionRow {
  readonly code: number;
  readonly name: ExrCompression;
  /** Lines that are packed together. */
  readonly lines: number;
}
export const exrCompressions: readonly CompressionRow[] = rows;
export const exrCompression = (name: ExrCompression): CompressionRow => rows.find((row) => row.name === name) as CompressionRow;
