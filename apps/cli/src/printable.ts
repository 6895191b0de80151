/** Names come from files and may hold anything: what would steer the terminal is written out. */

// Control characters (C0, DEL, C1) and those that turn the direction of writing.
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for
const STEERING = /[\u0000-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;

/** A line as it may be printed; `lines` leaves line breaks in place, as in a list of faults. */
export const printable = (text: string, lines = false): string => text.replace(STEERING, (found) => (lines && found === '\n' ? found : `\\u{${found.charCodeAt(0).toString(16)}}`));
