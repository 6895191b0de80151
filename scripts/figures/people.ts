/** People, animals and things that are put together from parts. */
import { cone, ellipsoid, hemmed, type Part, type Rgb, ring, stuff, turned, type Vec } from './bodies.ts';

const rad = (degrees: number) => (degrees * Math.PI) / 180;

/** A limb: how far it swings forwards and aside, and how far its second half bends, in degrees. */
export interface Limb {
  readonly swing: number;
  readonly aside?: number;
  readonly bend?: number;
}

export interface Wear {
  readonly skin: Rgb;
  readonly hair: Rgb;
  readonly hairStyle?: 'short' | 'long' | 'bun' | 'cap' | 'none';
  readonly top: Rgb;
  readonly sleeves?: 'long' | 'short';
  readonly legs: Rgb;
  readonly shoes: Rgb;
  /** Hem over the ground as a share of the height: a coat, or a skirt. */
  readonly coat?: { readonly color: Rgb; readonly hem: number };
  readonly skirt?: { readonly color: Rgb; readonly hem: number };
  readonly bag?: Rgb;
  readonly pack?: Rgb;
  readonly book?: Rgb;
  readonly stick?: boolean;
}

export interface Pose {
  readonly legs: readonly [left: Limb, right: Limb];
  readonly arms: readonly [left: Limb, right: Limb];
  /** Of the trunk, forwards. */
  readonly lean?: number;
  /** On a seat: the thighs lie forwards, and this high it is. */
  readonly seatMetres?: number;
}

/** A head's share of the height; children have larger ones. @source proportions of figures, 7½ heads to an adult, as life drawing teaches; common practice */
const headOf = (metres: number) => metres / (metres > 1.5 ? 7.5 : metres > 1.25 ? 6.7 : 5.9);

/** The end of a limb that hangs from a place: swing is towards the viewer (z), aside along x. */
function along([x, y, z]: Vec, length: number, swing: number, aside: number): Vec {
  const down = length * Math.cos(rad(swing)) * Math.cos(rad(aside));
  return [x + length * Math.sin(rad(aside)), y - down, z + length * Math.sin(rad(swing)) * Math.cos(rad(aside))];
}

