/** LZW as TIFF has it: codes of 9 to 12 bits, the high bit first, one bit longer one code early. @source TIFF 6.0 (Adobe, 1992), section 13 */
const [CLEAR, END, FIRST, FULL] = [256, 257, 258, 4094];
/** Places of the table of strings; a power of two, four times as many as there are codes. */
const [PLACES, STEP] = [1 << 14, 2654435761];

export function packLzw(bytes: Uint8Array): Uint8Array {
  // Nothing becomes longer than 12 bits a byte, with a code to clear in every 3800.
  const out = new Uint8Array(Math.ceil(bytes.length * 1.51) + 8);
  const keys = new Int32Array(PLACES).fill(-1);
  const codes = new Uint16Array(PLACES);
  let [at, held, bits, width, next] = [0, 0, 0, 9, FIRST];
  const put = (code: number) => {
    held = (held << width) | code;
    bits += width;
    while (bits >= 8) {
      bits -= 8;
      out[at++] = held >>> bits;
    }
    held &= (1 << bits) - 1;
  };
  put(CLEAR);
  let prefix = bytes.length > 0 ? bytes[0] : -1;
  for (let i = 1; i < bytes.length; i++) {
    const key = (prefix << 8) | bytes[i];
    let place = (Math.imul(key, STEP) >>> 18) & (PLACES - 1);
    while (keys[place] !== -1 && keys[place] !== key) place = (place + 1) & (PLACES - 1);
    if (keys[place] === key) {
      prefix = codes[place];
      continue;
    }
    put(prefix);
    keys[place] = key;
    codes[place] = next++;
    prefix = bytes[i];
    if (next === FULL) {
      put(CLEAR);
      keys.fill(-1);
      [width, next] = [9, FIRST];
    } else if (next + 1 > 1 << width) width++;
  }
  if (prefix >= 0) {
    put(prefix);
    // The reader has one more string by now.
    if (++next === FULL) {
      put(CLEAR);
      width = 9;
    } else if (next + 1 > 1 << width) width++;
  }
  put(END);
  if (bits > 0) out[at++] = held << (8 - bits);
  return out.subarray(0, at);
}
