/** Figures to begin with: pictures that scripts/make-figures.ts draws, with what they are; and what scripts/make-photograph.ts takes a photograph of. */
import rows from './shelf.json' with { type: 'json' };

export const FIGURE_GROUPS = { people: 'People', animals: 'Animals', things: 'Things', planting: 'Planting' } as const;
export type FigureGroup = keyof typeof FIGURE_GROUPS;

export interface ShelfFigure {
  readonly id: string;
  readonly label: string;
  readonly group: FigureGroup;
  /** Of its picture, `ID.png`, in pixels. */
  readonly width: number;
  readonly height: number;
  /** From its foot to its top. */
  readonly heightMetres: number;
  /** Where its foot lies in the picture, as shares of width and height. */
  readonly foot: readonly [x: number, y: number];
  /** It flies. */
  readonly aloft?: boolean;
  /** It sits: on something this high. */
  readonly seatMetres?: number;
  /** It is a photograph: where its camera looked level, as a share of the height, and from how far away it was taken. */
  readonly photographed?: { readonly eyeLevel: number; readonly fromMetres: number };
}

/** By scripts/make-photograph.ts, which says what they are. */
const PHOTOGRAPHS: readonly ShelfFigure[] = [{ id: 'delivery-van', label: 'Delivery van, a photograph', group: 'things', width: 550, height: 336, heightMetres: 1.86, foot: [0.56, 0.955], photographed: { eyeLevel: 0.228, fromMetres: 8.6 } }];

export const FIGURE_SHELF: readonly ShelfFigure[] = [...(rows as unknown as readonly ShelfFigure[]), ...PHOTOGRAPHS];

/** Birds are stood up so high, unless something else is said. Common practice, no published source. */
export const ALOFT_METRES = 9;