/** A standing, walking or sitting person who looks at the viewer, feet at the origin. `broad` is 1 on the mean. */
export function person(metres: number, wear: Wear, pose: Pose, broad = 1): Part[] {
  const h = metres;
  const head = headOf(h);
  const w = h * broad;
  const skin = stuff(wear.skin, 0, 0.03);
  const hair = stuff(wear.hair, 0.002, 0.03);
  const cloth = stuff(wear.top, 0.0055, 0.045);
  const trousers = stuff(wear.legs, 0.006, 0.03);
  const leather = stuff(wear.shoes, 0, 0.02);
  const isSitting = pose.seatMetres !== undefined;
  const thigh = 0.245 * h;
  const shin = 0.23 * h;
  const hipY = isSitting ? (pose.seatMetres as number) + 0.055 * h : thigh + shin + 0.035 * h - legSink(pose, thigh, shin);
  const lean = pose.lean ?? 0;
  const up = (metresUp: number, x = 0, z = 0): Vec => [x, hipY + metresUp * Math.cos(rad(lean)), metresUp * Math.sin(rad(lean)) + z];
  const parts: Part[] = [];

  // Legs.
  const knees: Vec[] = [];
  const shoes: Part[] = [];
  const bare: Part[] = [];
  pose.legs.forEach(({ swing, aside = 0, bend = 0 }, i) => {
    const side = i === 0 ? -1 : 1;
    const hip: Vec = [side * 0.052 * w, hipY - 0.01 * h, 0];
    const knee = along(hip, thigh, swing, side * aside);
    const ankle = along(knee, shin, swing - bend, side * aside * 0.4);
    knees.push(knee);
    const isBare = wear.skirt !== undefined;
    const of = isBare ? skin : trousers;
    const list = isBare ? bare : parts;
    const wide = isBare ? 0.8 : 1;
    list.push(cone(of, hip, knee, 0.048 * w * wide, 0.034 * w * wide), cone(of, knee, ankle, 0.034 * w * wide, 0.021 * w * (isBare ? 0.85 : 1.12)));
    // A foot that pushes off points down.
    const pitch = Math.max(-55, Math.min(20, swing - bend));
    const toe = along([ankle[0] + side * 0.012 * h, ankle[1] - 0.02 * h, ankle[2] - 0.012 * h], 0.085 * h, 90 + pitch, side * 8);
    shoes.push(cone(leather, [ankle[0], ankle[1] - 0.014 * h, ankle[2] - 0.014 * h], toe, 0.02 * h, 0.015 * h));
  });
  if (!wear.skirt) parts.push(ellipsoid(trousers, [0, hipY - 0.005 * h, -0.005 * h], [0.09 * w, 0.06 * h, 0.066 * w]));
  parts.push(...bare, ...shoes);

  // Trunk.
  const [waist, chest, neck] = [0.1 * h, 0.215 * h, 0.305 * h];
  const shoulders: Vec[] = [-1, 1].map((side) => up(0.272 * h, side * 0.098 * w, -0.004 * h));
  const trunk: Part[] = [
    ellipsoid(cloth, up(0.03 * h), [0.094 * w, 0.05 * h, 0.073 * w]),
    ellipsoid(cloth, up(waist), [0.08 * w, 0.085 * h, 0.062 * w]),
    ellipsoid(cloth, up(chest), [0.1 * w, 0.098 * h, 0.07 * w]),
    cone(cloth, shoulders[0], shoulders[1], 0.036 * w),
  ];
  // Arms.
  const hands: Vec[] = [];
  const sleeves: Part[] = [];
  const forearms: Part[] = [];
  pose.arms.forEach(({ swing, aside = 6, bend = 12 }, i) => {
    const side = i === 0 ? -1 : 1;
    const shoulder: Vec = [shoulders[i][0] + side * 0.022 * w, shoulders[i][1] - 0.01 * h, shoulders[i][2]];
    const elbow = along(shoulder, 0.17 * h, swing, side * aside);
    const wrist = along(elbow, 0.145 * h, swing + bend, side * aside * 0.3);
    const hand = along(wrist, 0.045 * h, swing + bend, side * aside * 0.2);
    hands.push(hand);
    sleeves.push(cone(cloth, shoulder, elbow, 0.033 * w, 0.026 * w));
    if (wear.sleeves === 'short') forearms.push(cone(skin, elbow, wrist, 0.02 * w, 0.015 * w));
    else sleeves.push(cone(cloth, elbow, wrist, 0.026 * w, 0.02 * w));
    forearms.push(cone(skin, wrist, hand, 0.0155 * w, 0.0165 * w));
  });
  parts.push(...trunk, ...sleeves, ...forearms);

  // Coat or skirt over what is there.
  const over = wear.coat ?? wear.skirt;
  if (over) {
    const made = stuff(over.color, 0.008, 0.05);
    const top = wear.coat ? 0.24 * h : 0.075 * h;
    const wide = wear.coat ? 0.082 : 0.07;
    const hem = over.hem * h;
    if (isSitting) {
      for (const [i, knee] of knees.entries()) parts.push(cone(made, [(i ? 1 : -1) * 0.05 * w, hipY + 0.01 * h, 0], [knee[0], knee[1] + 0.004 * h, knee[2]], 0.068 * w, 0.05 * w));
      parts.push(ellipsoid(made, up(0.03 * h), [0.1 * w, 0.07 * h, 0.08 * w]));
    } else {
      // It hangs about both knees.
      const middle = knees.map(([x, , z]) => [x, z]);
      const low = Math.max(hem, 0.03 * h);
      for (const [x, z] of middle) parts.push(hemmed(made, up(top, 0, 0), [x * 1.15, low, z * 0.75], wide * w, (wide + 0.006) * w, low));
      parts.push(hemmed(made, up(top), [0, low, (middle[0][1] + middle[1][1]) * 0.35], wide * w * 1.05, (wide + 0.016) * w, low));
      if (wear.coat) parts.push(ellipsoid(made, up(chest), [0.108 * w, 0.1 * h, 0.078 * w]));
    }
    if (wear.coat) {
      const sleeve = sleeves.map((part): Part => (part.kind === 'cone' ? { ...part, stuff: made, r1: part.r1 * 1.16, r2: part.r2 * 1.16 } : part));
      parts.push(cone(made, shoulders[0], shoulders[1], 0.043 * w), ...sleeve);
    }
  }

  // Head and hair.
  const neckAt = up(neck);
  const headAt: Vec = [neckAt[0], neckAt[1] + 0.05 * h + head * 0.32, neckAt[2] + 0.012 * h];
  const wide = head * 0.335;
  parts.push(cone(skin, up(0.28 * h, 0, -0.006 * h), headAt, 0.029 * h, 0.027 * h), ellipsoid(skin, headAt, [wide, head * 0.5, wide * 1.1]), ellipsoid(skin, [headAt[0], headAt[1] - head * 0.2, headAt[2] + wide * 0.4], [wide * 0.72, head * 0.27, wide * 0.68]), ellipsoid(skin, [headAt[0], headAt[1] - head * 0.06, headAt[2] + wide * 1.08], [wide * 0.14, head * 0.11, wide * 0.2]));
  // Eyes and mouth are no more than shades at the size of entourage.
  const shade = stuff([wear.skin[0] * 0.28, wear.skin[1] * 0.22, wear.skin[2] * 0.2]);
  for (const side of [-1, 1]) parts.push(ellipsoid(shade, [headAt[0] + side * wide * 0.42, headAt[1] + head * 0.03, headAt[2] + wide * 0.93], [wide * 0.17, head * 0.035, wide * 0.12]));
  parts.push(ellipsoid(stuff([wear.skin[0] * 0.7, wear.skin[1] * 0.42, wear.skin[2] * 0.42]), [headAt[0], headAt[1] - head * 0.25, headAt[2] + wide * 1.02], [wide * 0.22, head * 0.022, wide * 0.08]));
  const style = wear.hairStyle ?? 'short';
  if (style !== 'none') {
    parts.push(ellipsoid(hair, [headAt[0], headAt[1] + head * 0.13, headAt[2] - wide * 0.2], [wide * 1.1, head * 0.44, wide * 1.12]));
    if (style === 'long') parts.push(cone(hair, [headAt[0], headAt[1] + head * 0.05, headAt[2] - wide * 0.5], [headAt[0], headAt[1] - head * 0.85, headAt[2] - wide * 0.75], wide * 0.98, wide * 0.8));
    if (style === 'bun') parts.push(ellipsoid(hair, [headAt[0], headAt[1] + head * 0.36, headAt[2] - wide * 1.05], [wide * 0.48, head * 0.2, wide * 0.45]));
    if (style === 'cap') parts.push(ellipsoid(hair, [headAt[0], headAt[1] + head * 0.2, headAt[2] + wide * 0.75], [wide * 0.85, head * 0.035, wide * 0.8]));
  }
  if (wear.bag) {
    const [x, y, z] = hands[1];
    const bag = stuff(wear.bag, 0, 0.05);
    parts.push(cone(bag, [x, y, z], [x, y - 0.1 * h, z], 0.005 * h), ...[0.12, 0.155, 0.19].map((down, i) => cone(bag, [x, y - down * h, z - (0.045 + 0.006 * i) * h], [x, y - down * h, z + (0.045 + 0.006 * i) * h], 0.026 * h)));
  }
  if (wear.pack) parts.push(ellipsoid(stuff(wear.pack, 0.003, 0.02), up(0.19 * h, 0, -0.1 * w), [0.085 * w, 0.125 * h, 0.055 * h]));
  if (wear.book) {
    const page = stuff(wear.book, 0, 0.01);
    const [a, b] = hands;
    parts.push(cone(page, [a[0] * 0.6, a[1] + 0.05 * h, a[2] + 0.02 * h], [b[0] * 0.6, b[1] + 0.05 * h, b[2] + 0.02 * h], 0.035 * h));
  }
  if (wear.stick) {
    const [x, y, z] = hands[1];
    parts.push(cone(stuff([0.09, 0.06, 0.04]), [x, y + 0.02 * h, z], [x + 0.03 * h, 0.01, z + 0.04 * h], 0.008 * h));
  }
  return parts;
}

