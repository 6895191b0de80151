/**
 * The Kiln Yard Library: an invented small public library in a former brickworks yard. A brick hall with glazed bays, a
 * wing clad in timber slats, a zinc roof, the old kiln's chimney, a strip of water. Late afternoon, lamps already on.
 * Metres; the courtyard lies towards +z, the hall's front at z = −6.
 */
import type { CameraDescription, LampDescription, MaterialDescription, ObjectDescription, SceneDescription, Shape, Surface, Triple } from './model.ts';
import { box, glazing, type Opening, prism, rod, roofPlane, slab, wall } from './kiln-yard/parts.ts';

const material = (name: string, number: number, surface: Surface): MaterialDescription => ({ name, number, idColor: null, surface });

const materials: readonly MaterialDescription[] = [
  material('Brick', 1, { kind: 'matt', paint: { pattern: 'brick', color: [0.36, 0.165, 0.105], mortar: [0.43, 0.39, 0.34], lengthMetres: 0.25, courseMetres: 0.075, jointMetres: 0.011 } }),
  material('Old brick', 2, { kind: 'matt', paint: { pattern: 'brick', color: [0.26, 0.13, 0.09], mortar: [0.3, 0.27, 0.24], lengthMetres: 0.26, courseMetres: 0.08, jointMetres: 0.013 } }),
  material('Timber slats', 3, { kind: 'matt', paint: { pattern: 'slats', color: [0.44, 0.29, 0.17], pitchMetres: 0.11, gapMetres: 0.018, lies: 'upright' } }),
  material('Zinc', 4, { kind: 'metal', color: [0.46, 0.49, 0.52], roughness: 0.42 }),
  material('Glass', 5, { kind: 'thin-glass', ior: 1.52, tint: [0.94, 0.97, 0.95] }),
  material('Bronze', 6, { kind: 'metal', color: [0.52, 0.34, 0.19], roughness: 0.3 }),
  material('Concrete', 7, { kind: 'matt', paint: { pattern: 'concrete', color: [0.4, 0.39, 0.37], panelMetres: 1.5 } }),
  material('Gravel', 8, { kind: 'matt', paint: { pattern: 'gravel', color: [0.36, 0.33, 0.28], grainMetres: 0.035 } }),
  material('Water', 9, { kind: 'water', ior: 1.333, clearness: [0.35, 0.55, 0.5], waveMetres: 0.5, waveSlope: 0.012 }),
  material('Pool stone', 10, { kind: 'coated', paint: { pattern: 'concrete', color: [0.075, 0.078, 0.08], panelMetres: 0.9 }, ior: 1.45, roughness: 0.35 }),
  material('Grass', 11, { kind: 'matt', paint: { pattern: 'grass', color: [0.13, 0.19, 0.05] } }),
  material('Leaves', 12, { kind: 'leaf', paint: { pattern: 'cells', color: [0.1, 0.19, 0.035], other: [0.24, 0.26, 0.05], cellMetres: [0.09, 0.09, 0.09] }, through: 0.42 }),
  material('Bark', 13, { kind: 'matt', paint: { pattern: 'plaster', color: [0.17, 0.13, 0.1] } }),
  material('Oak', 14, { kind: 'coated', paint: { pattern: 'boards', color: [0.42, 0.27, 0.145], widthMetres: 0.16, lengthMetres: 2.4, along: 'x' }, ior: 1.45, roughness: 0.38 }),
  material('Plaster', 15, { kind: 'matt', paint: { pattern: 'plaster', color: [0.72, 0.69, 0.63] } }),
  material('Books', 16, { kind: 'matt', paint: { pattern: 'cells', color: [0.05, 0.07, 0.11], other: [0.62, 0.42, 0.26], cellMetres: [0.036, 0.45, 2] } }),
  material('Steel', 17, { kind: 'coated', paint: { pattern: 'flat', color: [0.035, 0.037, 0.04] }, ior: 1.5, roughness: 0.4 }),
  material('Old houses', 18, { kind: 'matt', paint: { pattern: 'plaster', color: [0.42, 0.38, 0.33] } }),
  material('Woods', 19, { kind: 'leaf', paint: { pattern: 'cells', color: [0.06, 0.1, 0.03], other: [0.13, 0.16, 0.05], cellMetres: [0.6, 0.6, 0.6] }, through: 0.3 }),
  // The bodies of lamps, as the renderer would number them if it had to: so their number stays whatever is added.
  material('Lamps', 20, { kind: 'matt', paint: { pattern: 'flat', color: [0.6, 0.6, 0.6] } }),
  material('Felt', 21, { kind: 'matt', paint: { pattern: 'plaster', color: [0.11, 0.27, 0.24] } }),
];

const objects: ObjectDescription[] = [];
const add = (name: string, of: string, shapes: readonly Shape[]): void => void objects.push({ name, material: of, shapes });

// The hall: 18 m along the yard, 9.5 m deep. Bays between brick piers.
const FRONT = -6;
const BACK = -15.5;
const THICK = 0.46;
const HALL: readonly [number, number] = [-6.2, 12.4];
const EAVES = 5.1;
const RIDGE = 8.7;
const RIDGE_Z = (FRONT + BACK) / 2;
const HEAD = 4.05;
const BAYS: readonly Opening[] = Array.from({ length: 6 }, (_, i) => ({ from: -5.5 + i * 3, to: -5.5 + i * 3 + 2.2, low: 0.12, high: HEAD }));
const DOOR_BAY = 2;

