/**
 * Makes the shelf of figures: `npm run figures` draws each as a picture with alpha into apps/web/public/figures, and the list of what they are into
 * packages/core/src/figures/shelf.json. Nothing is taken from anywhere; anyone gets the same pixels. `--only NAME` draws one.
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { deflateSync } from 'node:zlib';
import { srgbEncode } from '@tazzel/core';
import { encodePng } from '@tazzel/formats';
import { type Drawn, drawBody, type Part, type Rgb } from './figures/bodies.ts';
import { bicycle, bird, cyclist, dog, person, type Pose, together, turned, type Wear } from './figures/people.ts';
import { drawPlant, type Plant, reeds, shrub, youngTree } from './figures/plants.ts';

const folder = fileURLToPath(new URL('../apps/web/public/figures/', import.meta.url));
const listFile = fileURLToPath(new URL('../packages/core/src/figures/shelf.json', import.meta.url));

const rgb = (r: number, g: number, b: number): Rgb => [r, g, b];
const SKINS = [rgb(0.46, 0.3, 0.22), rgb(0.33, 0.2, 0.135), rgb(0.16, 0.09, 0.06), rgb(0.52, 0.36, 0.28)];
const HAIRS = { black: rgb(0.015, 0.013, 0.012), brown: rgb(0.06, 0.035, 0.02), fair: rgb(0.26, 0.18, 0.09), grey: rgb(0.3, 0.3, 0.3), red: rgb(0.17, 0.06, 0.025) };
const CLOTH = { navy: rgb(0.025, 0.035, 0.07), denim: rgb(0.07, 0.11, 0.19), black: rgb(0.022, 0.022, 0.024), grey: rgb(0.16, 0.16, 0.165), stone: rgb(0.42, 0.38, 0.31), white: rgb(0.68, 0.67, 0.64), rust: rgb(0.3, 0.09, 0.04), olive: rgb(0.1, 0.11, 0.05), ochre: rgb(0.42, 0.25, 0.06), wine: rgb(0.16, 0.025, 0.035), teal: rgb(0.035, 0.14, 0.15), camel: rgb(0.38, 0.24, 0.12), rose: rgb(0.5, 0.26, 0.25), sky: rgb(0.22, 0.34, 0.5) };
const shoes = rgb(0.035, 0.028, 0.025);

const stand: Pose = { legs: [{ swing: 1, aside: 3, bend: 2 }, { swing: 7, aside: 5, bend: 8 }], arms: [{ swing: -3, aside: 8, bend: 14 }, { swing: 3, aside: 9, bend: 18 }] };
const atEase: Pose = { legs: [{ swing: 0, aside: 2, bend: 1 }, { swing: 10, aside: 8, bend: 14 }], arms: [{ swing: 4, aside: 12, bend: 28 }, { swing: 12, aside: 16, bend: 95 }] };
const folded: Pose = { legs: stand.legs, arms: [{ swing: 20, aside: 4, bend: 92 }, { swing: 18, aside: 4, bend: 98 }] };
const walk = (far = 1): Pose => ({ legs: [{ swing: 24 * far, aside: 1, bend: 4 }, { swing: -16 * far, aside: 1, bend: 20 * far }], arms: [{ swing: -20 * far, aside: 7, bend: 12 }, { swing: 22 * far, aside: 7, bend: 22 }], lean: 3 });
const run: Pose = { legs: [{ swing: 46, bend: 52 }, { swing: -26, bend: 58 }], arms: [{ swing: -42, aside: 10, bend: 72 }, { swing: 38, aside: 10, bend: 78 }], lean: 11 };
const sit: Pose = { seatMetres: 0.45, legs: [{ swing: 84, aside: 4, bend: 80 }, { swing: 82, aside: 6, bend: 92 }], arms: [{ swing: 26, aside: 8, bend: 44 }, { swing: 30, aside: 8, bend: 40 }], lean: -6 };
const reading: Pose = { ...sit, arms: [{ swing: 30, aside: 4, bend: 66 }, { swing: 30, aside: 4, bend: 66 }], lean: 4 };
const wear = (skin: number, hair: keyof typeof HAIRS, hairStyle: Wear['hairStyle'], top: keyof typeof CLOTH, legs: keyof typeof CLOTH, more: Partial<Wear> = {}): Wear => ({ skin: SKINS[skin], hair: HAIRS[hair], hairStyle, top: CLOTH[top], legs: CLOTH[legs], shoes, ...more });
const coat = (color: keyof typeof CLOTH, hem = 0.27) => ({ coat: { color: CLOTH[color], hem } });
const skirt = (color: keyof typeof CLOTH, hem = 0.28) => ({ skirt: { color: CLOTH[color], hem } });

interface Row {
  readonly id: string;
  readonly label: string;
  readonly group: 'people' | 'animals' | 'things' | 'planting';
  readonly draw: Part[] | Plant;
  /** Pixels a metre. */
  readonly fine?: number;
  /** How tall it is, if its pixels do not say so: what grows by chance has no height of its own. */
  readonly metres?: number;
  /** Flies: it stands on nothing. */
  readonly aloft?: true;
  /** It seems to float when somebody sits on nothing: how high the seat is. */
  readonly seatMetres?: number;
}

