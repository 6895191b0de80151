/** Reference programs from Debian's packages, and a place for their files. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export const scratch = () => mkdtempSync(join(tmpdir(), 'tazzel-test-'));
export const tool = (command: string, ...args: readonly string[]) => execFileSync(command, args, { maxBuffer: 2 ** 28, stdio: ['ignore', 'pipe', 'pipe'] });

/** A PFM picture (portable float map): three channels, bottom row first. */
export function readPfm(path: string): { width: number; height: number; rgb: Float32Array } {
  const bytes = readFileSync(path);
  let at = 0;
  const line = () => {
    const end = bytes.indexOf(10, at);
    const text = bytes.subarray(at, end).toString('latin1');
    at = end + 1;
    return text;
  };
  if (line() !== 'PF') throw new Error('not a colour PFM');
  const [width, height] = line().split(' ').map(Number);
  const littleEndian = Number(line()) < 0;
  const view = new DataView(bytes.buffer, bytes.byteOffset + at);
  const rgb = new Float32Array(width * height * 3);
  for (let y = 0; y < height; y++) for (let i = 0; i < width * 3; i++) rgb[(height - 1 - y) * width * 3 + i] = view.getFloat32((y * width * 3 + i) * 4, littleEndian);
  return { width, height, rgb };
}