function hall(): void {
  const [left, right] = HALL;
  const ends: Opening[] = [{ from: BACK + 3.4, to: FRONT - 3.4, low: 0.9, high: 4.05 }];
  add('Hall: front wall', 'Brick', [
    ...wall('x', left, right, FRONT, FRONT - THICK, 0, EAVES, BAYS.map((bay) => ({ ...bay, low: 0 }))),
    // A course of headers stands out over the bays and under the eaves.
    box(left, HEAD + 0.42, FRONT, right, HEAD + 0.5, FRONT + 0.035),
    box(left, EAVES - 0.16, FRONT, right, EAVES, FRONT + 0.05),
    ...BAYS.flatMap(({ from }, i) => (i === 0 ? [] : [box(from - 0.58, 0.3, FRONT, from - 0.22, HEAD + 0.42, FRONT + 0.06)])),
  ]);
  add('Hall: back wall', 'Brick', wall('x', left, right, BACK, BACK + THICK, 0, EAVES));
  for (const [side, x] of [['left', left], ['right', right - THICK]] as const) {
    const gable: [number, number][] = [[FRONT, EAVES], [BACK, EAVES], [RIDGE_Z, RIDGE - 0.05]];
    add(`Hall: ${side} gable`, 'Brick', [...wall('z', BACK, FRONT, x, x + THICK, 0, EAVES, side === 'right' ? ends : []), gablePlate(gable, x, x + THICK)]);
  }
  add('Hall: lintels', 'Concrete', [...BAYS.map(({ from, to }) => box(from - 0.12, HEAD, FRONT + 0.02, to + 0.12, HEAD + 0.3, FRONT - THICK - 0.01)), box(left - 0.04, 0, FRONT - THICK + 0.02, right + 0.04, 0.16, FRONT + 0.04)].filter((_, i) => i < BAYS.length));
  add('Hall: sills', 'Concrete', BAYS.filter((_, i) => i !== DOOR_BAY).map(({ from, to }) => box(from, 0, FRONT + 0.04, to, 0.12, FRONT - THICK)));

  const overhang = 0.35;
  const rise = (RIDGE - EAVES) / (FRONT - RIDGE_Z);
  const slope = (z: number, toRidge: number): Triple => [0, rise * Math.abs(toRidge - z), toRidge - z];
  add('Hall: roof', 'Zinc', [
    ...roofPlane([left - 0.3, EAVES - rise * overhang, FRONT + overhang], [right - left + 0.6, 0, 0], slope(FRONT + overhang, ROOFLIGHT_FRONT), 0.14, 0.6),
    ...roofPlane([left - 0.3, EAVES - rise * overhang, BACK - overhang], [right - left + 0.6, 0, 0], slope(BACK - overhang, RIDGE_Z), 0.14, 0.6),
    // Beside the rooflight the front plane goes up to the ridge.
    slab([left - 0.3, RIDGE - rise * (ROOFLIGHT_FRONT - RIDGE_Z), ROOFLIGHT_FRONT], [ROOFLIGHT[0] - left + 0.3, 0, 0], slope(ROOFLIGHT_FRONT, RIDGE_Z), [0, 0.14, 0]),
    slab([ROOFLIGHT[1], RIDGE - rise * (ROOFLIGHT_FRONT - RIDGE_Z), ROOFLIGHT_FRONT], [right + 0.3 - ROOFLIGHT[1], 0, 0], slope(ROOFLIGHT_FRONT, RIDGE_Z), [0, 0.14, 0]),
    box(left - 0.3, RIDGE + 0.06, RIDGE_Z - 0.12, right + 0.3, RIDGE + 0.2, RIDGE_Z + 0.12),
  ]);
  add('Hall: gutter and pipes', 'Zinc', [rod([left - 0.3, EAVES - 0.2, FRONT + 0.42], [right + 0.3, EAVES - 0.2, FRONT + 0.42], 0.075, 12), rod([right - 0.1, EAVES - 0.25, FRONT + 0.16], [right - 0.1, 0.1, FRONT + 0.16], 0.05), rod([left + 0.12, EAVES - 0.25, FRONT + 0.16], [left + 0.12, 0.1, FRONT + 0.16], 0.05)]);

  // Bays: steel windows, one of them with the bronze doors.
  const windows = BAYS.map((bay, i) => glazing('x', FRONT - 0.3, i === DOOR_BAY ? { ...bay, low: 2.75 } : bay, i === DOOR_BAY ? 2 : 3, i === DOOR_BAY ? [] : [1.05, 2.75]));
  const end = glazing('z', right - 0.3, ends[0], 4, [2.75]);
  add('Hall: window frames', 'Steel', [...windows.flatMap(({ bars }) => bars), ...end.bars]);
  add('Hall: panes', 'Glass', [...windows.map(({ pane }) => pane), end.pane]);
  doors();
  rooflight(rise);
}