const mother = wear(0, 'brown', 'long', 'ochre', 'denim');
const child = wear(0, 'fair', 'short', 'rust', 'navy');
const rows: readonly Row[] = [
  { id: 'woman-standing', label: 'Woman, standing', group: 'people', draw: turned(person(1.68, wear(0, 'brown', 'long', 'stone', 'denim', { bag: CLOTH.camel }), stand, 0.94), 22) },
  { id: 'man-standing', label: 'Man, standing', group: 'people', draw: turned(person(1.8, wear(3, 'brown', 'short', 'navy', 'grey'), atEase), -24) },
  { id: 'man-waiting', label: 'Man, arms folded', group: 'people', draw: turned(person(1.76, wear(2, 'black', 'short', 'white', 'navy'), folded), 14) },
  { id: 'woman-dress', label: 'Woman in a dress', group: 'people', draw: turned(person(1.66, wear(1, 'black', 'bun', 'wine', 'wine', { sleeves: 'short', ...skirt('wine', 0.24) }), stand, 0.92), -30) },
  { id: 'woman-from-behind', label: 'Woman, from behind', group: 'people', draw: turned(person(1.7, wear(0, 'red', 'long', 'teal', 'black'), stand, 0.93), 168) },
  { id: 'man-looking-away', label: 'Man in a coat, from behind', group: 'people', draw: turned(person(1.82, wear(0, 'grey', 'short', 'grey', 'black', coat('camel', 0.24)), stand), 196) },
  { id: 'woman-walking', label: 'Woman, walking across', group: 'people', draw: turned(person(1.67, wear(3, 'fair', 'bun', 'white', 'stone', coat('navy', 0.3)), walk(), 0.93), 82) },
  { id: 'man-walking', label: 'Man, walking across', group: 'people', draw: turned(person(1.79, wear(1, 'black', 'short', 'olive', 'black', { pack: CLOTH.grey }), walk()), 94) },
  { id: 'woman-towards', label: 'Woman, walking here', group: 'people', draw: turned(person(1.69, wear(2, 'black', 'bun', 'white', 'black', coat('rust', 0.3)), walk(0.8), 0.93), 12) },
  { id: 'man-towards', label: 'Man, walking here', group: 'people', draw: turned(person(1.77, wear(0, 'brown', 'short', 'sky', 'stone', { bag: CLOTH.black }), walk(0.8)), -16) },
  { id: 'man-away', label: 'Man, walking away', group: 'people', draw: turned(person(1.81, wear(3, 'fair', 'short', 'grey', 'denim', { pack: CLOTH.rust }), walk(0.9)), 172) },
  { id: 'woman-away', label: 'Woman, walking away', group: 'people', draw: turned(person(1.64, wear(0, 'black', 'long', 'rose', 'navy', { bag: CLOTH.stone }), walk(0.9), 0.92), 190) },
  { id: 'elderly', label: 'Elderly man with a stick', group: 'people', draw: turned(person(1.7, wear(0, 'grey', 'cap', 'grey', 'grey', { stick: true, ...coat('olive', 0.4) }), { legs: [{ swing: 10, bend: 8 }, { swing: -6, bend: 10 }], arms: [{ swing: -8, bend: 16 }, { swing: 30, aside: 10, bend: 30 }], lean: 9 }), 40) },
  { id: 'man-sitting', label: 'Man, sitting', group: 'people', seatMetres: 0.45, draw: turned(person(1.78, wear(1, 'brown', 'short', 'white', 'denim'), sit), 28) },
  { id: 'woman-reading', label: 'Woman, sitting and reading', group: 'people', seatMetres: 0.45, draw: turned(person(1.67, wear(0, 'red', 'long', 'teal', 'black', { book: CLOTH.white }), reading, 0.93), -38) },
  { id: 'child-standing', label: 'Child, standing', group: 'people', draw: turned(person(1.16, wear(1, 'black', 'short', 'ochre', 'denim'), stand, 1.04), 18) },
  { id: 'child-running', label: 'Child, running', group: 'people', draw: turned(person(1.24, wear(3, 'fair', 'long', 'rust', 'navy'), run, 1.02), 76) },
  { id: 'runner', label: 'Runner', group: 'people', draw: turned(person(1.75, wear(1, 'black', 'bun', 'teal', 'black', { sleeves: 'short' }), run, 0.94), -84) },
  { id: 'parent-and-child', label: 'Woman with a child', group: 'people', draw: together(turned(person(1.68, mother, { ...walk(0.7), arms: [{ swing: -10, aside: 8, bend: 12 }, { swing: 8, aside: 20, bend: 4 }] }, 0.94), 158, [-0.22, 0, 0]), turned(person(1.12, child, { ...walk(0.8), arms: [{ swing: 16, aside: 34, bend: 6 }, { swing: -10, aside: 6, bend: 10 }] }, 1.04), 164, [0.3, 0, 0.02])) },
  { id: 'couple', label: 'Two, walking away', group: 'people', draw: together(turned(person(1.8, wear(1, 'black', 'short', 'navy', 'stone'), walk(0.9)), 174, [-0.28, 0, 0]), turned(person(1.66, wear(0, 'brown', 'long', 'white', 'rose', skirt('rose', 0.22)), walk(0.75), 0.93), 182, [0.3, 0, 0.03])) },
  { id: 'talking', label: 'Three, talking', group: 'people', draw: together(turned(person(1.76, wear(2, 'black', 'short', 'grey', 'navy'), folded), 66, [-0.55, 0, 0]), turned(person(1.65, wear(3, 'fair', 'bun', 'wine', 'black'), stand, 0.93), 8, [0, 0, -0.4]), turned(person(1.83, wear(0, 'brown', 'short', 'stone', 'denim', coat('olive', 0.42)), atEase), -72, [0.58, 0, 0])) },
  { id: 'cyclist', label: 'Cyclist', group: 'people', draw: cyclist(1.76, wear(0, 'brown', 'short', 'sky', 'grey'), CLOTH.teal) },
  { id: 'dog', label: 'Dog', group: 'animals', metres: 0.62, draw: dog(rgb(0.2, 0.12, 0.06)) },
  { id: 'bird-gliding', label: 'Bird, gliding', group: 'animals', fine: 420, aloft: true, draw: bird(16, rgb(0.09, 0.09, 0.1)) },
  { id: 'bird-rising', label: 'Bird, wings up', group: 'animals', fine: 420, aloft: true, draw: bird(48, rgb(0.09, 0.09, 0.1)) },
  { id: 'bird-beating', label: 'Bird, wings down', group: 'animals', fine: 420, aloft: true, draw: bird(-26, rgb(0.09, 0.09, 0.1)) },
  { id: 'bicycle', label: 'Bicycle', group: 'things', draw: bicycle(CLOTH.wine) },
  { id: 'bicycle-dark', label: 'Bicycle, dark', group: 'things', draw: turned(bicycle(CLOTH.black), 180) },
  { id: 'shrub', label: 'Shrub', group: 'planting', draw: shrub({ seed: 3, width: 1.5, height: 1.2, leaf: [rgb(0.05, 0.11, 0.025), rgb(0.1, 0.17, 0.04)], size: 0.06 }) },
  { id: 'shrub-grey', label: 'Shrub, grey-green', group: 'planting', draw: shrub({ seed: 8, width: 1.2, height: 0.8, leaf: [rgb(0.11, 0.14, 0.09), rgb(0.17, 0.2, 0.13)], size: 0.04 }) },
  { id: 'reeds', label: 'Reeds', group: 'planting', draw: reeds({ seed: 5, width: 0.9, height: 1.7, blade: [rgb(0.11, 0.15, 0.05), rgb(0.22, 0.2, 0.09)], ear: rgb(0.22, 0.15, 0.09) }) },
  { id: 'grass', label: 'Tall grass', group: 'planting', draw: reeds({ seed: 9, width: 0.8, height: 0.9, blade: [rgb(0.18, 0.18, 0.06), rgb(0.33, 0.27, 0.13)], ear: rgb(0.4, 0.32, 0.2) }) },
  { id: 'young-tree', label: 'Young tree', group: 'planting', fine: 150, metres: 4.6, draw: youngTree({ seed: 4, metres: 4.6, bark: rgb(0.13, 0.1, 0.08), leaf: [rgb(0.06, 0.13, 0.03), rgb(0.14, 0.22, 0.05)], crown: 0.85, density: 13 }) },
  { id: 'young-birch', label: 'Young birch', group: 'planting', fine: 120, metres: 5.4, draw: youngTree({ seed: 12, metres: 5.2, bark: rgb(0.46, 0.44, 0.4), leaf: [rgb(0.07, 0.12, 0.025), rgb(0.15, 0.19, 0.045)], crown: 0.9, density: 11 }) },
];

