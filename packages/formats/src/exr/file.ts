/** A whole OpenEXR file, as far as it can be known without its pixels. */
import type { ByteSource } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { type ExrFile, OutOfBytes, parseFile } from './header.ts';
import { withOffsets } from './offsets.ts';

const MAX_HEADER_BYTES = 16 * 1024 * 1024;

/** @throws FormatError `truncated`, `corrupt`, `unsupported` (if no part can be read), `too-large` */
export async function readExrFile(source: ByteSource): Promise<ExrFile> {
  let length = Math.min(source.size, 65536);
  for (;;) {
    const bytes = await source.read(0, length);
    try {
      const { parts, end } = parseFile(bytes, source.name);
      return await withOffsets(source, parts, end);
    } catch (error) {
      if (!(error instanceof OutOfBytes)) throw error;
      if (length === source.size) throw new FormatError('truncated', source.name, 'the file ends inside its header. It was not written or copied completely; save it again.');
      if (length >= MAX_HEADER_BYTES) throw new FormatError('corrupt', source.name, 'the header does not end within 16 MB. The file is damaged; save it again.');
      length = Math.min(source.size, MAX_HEADER_BYTES, length * 4);
    }
  }
}
