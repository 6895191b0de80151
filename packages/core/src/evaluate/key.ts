/** Keys of results: equal inputs give equal keys, and 2×32 bits make accidental equality negligible. */

/** A 64-bit digest of a text as 16 hex digits (two FNV-1a passes with different offsets and a final mix). Not for security. */
export function digest(text: string): string {
  let a = 0x811c9dc5;
  let b = 0x1b873593;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b ^ code, 0x85ebca6b);
    b ^= b >>> 13;
  }
  return hex(mix(a ^ (b >>> 16))) + hex(mix(b ^ (a << 7)));
}

function mix(value: number): number {
  let h = value;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return h ^ (h >>> 16);
}

const hex = (value: number) => (value >>> 0).toString(16).padStart(8, '0');