const FINE = 340;
const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1] : null;
mkdirSync(folder, { recursive: true });
const before: readonly { readonly id: string }[] = (() => {
  try {
    return JSON.parse(readFileSync(listFile, 'utf8'));
  } catch {
    return [];
  }
})();
const list: object[] = [];
for (const row of rows) {
  const known = before.find(({ id }) => id === row.id);
  if (only && row.id !== only && known) {
    list.push(known);
    continue;
  }
  const fine = row.fine ?? FINE;
  const drawn = trimmed('leaves' in row.draw ? drawPlant(row.draw, fine) : drawBody(row.draw as Part[], fine));
  const { width, height, rgba, originX, originY } = drawn;
  const bytes = Uint8Array.from({ length: width * height * 4 }, (_, i) => Math.round(255 * (i % 4 === 3 ? rgba[i] : srgbEncode(Math.min(1, Math.max(0, rgba[i]))))));
  const parts = await encodePng({ width, height, rgba: bytes }, { deflate: async (raw) => new Uint8Array(deflateSync(raw, { level: 9 })) });
  const png = Buffer.concat(parts);
  writeFileSync(new URL(`${row.id}.png`, `file://${folder}`), png);
  const share = (value: number, of: number) => Math.round((value / of) * 1e4) / 1e4;
  const footY = row.aloft ? height : originY;
  list.push({ id: row.id, label: row.label, group: row.group, width, height, heightMetres: row.metres ?? Math.round((footY / fine) * 1000) / 1000, foot: [share(originX, width), share(footY, height)], ...(row.aloft ? { aloft: true } : {}), ...(row.seatMetres ? { seatMetres: row.seatMetres } : {}) });
  console.log(`${row.id}: ${width} × ${height}, ${(png.length / 1000).toFixed(0)} kB`);
}
writeFileSync(listFile, `[\n${list.map((entry) => `  ${JSON.stringify(entry)}`).join(',\n')}\n]\n`);

/** Without its empty sides. */
function trimmed({ width, height, rgba, originX, originY }: Drawn): Drawn {
  let [left, top, right, bottom] = [width, height, 0, 0];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (rgba[(y * width + x) * 4 + 3] === 0) continue;
      [left, top, right, bottom] = [Math.min(left, x), Math.min(top, y), Math.max(right, x + 1), Math.max(bottom, y + 1)];
    }
  }
  const [w, h] = [right - left, bottom - top];
  const out = new Float32Array(w * h * 4);
  for (let y = 0; y < h; y++) out.set(rgba.subarray(((top + y) * width + left) * 4, ((top + y) * width + right) * 4), y * w * 4);
  return { width: w, height: h, rgba: out, originX: originX - left, originY: originY - top };
}
