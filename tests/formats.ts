/** Files in memory for tests of the decoders. */
import { byteSource, type ExrHeader, FormatError, type Platform, readExrFile } from '@tazzel/formats';
import { nodePlatform } from '@tazzel/engine/node';
import { expect } from 'vitest';
import { seeded } from './random.ts';

export const platform: Platform = nodePlatform;
export const joined = (parts: readonly Uint8Array[]) => new Uint8Array(Buffer.concat(parts));

/** The only part of most files. */
export const firstPart = async (source: Parameters<typeof readExrFile>[0]): Promise<ExrHeader> => (await readExrFile(source)).parts[0];

/** One of: a byte changed, a run of bytes changed, cut off, a part doubled, a part left out, a word made huge. */
export function mutate(bytes: Uint8Array, random: () => number): Uint8Array {
  const at = Math.floor(random() * bytes.length);
  const length = 1 + Math.floor(random() * 24);
  const out = bytes.slice();
  switch (Math.floor(random() * 6)) {
    case 0:
      out[at] = Math.floor(random() * 256);
      return out;
    case 1:
      for (let i = at; i < Math.min(out.length, at + length); i++) out[i] = Math.floor(random() * 256);
      return out;
    case 2:
      return out.slice(0, at);
    case 3:
      return joined([out.slice(0, at), out.slice(Math.max(0, at - length), at), out.slice(at)]);
    case 4:
      return joined([out.slice(0, at), out.slice(at + length)]);
    default:
      out.fill(255, at, Math.min(out.length, at + 4));
      return out;
  }
}

/**
 * Mutates files and decodes them: each must be read or refused with a sentence that names the file, within bounds of
 * memory. The head of a file, where sizes and offsets stand, is hit as often as the rest.
 */
export async function fuzz(files: readonly Uint8Array[], rounds: number, seed: number, decode: (source: ReturnType<typeof byteSource>) => Promise<unknown>, alsoAllowed: (error: unknown) => boolean = () => false): Promise<{ read: number; refused: number }> {
  const random = seeded(seed);
  const counts = { read: 0, refused: 0 };
  for (let round = 0; round < rounds; round++) {
    const bytes = files[round % files.length];
    const head = Math.min(bytes.length, 400);
    const mutated = random() < 0.5 ? joined([mutate(bytes.subarray(0, head), random), bytes.subarray(head)]) : mutate(bytes, random);
    try {
      await decode(byteSource('mutated', mutated));
      counts.read++;
    } catch (error) {
      counts.refused++;
      if (error instanceof FormatError ? !error.message.startsWith('mutated: ') : !alsoAllowed(error)) expect.fail(`seed ${seed}, round ${round}: ${error instanceof Error ? error.stack : error}`);
    }
  }
  return counts;
}
