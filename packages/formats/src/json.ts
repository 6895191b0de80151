/** JSON from outside, looked over before it is built: a few megabytes of brackets become gigabytes of objects. */

export interface JsonLimits {
  readonly bytes: number;
  /** Objects and lists. */
  readonly containers: number;
  readonly strings: number;
  readonly depth: number;
}

export const JSON_LIMITS: JsonLimits = { bytes: 128 * 2 ** 20, containers: 2_000_000, strings: 4_000_000, depth: 100 };

/** Thrown with the rest of a sentence that begins with the name of the file. */
export class JsonError extends Error {
  override readonly name = 'JsonError';
  constructor(
    readonly code: 'too-large' | 'corrupt',
    message: string,
  ) {
    super(message);
  }
}

const [QUOTE, BACKSLASH, OPEN_LIST, OPEN_OBJECT, CLOSE_LIST, CLOSE_OBJECT] = [0x22, 0x5c, 0x5b, 0x7b, 0x5d, 0x7d];

/** @throws JsonError */
export function parseJson(bytes: Uint8Array, limits: JsonLimits = JSON_LIMITS): unknown {
  if (bytes.length > limits.bytes) throw new JsonError('too-large', `it holds ${Math.round(bytes.length / 2 ** 20)} MB of text; up to ${limits.bytes / 2 ** 20} MB are read`);
  let [containers, strings, depth] = [0, 0, 0];
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i];
    if (byte === QUOTE) {
      strings++;
      for (i++; i < bytes.length && bytes[i] !== QUOTE; i++) if (bytes[i] === BACKSLASH) i++;
    } else if (byte === OPEN_LIST || byte === OPEN_OBJECT) {
      containers++;
      if (++depth > limits.depth) throw new JsonError('too-large', `its parts lie more than ${limits.depth} deep inside each other`);
    } else if (byte === CLOSE_LIST || byte === CLOSE_OBJECT) depth--;
  }
  if (containers > limits.containers || strings > limits.strings) throw new JsonError('too-large', `it holds ${containers} lists and objects and ${strings} texts; up to ${limits.containers} and ${limits.strings} are read`);
  try {
    return JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    throw new JsonError('corrupt', 'it is damaged: it is no JSON');
  }
}