/** How much lower the hip is because the legs are apart. */
function legSink({ legs }: Pose, thigh: number, shin: number): number {
  const reach = legs.map(({ swing, bend = 0, aside = 0 }) => (thigh * Math.cos(rad(swing)) + shin * Math.cos(rad(swing - bend))) * Math.cos(rad(aside)));
  return thigh + shin - Math.max(...reach);
}

/** A bicycle from its side, wheels on the ground. */
export function bicycle(frame: Rgb): Part[] {
  const tyre = stuff([0.02, 0.02, 0.022]);
  const tube = stuff(frame);
  const metal = stuff([0.3, 0.3, 0.31]);
  const leather = stuff([0.08, 0.05, 0.035]);
  const [back, front, crank, seat, bars]: Vec[] = [[-0.52, 0.345, 0], [0.53, 0.345, 0], [-0.07, 0.3, 0], [-0.23, 0.86, 0], [0.38, 0.93, 0]];
  const spokes = [back, front].flatMap(([x, y]) => Array.from({ length: 9 }, (_, k) => cone(metal, [x, y, 0], [x + 0.33 * Math.cos((k * 2 * Math.PI) / 9), y + 0.33 * Math.sin((k * 2 * Math.PI) / 9), 0], 0.0022)));
  return [
    ring(tyre, back, 0.33, 0.017), ring(tyre, front, 0.33, 0.017), ...spokes,
    cone(tube, crank, seat, 0.015), cone(tube, crank, [0.33, 0.72, 0], 0.016), cone(tube, [-0.21, 0.78, 0], [0.34, 0.8, 0], 0.014), cone(tube, [0.33, 0.7, 0], bars, 0.014), cone(tube, [0.34, 0.72, 0], front, 0.012), cone(tube, back, crank, 0.01), cone(tube, back, [-0.21, 0.78, 0], 0.009),
    cone(metal, [0.38, 0.94, -0.24], [0.36, 0.96, 0.24], 0.012), ring(metal, [crank[0], crank[1], 0.05], 0.075, 0.012),
    ellipsoid(leather, [-0.25, 0.9, 0], [0.13, 0.032, 0.07]),
  ];
}