/** A triangle over an end wall: outline in (z, y), standing between two x. */
function gablePlate(outline: readonly (readonly [number, number])[], x0: number, x1: number): Shape {
  const [a, b, c] = outline;
  const corner = ([z, y]: readonly [number, number], x: number): Triple => [x, y, z];
  return { kind: 'mesh', positions: [a, b, c].flatMap((p) => corner(p, x0)).concat([a, b, c].flatMap((p) => corner(p, x1))), indices: [0, 2, 1, 3, 4, 5, 0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4, 2, 0, 3, 2, 3, 5] };
}

const ROOFLIGHT: readonly [number, number] = [-3.5, 9.7];
const ROOFLIGHT_FRONT = RIDGE_Z + 1.5;

function rooflight(rise: number): void {
  const up: Triple = [0, rise * (ROOFLIGHT_FRONT - RIDGE_Z), RIDGE_Z - ROOFLIGHT_FRONT];
  const low = RIDGE - up[1];
  const bars: Shape[] = [];
  for (let i = 0; i <= 11; i++) bars.push(slab([ROOFLIGHT[0] + ((ROOFLIGHT[1] - ROOFLIGHT[0] - 0.05) * i) / 11, low, ROOFLIGHT_FRONT], [0.05, 0, 0], up, [0, 0.1, 0]));
  add('Rooflight: bars', 'Steel', bars);
  add('Rooflight: panes', 'Glass', [{ kind: 'quad', corner: [ROOFLIGHT[0], low + 0.07, ROOFLIGHT_FRONT], u: [ROOFLIGHT[1] - ROOFLIGHT[0], 0, 0], v: up }]);
}

function doors(): void {
  const { from, to } = BAYS[DOOR_BAY];
  const middle = (from + to) / 2;
  const z = FRONT - 0.28;
  const shapes: Shape[] = [];
  for (const [a, b] of [[from + 0.02, middle - 0.01], [middle + 0.01, to - 0.02]]) {
    shapes.push(box(a, 0.03, z - 0.03, b, 2.72, z));
    // Fluted fronts.
    for (let x = a + 0.05; x < b - 0.05; x += 0.075) shapes.push(rod([x, 0.12, z], [x, 2.64, z], 0.022, 8));
  }
  for (const x of [middle - 0.1, middle + 0.1]) shapes.push(rod([x, 0.85, z + 0.09], [x, 1.75, z + 0.09], 0.02, 12), box(x - 0.012, 0.9, z, x + 0.012, 0.93, z + 0.09), box(x - 0.012, 1.68, z, x + 0.012, 1.71, z + 0.09));
  add('Doors', 'Bronze', shapes);
  add('Door canopy', 'Bronze', [box(from - 0.25, 2.84, FRONT + 1.15, to + 0.25, 2.9, FRONT - 0.2)]);
}

// The wing: a gabled house of timber slats, its end towards the viewer.
const WING: readonly [number, number] = [-13.4, -6.6];
const WING_FRONT = 1.6;
const WING_EAVES = 3.1;
const WING_RIDGE = 6;
const WING_MIDDLE = (WING[0] + WING[1]) / 2;

function wing(): void {
  const [left, right] = WING;
  const wide: Opening = { from: left + 1.1, to: right - 1.1, low: 0.1, high: 2.75 };
  const side: Opening[] = [{ from: -4.7, to: -2.5, low: 0.45, high: 2.5 }, { from: -1.7, to: 0.5, low: 0.45, high: 2.5 }];
  add('Wing: end wall', 'Timber slats', [...wall('x', left, right, WING_FRONT, WING_FRONT - 0.3, 0, WING_EAVES, [{ ...wide, low: 0 }]), prism([[left, WING_EAVES], [right, WING_EAVES], [WING_MIDDLE, WING_RIDGE - 0.06]], WING_FRONT - 0.3, WING_FRONT)]);
  add('Wing: yard wall', 'Timber slats', wall('z', FRONT, WING_FRONT - 0.3, right, right - 0.3, 0, WING_EAVES, side));
  add('Wing: outer wall', 'Timber slats', wall('z', FRONT, WING_FRONT - 0.3, left, left + 0.3, 0, WING_EAVES));
  add('Wing: plinth', 'Concrete', [box(left - 0.03, 0, WING_FRONT + 0.05, right + 0.03, 0.1, WING_FRONT - 0.25), box(right - 0.25, 0, WING_FRONT, right + 0.05, 0.1, FRONT)]);
  const rise = WING_RIDGE - WING_EAVES;
  const half = WING_MIDDLE - left;
  const eave = 0.28;
  const drop = (rise / half) * eave;
  add('Wing: roof', 'Zinc', [
    ...roofPlane([right + eave, WING_EAVES - drop, FRONT - 1], [0, 0, WING_FRONT + 1.25 - FRONT], [-half - eave, rise + drop, 0], 0.12, 0.6),
    ...roofPlane([left - eave, WING_EAVES - drop, FRONT - 1], [0, 0, WING_FRONT + 1.25 - FRONT], [half + eave, rise + drop, 0], 0.12, 0.6),
  ]);
  const front = glazing('x', WING_FRONT - 0.2, wide, 4, [2.1]);
  const panes = side.map((one) => glazing('z', right - 0.15, one, 3, []));
  add('Wing: window frames', 'Bronze', [...front.bars, ...panes.flatMap(({ bars }) => bars)]);
  add('Wing: panes', 'Glass', [front.pane, ...panes.map(({ pane }) => pane)]);
  // Inside: a small room for children.
  add('Wing: floor', 'Oak', [box(left + 0.3, 0.0, WING_FRONT - 0.3, right - 0.3, 0.09, FRONT)]);
  add('Wing: lining', 'Plaster', [box(left + 0.3, 0.09, WING_FRONT - 0.35, left + 0.36, WING_EAVES - 0.1, FRONT), box(left + 0.3, 0.09, -3.9, right - 1.8, WING_EAVES - 0.1, -4), box(left + 0.3, WING_EAVES - 0.1, WING_FRONT - 0.3, right - 0.3, WING_EAVES - 0.04, FRONT)]);
  add('Wing: low shelves', 'Oak', [box(left + 0.4, 0.09, 0.9, left + 0.75, 1.2, -3.5), box(left + 0.4, 1.18, 0.9, left + 0.8, 1.22, -3.5)]);
  add('Wing: table', 'Oak', [box(-11.4, 0.66, 0.2, -9.2, 0.7, -1), ...[[-11.3, 0.1], [-9.3, 0.1], [-11.3, -0.9], [-9.3, -0.9]].map(([x, z]) => rod([x, 0.09, z], [x, 0.66, z], 0.03))]);
  add('Wing: books', 'Books', [books([-12.98, 0.3, 0.8], [-12.98, 0.3, -3.4], 0.28, [0.22, 0, 0], 81), books([-12.98, 1.22, 0.6], [-12.98, 1.22, -2.4], 0.28, [0.22, 0, 0], 82)]);
}

