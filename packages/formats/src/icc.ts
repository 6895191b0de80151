/**
 * ICC profiles, as far as pictures for the screen carry them: sRGB and Display P3 are told, others are named.
 * @source ICC.1:2010 (profile version 4.3): header, tag table, `desc`/`mluc`, `XYZ`
 */
import { DISPLAY_P3, type Matrix, type Plane, type Primaries, REC709, rgbToRgb } from '@tazzel/core';

/** What the colours of a picture are made of. */
export interface ColorSpace {
  /** For people; null where the file does not say, which means sRGB. */
  readonly name: string | null;
  /** Display P3 is converted to Rec. 709; null needs no conversion, or none is known. */
  readonly matrix: Matrix | null;
  /** The colours are shown as if they were sRGB, which they are not. */
  readonly isUnknown: boolean;
  /** Stored values are light, not display values. */
  readonly isLinear: boolean;
}

/** Planes as a file stores them, and what their colours are made of. */
export interface StoredPixels {
  /** One or three. */
  readonly color: readonly Plane[];
  readonly alpha: Plane | null;
  readonly space: ColorSpace;
}

/** Red, green and blue of cyan, magenta, yellow and black by plain subtraction. @source TIFF 6.0 section 16: inks without a profile */
export function withoutInks([cyan, magenta, yellow, black]: readonly Plane[]): Plane[] {
  const most = black.type === 'u8' ? 255 : 65535;
  return [cyan, magenta, yellow].map((ink) => {
    const data = ink.data.slice();
    for (let i = 0; i < data.length; i++) data[i] = Math.round(((most - ink.data[i]) * (most - black.data[i])) / most);
    return { ...ink, data };
  });
}
/** What is said of them. */
export const inksSentence = (fileName: string) => `${fileName}: its inks (cyan, magenta, yellow, black) were turned into red, green and blue without their profile; the colours are near, not exact. Save it as RGB to be sure.`;

export const SRGB: ColorSpace = { name: null, matrix: null, isUnknown: false, isLinear: false };
const known = (name: string, primaries: Primaries, isLinear = false): ColorSpace => ({ name, matrix: primaries === REC709 ? null : rgbToRgb(primaries, REC709), isUnknown: false, isLinear });
/** Primaries that a file states by their places, with a display curve. */
export const spaceOfPrimaries = (primaries: Primaries): ColorSpace => known('primaries of its own', primaries);
export const unknownSpace = (name: string): ColorSpace => ({ name, matrix: null, isUnknown: true, isLinear: false });
export const displayP3 = (isLinear = false) => known('Display P3', DISPLAY_P3, isLinear);
export const linearSrgb = (name: string) => known(name, REC709, true);

/** Colorants adapted to D50, as profiles store them: published values of both spaces. */
const COLORANTS: readonly { readonly name: string; readonly primaries: Primaries; readonly red: readonly number[]; readonly green: readonly number[] }[] = [
  { name: 'sRGB', primaries: REC709, red: [0.436, 0.2225, 0.0139], green: [0.3851, 0.7169, 0.0971] },
  { name: 'Display P3', primaries: DISPLAY_P3, red: [0.5151, 0.2412, -0.0011], green: [0.292, 0.6922, 0.0419] },
];
const NEAR = 0.003;

/** Never throws: a profile that cannot be read is an unknown one. */
export function spaceOfProfile(profile: Uint8Array): ColorSpace {
  try {
    const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength);
    const text = (at: number, length: number) => String.fromCharCode(...profile.subarray(at, at + length));
    if (text(36, 4) !== 'acsp') return unknownSpace('damaged');
    const kind = text(16, 4);
    const tags = new Map<string, number>();
    const count = Math.min(200, view.getUint32(128));
    for (let i = 0; i < count; i++) tags.set(text(132 + i * 12, 4), view.getUint32(136 + i * 12));
    const name = readName(profile, view, tags.get('desc')) || 'without a name';
    if (kind === 'GRAY') {
      const curve = tags.get('kTRC');
      return isIdentityCurve(view, curve) ? linearSrgb(name) : hasDisplayCurve(view, curve) ? { ...SRGB, name } : unknownSpace(name);
    }
    if (kind !== 'RGB ') return unknownSpace(`${name} (${kind.trim()})`);
    const xyz = (tag: string): number[] | null => {
      const at = tags.get(tag);
      return at === undefined || text(at, 4) !== 'XYZ ' ? null : [8, 12, 16].map((offset) => view.getInt32(at + offset) / 65536);
    };
    const [red, green] = [xyz('rXYZ'), xyz('gXYZ')];
    const close = (a: readonly number[] | null, b: readonly number[]) => a?.every((value, i) => Math.abs(value - b[i]) < NEAR) === true;
    const found = COLORANTS.find((space) => close(red, space.red) && close(green, space.green));
    const isLinear = isIdentityCurve(view, tags.get('rTRC'));
    if (!found || !(isLinear || hasDisplayCurve(view, tags.get('rTRC')))) return unknownSpace(name);
    return known(found.name, found.primaries, isLinear);
  } catch {
    return unknownSpace('damaged');
  }
}

function readName(profile: Uint8Array, view: DataView, at: number | undefined): string {
  if (at === undefined) return '';
  const kind = String.fromCharCode(...profile.subarray(at, at + 4));
  if (kind === 'desc') return new TextDecoder('latin1').decode(profile.subarray(at + 12, at + 12 + Math.min(200, view.getUint32(at + 8)))).replace(/\0.*$/s, '');
  if (kind !== 'mluc') return '';
  const [length, offset] = [Math.min(400, view.getUint32(at + 20)), view.getUint32(at + 24)];
  return new TextDecoder('utf-16be').decode(profile.subarray(at + offset, at + offset + length)).trim();
}

const tagKind = (view: DataView, at: number) => view.getUint32(at);
const CURVE = 0x63757276;
const PARAMETRIC = 0x70617261;

function isIdentityCurve(view: DataView, at: number | undefined): boolean {
  if (at === undefined) return false;
  if (tagKind(view, at) === CURVE) {
    const count = view.getUint32(at + 8);
    return count === 0 || (count === 1 && view.getUint16(at + 12) === 256);
  }
  return tagKind(view, at) === PARAMETRIC && view.getUint16(at + 8) === 0 && view.getInt32(at + 12) === 65536;
}

/** Whether middle grey is where sRGB, or a gamma near 2.2, has it. */
function hasDisplayCurve(view: DataView, at: number | undefined): boolean {
  if (at === undefined) return false;
  const isDisplay = (light: number) => Math.abs(light - 0.214) < 0.012;
  if (tagKind(view, at) === CURVE) {
    const count = view.getUint32(at + 8);
    if (count === 1) return isDisplay(0.5 ** (view.getUint16(at + 12) / 256));
    return count > 1 && isDisplay(view.getUint16(at + 12 + 2 * Math.round((count - 1) / 2)) / 65535);
  }
  if (tagKind(view, at) !== PARAMETRIC) return false;
  const [g, a, b] = [12, 16, 20].map((offset) => view.getInt32(at + offset) / 65536);
  return isDisplay(view.getUint16(at + 8) === 0 ? 0.5 ** g : (a * 0.5 + b) ** g);
}