/** Somebody on it, seen from the side. */
export function cyclist(metres: number, wear: Wear, frame: Rgb): Part[] {
  const pose: Pose = { seatMetres: 0.84, lean: 24, legs: [{ swing: 62, bend: 60 }, { swing: 22, bend: 26 }], arms: [{ swing: 58, bend: 14 }, { swing: 58, bend: 14 }] };
  return [...bicycle(frame), ...turned(person(metres, wear, pose), 90, [-0.2, 0, 0])];
}

/** A dog from its side, of middle size. */
export function dog(coat: Rgb): Part[] {
  const fur = stuff(coat, 0.003, 0.05);
  const dark = stuff([0.02, 0.018, 0.016]);
  const legs = [[-0.24, 0.05, -6], [-0.21, -0.05, 10], [0.21, 0.05, 8], [0.24, -0.05, -8]].flatMap(([x, z, lean]) => {
    const knee: Vec = [x - 0.01 * lean * 0.3, 0.22, z];
    return [cone(fur, [x, 0.4, z], knee, 0.055, 0.03), cone(fur, knee, [x + 0.004 * lean, 0.02, z], 0.026, 0.02), cone(fur, [x + 0.004 * lean, 0.022, z], [x + 0.004 * lean + 0.05, 0.018, z], 0.022, 0.018)];
  });
  return [
    cone(fur, [-0.24, 0.43, 0], [0.2, 0.45, 0], 0.1, 0.125), ellipsoid(fur, [0.2, 0.43, 0], [0.12, 0.15, 0.11]),
    cone(fur, [0.26, 0.5, 0], [0.38, 0.66, 0], 0.085, 0.07), ellipsoid(fur, [0.42, 0.7, 0], [0.1, 0.085, 0.075]), cone(fur, [0.46, 0.68, 0], [0.57, 0.65, 0], 0.05, 0.032),
    ellipsoid(fur, [0.35, 0.72, 0.07], [0.045, 0.075, 0.02]), ellipsoid(fur, [0.35, 0.72, -0.07], [0.045, 0.075, 0.02]),
    cone(fur, [-0.3, 0.48, 0], [-0.46, 0.62, 0], 0.03, 0.014), ...legs, ellipsoid(dark, [0.6, 0.66, 0], [0.02, 0.018, 0.02]),
  ];
}

/** A bird in flight from its side and below; `lift` is how far its wings are up, in degrees. */
export function bird(lift: number, plumage: Rgb): Part[] {
  const body = stuff(plumage, 0, 0.02);
  const wing = (side: number): Part[] => {
    const [a, b] = [rad(lift), rad(lift * 0.35)];
    const elbow: Vec = [side * 0.13 * Math.cos(a), 0.13 * Math.sin(a), 0.02];
    const tip: Vec = [elbow[0] + side * 0.2 * Math.cos(b), elbow[1] + 0.2 * Math.sin(b), -0.05];
    return [0, 0.03, 0.055].flatMap((back) => [cone(body, [side * 0.02, 0.01, 0.03 - back], [elbow[0], elbow[1], elbow[2] - back * 1.2], 0.016, 0.013), cone(body, [elbow[0], elbow[1], elbow[2] - back * 1.2], [tip[0] * (1 - back), tip[1] - back * 0.3, tip[2] - back], 0.013, 0.003)]);
  };
  return [cone(body, [0, 0, -0.1], [0, 0.005, 0.09], 0.022, 0.034), ellipsoid(body, [0, 0.02, 0.13], [0.026, 0.024, 0.03]), cone(body, [0, 0, -0.1], [0, 0, -0.2], 0.02, 0.024), ...wing(-1), ...wing(1)];
}

/** Several on one picture. */
export const together = (...all: readonly (readonly Part[])[]): Part[] => all.flat();
export { turned };