const books = (from: Triple, to: Triple, height: number, depth: Triple, seed: number): Shape => ({ kind: 'books', from, to, height, depth, seed });

/** The reading room in the hall. */
function readingRoom(): void {
  const [left, right] = [HALL[0] + THICK, HALL[1] - THICK];
  const [front, back] = [FRONT - THICK, BACK + THICK];
  add('Floor', 'Oak', [box(left, 0, front, right, 0.1, back), box(BAYS[DOOR_BAY].from, 0, FRONT, BAYS[DOOR_BAY].to, 0.1, front)]);
  add('Lining', 'Plaster', [box(left, 0.1, back, right, EAVES, back + 0.02), box(left, 0.1, front, left + 0.02, EAVES, back), gablePlate([[front, EAVES - 0.1], [back, EAVES - 0.1], [RIDGE_Z, RIDGE - 0.3]], left, left + 0.02), gablePlate([[front, EAVES - 0.1], [back, EAVES - 0.1], [RIDGE_Z, RIDGE - 0.3]], right - 0.02, right)]);
  // Ceiling boards follow the roof; the rooflight stays open.
  const rise = (RIDGE - EAVES) / (FRONT - RIDGE_Z);
  const under = 0.1;
  const at = (z: number) => EAVES - under + rise * (z < RIDGE_Z ? z - BACK : FRONT - z);
  const plane = (x0: number, x1: number, from: number, to: number) => slab([x0, at(from), from], [x1 - x0, 0, 0], [0, at(to) - at(from), to - from], [0, 0.03, 0]);
  add('Ceiling', 'Plaster', [plane(left, right, front, ROOFLIGHT_FRONT), plane(left, ROOFLIGHT[0], ROOFLIGHT_FRONT, RIDGE_Z), plane(ROOFLIGHT[1], right, ROOFLIGHT_FRONT, RIDGE_Z), plane(left, right, back, RIDGE_Z - 0.001)]);
  // Trusses: rafters, tie and king rod.
  const trusses: Shape[] = [];
  const ties: Shape[] = [];
  for (let i = 0; i < 6; i++) {
    const x = -3.0 + i * 3 + (i === 5 ? -0.2 : 0) - 0.09;
    for (const [from, to] of [[front, RIDGE_Z], [back, RIDGE_Z - 0.001]]) trusses.push(slab([x, at(from) - 0.26, from], [0.14, 0, 0], [0, at(to) - at(from), to - from], [0, 0.24, 0]));
    ties.push(rod([x + 0.07, EAVES - 0.3, front], [x + 0.07, EAVES - 0.3, back], 0.022), rod([x + 0.07, EAVES - 0.3, RIDGE_Z], [x + 0.07, RIDGE - 0.35, RIDGE_Z], 0.018));
  }
  add('Trusses', 'Oak', trusses);
  add('Ties', 'Steel', ties);

  // Shelves along the back wall, five boards high, with books.
  const shelves: Shape[] = [];
  const rows: Shape[] = [];
  const depth = 0.34;
  for (let i = 0; i < 9; i++) {
    const x = left + 0.25 + i * 1.92;
    shelves.push(box(x, 0.1, back + 0.02, x + 0.045, 3.12, back + depth));
    shelves.push(box(x + 0.045, 0.16, back + 0.02, x + 1.92, 0.42, back + depth - 0.03));
    for (let k = 0; k < 7; k++) {
      shelves.push(box(x, 0.42 + k * 0.45, back + 0.02, x + 1.92, 0.455 + k * 0.45, back + depth));
      if (k < 6) rows.push(books([x + 0.07, 0.455 + k * 0.45, back + 0.08], [x + 1.88, 0.455 + k * 0.45, back + 0.08], 0.36, [0, 0, 0.22], 100 + i * 10 + k));
    }
  }
  shelves.push(box(left + 0.25, 3.12, back + 0.02, left + 0.25 + 9 * 1.92, 3.17, back + depth + 0.02), box(left + 0.25, 0.1, back + 0.02, left + 0.25 + 9 * 1.92, 0.16, back + depth - 0.08));
  add('Shelves', 'Oak', shelves);
  add('Books on the back wall', 'Books', rows);

  // Low cases between the piers, long tables, chairs.
  const tables: Shape[] = [];
  const legs: Shape[] = [];
  const chairs: Shape[] = [];
  const seats: Shape[] = [];
  for (const [x, z] of [[-2.6, -9.4], [1.6, -9.4], [5.8, -9.4], [-2.6, -12.2], [1.6, -12.2], [5.8, -12.2]]) {
    tables.push(box(x - 1.45, 0.8, z - 0.48, x + 1.45, 0.845, z + 0.48));
    for (const dx of [-1.3, 1.3]) legs.push(box(x + dx - 0.03, 0.1, z - 0.42, x + dx + 0.03, 0.8, z - 0.36), box(x + dx - 0.03, 0.1, z + 0.36, x + dx + 0.03, 0.8, z + 0.42), box(x + dx - 0.03, 0.74, z - 0.36, x + dx + 0.03, 0.8, z + 0.36));
    for (const [k, dx] of [-0.95, 0, 0.95].entries()) {
      for (const side of [-1, 1]) {
        const cx = x + dx + 0.05 * ((k + (side > 0 ? 1 : 2)) % 3);
        const cz = z + side * (0.66 + 0.08 * ((k * 2 + (side > 0 ? 1 : 0)) % 3));
        seats.push(box(cx - 0.21, 0.54, cz - 0.21, cx + 0.21, 0.57, cz + 0.21), box(cx - 0.21, 0.8, cz + side * 0.19, cx + 0.21, 0.98, cz + side * 0.21));
        for (const [a, b] of [[-0.19, -0.19], [0.19, -0.19], [-0.19, 0.19], [0.19, 0.19]]) chairs.push(rod([cx + a, 0.1, cz + b], [cx + a, b * side > 0 ? 0.98 : 0.54, cz + b], 0.014, 8));
      }
    }
  }
  add('Tables', 'Oak', tables);
  add('Table legs', 'Steel', legs);
  add('Chair seats', 'Oak', seats);
  add('Chair frames', 'Steel', chairs);
  add('Books on the tables', 'Books', [box(-3.2, 0.845, -9.55, -2.95, 0.89, -9.35), box(-3.19, 0.89, -9.54, -2.98, 0.92, -9.36), box(0.9, 0.845, -9.3, 1.14, 0.87, -9.12), box(2.1, 0.845, -12.1, 2.32, 0.91, -11.9), box(5.3, 0.845, -9.5, 5.52, 0.9, -9.28)]);
  add('Window seats', 'Oak', BAYS.filter((_, i) => i !== DOOR_BAY).map(({ from, to }) => box(from, 0.1, front, to, 0.5, front - 0.42)));
}

