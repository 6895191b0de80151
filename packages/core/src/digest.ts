/** Keys of results: equal inputs give equal keys, and other inputs others. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

const KEY_BYTES = 16;

/** The first half of a text's SHA-256, as 32 hex digits. @source FIPS 180-4 */
export const digest = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)).subarray(0, KEY_BYTES));