/** Ground, water, paths, walls. */
const POOL = { from: 2.1, to: 5.9, near: 10.2, far: -3.2 };

function yard(): void {
  const level = -0.06;
  add('Gravel', 'Gravel', [box(-30, level - 0.1, 40, POOL.from - 0.3, 0, -60), box(POOL.to + 0.3, level - 0.1, 40, 12.2, 0, -60), box(POOL.from - 0.3, level - 0.1, 40, POOL.to + 0.3, 0, POOL.near + 0.3), box(POOL.from - 0.3, level - 0.1, POOL.far - 0.3, POOL.to + 0.3, 0, -60)]);
  add('Pool rim', 'Pool stone', [
    box(POOL.from - 0.3, -0.5, POOL.near + 0.3, POOL.from, 0.05, POOL.far - 0.3), box(POOL.to, -0.5, POOL.near + 0.3, POOL.to + 0.3, 0.05, POOL.far - 0.3),
    box(POOL.from, -0.5, POOL.near + 0.3, POOL.to, 0.05, POOL.near), box(POOL.from, -0.5, POOL.far, POOL.to, 0.05, POOL.far - 0.3), box(POOL.from, -0.52, POOL.near, POOL.to, -0.42, POOL.far),
  ]);
  add('Water', 'Water', [box(POOL.from, -0.42, POOL.near, POOL.to, -0.03, POOL.far)]);
  const slabs: Shape[] = [];
  const doorAt = (BAYS[DOOR_BAY].from + BAYS[DOOR_BAY].to) / 2;
  for (let i = 0; i < 13; i++) slabs.push(box(doorAt - 1.4, 0, 12.4 - i * 1.4, doorAt + 1.1, 0.035, 12.4 - i * 1.4 - 1.385));
  slabs.push(box(doorAt - 2.4, 0, FRONT + 0.1, doorAt + 2.4, 0.06, FRONT + 1.2));
  for (let i = 0; i < 12; i++) slabs.push(box(HALL[0] + i * 1.5, 0, FRONT + 0.1, HALL[0] + i * 1.5 + 1.485, 0.03, FRONT + 1.15));
  add('Path', 'Concrete', slabs);
  // Rails of the brickworks' wagons, left in the gravel.
  add('Rails', 'Steel', [-3.75, -3.0].map((x) => box(x - 0.03, 0, 18, x + 0.03, 0.022, FRONT + 1.2)));
  add('Sleepers', 'Concrete', Array.from({ length: 30 }, (_, i) => box(-4.05, 0, 17.9 - i * 0.76, -2.7, 0.008, 17.9 - i * 0.76 - 0.24)));
  // The old yard wall, and the foot and shaft of the chimney behind the hall.
  add('Yard wall', 'Old brick', [...wall('z', FRONT + 0.2, 16, 12.3, 12.72, 0, 2.3, [{ from: 5.2, to: 7.4, low: 0, high: 2.0 }]), box(12.24, 2.3, FRONT + 0.2, 12.78, 2.42, 16), ...[-5.4, -0.6, 4.2, 8.4, 13].map((z) => box(12.16, 0, z, 12.3, 2.3, z + 0.5))]);
  add('Chimney', 'Old brick', [box(7.4, 0, -20.2, 10.6, 7.6, -23.4), box(7.2, 7.6, -20, 10.8, 7.95, -23.6), rod([9, 7.95, -21.8], [9, 23.2, -21.8], 1.28, 28, 0.92), rod([9, 23.2, -21.8], [9, 23.75, -21.8], 1.1, 28), rod([9, 21.9, -21.8], [9, 22.1, -21.8], 1.03, 28)]);
  add('Chimney bands', 'Steel', [10.5, 13.5, 16.5, 19.5].map((y) => rod([9, y, -21.8], [9, y + 0.09, -21.8], 1.31 - ((y - 7.95) / 15.25) * 0.36, 28)));
  add('Bench', 'Timber slats', [...[0, 1, 2, 3].map((i) => box(7.3 + i * 0.13, 0.43, 2.6, 7.41 + i * 0.13, 0.47, -0.2))]);
  add('Bench feet', 'Steel', [box(7.34, 0.0, 2.2, 7.74, 0.43, 2.14), box(7.34, 0.0, 0.3, 7.74, 0.43, 0.24)]);
  add('Bicycle stands', 'Steel', [-5.2, -4.4, -3.6].flatMap((x) => [rod([x, 0, -3.2], [x, 0.8, -3.2], 0.022), rod([x, 0, -2.5], [x, 0.8, -2.5], 0.022), rod([x, 0.8, -3.2], [x, 0.8, -2.5], 0.022)]));
  add('Lamp posts', 'Steel', POSTS.flatMap(([x, z]) => [rod([x, 0, z], [x, 3.1, z], 0.045, 12, 0.032), rod([x, 0, z], [x, 0.25, z], 0.075, 12), rod([x, 3.36, z], [x, 3.39, z], 0.2, 20, 0.05)]));
  add('Path lights', 'Steel', PATH_LIGHTS.flatMap(([x, z]) => [box(x - 0.03, 0, z - 0.03, x + 0.03, 0.5, z + 0.03), box(x - 0.03, 0.5, z - 0.04, x + 0.16, 0.525, z + 0.04)]));
  add('Wall lights', 'Bronze', WALL_LIGHTS.map((x) => rod([x, 3.0, FRONT + 0.12], [x, 3.34, FRONT + 0.12], 0.055, 14)));
}

const POSTS: readonly (readonly [number, number])[] = [[6.9, 1.6], [-2.9, -2.6], [-4.0, 6.4]];
const PATH_LIGHTS: readonly (readonly [number, number])[] = [[-0.95, 7.6], [-0.95, 3.4], [-0.95, -0.8], [-0.95, -4.2]];
const WALL_LIGHTS = BAYS.slice(1).map(({ from }) => from - 0.4);

function plants(): void {
  const bed = (x0: number, z0: number, x1: number, z1: number, count: number, height: number, seed: number): Shape => ({ kind: 'blades', min: [Math.min(x0, x1), 0, Math.min(z0, z1)], max: [Math.max(x0, x1), 0, Math.max(z0, z1)], count, height, widthMetres: 0.014, seed });
  add('Grass beds', 'Grass', [
    box(8.2, -0.02, 14, 12.2, 0.03, -4.6), box(-6.1, -0.02, 3.4, -4.7, 0.03, -1.8), box(-16, -0.02, 12, -7, 0.03, 2.6),
    bed(8.2, 14, 12.2, -4.6, 16_000, 0.34, 11), bed(-6.1, 3.4, -4.7, -1.8, 4500, 0.42, 12), bed(-16, 12, -7, 2.6, 13_000, 0.26, 13), bed(6.3, 10.2, 7.6, 3.2, 6000, 0.45, 14),
  ]);
  add('Reeds', 'Grass', [{ kind: 'blades', min: [6.25, 0, 4.6], max: [7.0, 0, 9.6], count: 1100, height: 1.0, widthMetres: 0.018, seed: 21 }, { kind: 'blades', min: [6.25, 0, -3.0], max: [6.7, 0, 0.4], count: 500, height: 0.9, widthMetres: 0.018, seed: 22 }]);
  const trees: readonly (readonly [number, number, number, number])[] = [[9.7, 3.4, 6.6, 5], [10.6, -0.6, 7.2, 6], [9.6, -4.4, 5.4, 7], [-5.4, 0.2, 5.6, 8], [-7.9, 5.8, 6.6, 9], [7.0, 5.0, 7.4, 10]];
  for (const [i, [x, z, height, seed]] of trees.entries()) {
    add(`Tree ${i + 1}: trunk`, 'Bark', [{ kind: 'trunk', at: [x, 0, z], height, seed }]);
    add(`Tree ${i + 1}: leaves`, 'Leaves', [{ kind: 'crown', at: [x, 0, z], height, seed, leaves: Math.round(height * 1100), leafMetres: 0.11 }]);
  }
}

/** What lies beyond: sheds, houses, woods to the horizon. */
function distance(): void {
  add('Meadow', 'Grass', [box(-260, -0.3, 60, 260, -0.08, -420), box(12.8, -0.08, 40, 60, -0.02, -60)]);
  const house = (x: number, z: number, width: number, depth: number, eaves: number, ridge: number): Shape[] => [box(x, 0, z, x + width, eaves, z - depth), prism([[x - 0.3, eaves], [x + width + 0.3, eaves], [x + width / 2, ridge]], z - depth, z)];
  add('Old sheds', 'Old brick', [...house(-30, -26, 12, 20, 4.2, 7.6), ...house(44, -52, 11, 20, 4, 7)]);
  add('Houses', 'Old houses', [...house(-34, -46, 10, 12, 6, 10), ...house(-22, -58, 9, 12, 5.4, 9), ...house(24, -84, 11, 13, 6, 10.4), ...house(40, -96, 10, 12, 5.6, 9.5), ...house(-52, -70, 14, 12, 5, 9)]);
  const woods: Shape[] = [];
  const trunks: Shape[] = [];
  const tree = (x: number, z: number, height: number, seed: number, leaves: number) => {
    woods.push({ kind: 'crown', at: [x, 0, z], height, seed, leaves, leafMetres: height * 0.055 });
    trunks.push({ kind: 'trunk', at: [x, 0, z], height, seed });
  };
  for (const [i, [x, z, height]] of [[-19, -24, 11], [-26, -33, 13], [-15, -40, 12], [19.5, -44, 8], [26, -16, 9], [30, -6, 10], [28.5, 6, 9], [-3, -52, 14], [35, -30, 12], [-40, -30, 13], [-21, -8, 10]].entries()) tree(x, z, height, 40 + i, 2600);
  for (let i = 0; i < 44; i++) tree(-150 + i * 7.4 + 3 * Math.sin(i * 2.3), -150 - 26 * Math.sin(i * 1.7) - (i % 3) * 14, 13 + 5 * Math.sin(i * 3.1), 70 + i, 520);
  add('Woods', 'Woods', woods);
  add('Woods: trunks', 'Bark', trunks);
  add('Hill', 'Woods', [{ kind: 'mesh', ...hill() }]);
}

/** An armchair by the windows, its back to the far end. Added last: numbers of objects are their places in the list. */
function armchair(): void {
  const [cx, cz] = [0.1, -7.75];
  add('Armchair', 'Felt', [
    box(cx - 0.38, 0.24, cz - 0.34, cx + 0.34, 0.5, cz + 0.34),
    box(cx - 0.36, 0.5, cz - 0.3, cx + 0.26, 0.56, cz + 0.3),
    box(cx - 0.4, 0.24, cz - 0.46, cx + 0.4, 0.7, cz - 0.33),
    box(cx - 0.4, 0.24, cz + 0.33, cx + 0.4, 0.7, cz + 0.46),
    box(cx + 0.28, 0.24, cz - 0.46, cx + 0.44, 1.02, cz + 0.46),
  ]);
  add('Armchair legs', 'Oak', [[-0.36, -0.4], [0.38, -0.4], [-0.36, 0.4], [0.38, 0.4]].map(([dx, dz]) => rod([cx + dx, 0.1, cz + dz], [cx + dx, 0.24, cz + dz], 0.025, 8)));
}

/** A wooded ridge as a cut-out: its upper edge is ragged with treetops. */
function hill(): { positions: number[]; indices: number[] } {
  const positions: number[] = [];
  const indices: number[] = [];
  const steps = 320;
  for (let i = 0; i <= steps; i++) {
    const x = -420 + (840 * i) / steps;
    const tops = 2.2 * Math.abs(Math.sin(i * 1.9)) + 1.6 * Math.abs(Math.sin(i * 3.7 + 1));
    const height = 66 + 16 * Math.sin(x * 0.009 + 0.2) + 7 * Math.sin(x * 0.027) + tops;
    positions.push(x, -2, -300, x, height, -380);
    if (i > 0) indices.push(i * 2 - 2, i * 2, i * 2 + 1, i * 2 - 2, i * 2 + 1, i * 2 - 1);
  }
  return { positions, indices };
}

hall();
wing();
readingRoom();
yard();
plants();
distance();

const WASHER = `IESNA:LM-63-2002
[TEST] invented for this scene
[LUMCAT] wall light, up and down
TILT=NONE
1 1000 1 19 1 1 2 0.11 0.11 0.34
1 1 20
0 10 20 30 40 50 60 70 80 90 100 110 120 130 140 150 160 170 180
0
620 560 410 230 95 30 10 4 2 1 2 4 10 30 95 230 410 560 620
`;

const INTERIOR = 'interior lamps';
const FACADE = 'facade lamps';
const YARD = 'yard lights';
const PENDANTS: readonly Triple[] = [-2.6, 1.6, 5.8].flatMap((x) => [-9.4, -12.2].map((z): Triple => [x, 2.45, z]));
add('Pendants', 'Bronze', PENDANTS.flatMap(([x, y, z]) => [rod([x, y + 0.14, z], [x, y + 0.2, z], 0.24, 28, 0.03), rod([x, y + 0.2, z], [x, 6.4, z], 0.006, 6)]));
armchair();

const lamps: LampDescription[] = [
  ...PENDANTS.map((center, i): LampDescription => ({ kind: 'sphere', name: `Pendant ${i + 1}`, group: INTERIOR, lumens: 9000, kelvin: 3300, center, radius: 0.11 })),
  // Linear lamps on the ties wash the room.
  ...[0, 1, 2, 3, 4].map((i): LampDescription => ({ kind: 'rectangle', name: `Linear lamp ${i + 1}`, group: INTERIOR, lumens: 30000, kelvin: 3900, corner: [-3 + i * 3 - 0.09, EAVES - 0.34, BACK + 1.4], u: [0.12, 0, 0], v: [0, 0, 6.6] })),
  // Strips at the head of the shelves.
  { kind: 'rectangle', name: 'Shelf lamp', group: INTERIOR, lumens: 36000, kelvin: 3600, corner: [-5.4, 3.5, BACK + 1.15], u: [17, 0, 0], v: [0, -0.09, 0.09] },
  { kind: 'rectangle', name: 'Wing lamp 1', group: INTERIOR, lumens: 24000, kelvin: 3500, corner: [-12.4, WING_EAVES - 0.16, -0.4], u: [4.6, 0, 0], v: [0, 0, 0.22] },
  { kind: 'rectangle', name: 'Wing lamp 2', group: INTERIOR, lumens: 24000, kelvin: 3500, corner: [-12.4, WING_EAVES - 0.16, -2.6], u: [4.6, 0, 0], v: [0, 0, 0.22] },
  ...WALL_LIGHTS.map((x, i): LampDescription => ({ kind: 'web', name: `Wall light ${i + 1}`, group: FACADE, lumens: 5000, kelvin: 3000, at: [x, 3.17, FRONT + 0.2], aim: [0, -1, 0], ies: WASHER })),
  { kind: 'rectangle', name: 'Canopy lamp', group: FACADE, lumens: 3500, kelvin: 3000, corner: [BAYS[DOOR_BAY].from, 2.835, FRONT + 0.9], u: [2.2, 0, 0], v: [0, 0, 0.08] },
  ...POSTS.map(([x, z], i): LampDescription => ({ kind: 'sphere', name: `Lamp post ${i + 1}`, group: YARD, lumens: 3000, kelvin: 3300, center: [x, 3.24, z], radius: 0.12 })),
  ...PATH_LIGHTS.map(([x, z], i): LampDescription => ({ kind: 'rectangle', name: `Path light ${i + 1}`, group: YARD, lumens: 700, kelvin: 3100, corner: [x + 0.04, 0.497, z - 0.035], u: [0.11, 0, 0], v: [0, 0, 0.07] })),
];

const cameras: readonly CameraDescription[] = [
  { name: 'courtyard', at: [-1.3, 1.62, 18.2], lookAt: [0.5, 4.75, -6], focalMillimetres: 27, sensorMillimetres: 36, shiftMillimetres: 0, upright: true, focus: null, exposure: { kind: 'automatic', stops: 0 } },
  { name: 'reading-room', at: [-5.3, 1.6, -10.3], lookAt: [6, 2.35, -11.1], focalMillimetres: 22, sensorMillimetres: 36, shiftMillimetres: 0, upright: true, focus: null, exposure: { kind: 'automatic', stops: 0 } },
];

export const kilnYard: SceneDescription = {
  format: 'tazzel-scene',
  version: 1,
  name: 'Kiln Yard Library',
  materials,
  objects,
  lamps,
  sun: { place: 'angles', azimuthDegrees: 240, altitudeDegrees: 7.5, lux: 2300, kelvin: 3100, angularDegrees: 0.7 },
  sky: { kind: 'daylight', turbidity: 3, lux: 950, clouds: 0.65 },
  cameras,
  fog: { distanceMetres: 70, heightMetres: 6, color: [0.96, 0.97, 1], forwardness: 0.55 },
};
