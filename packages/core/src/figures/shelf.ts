/** Figures to begin with: pictures that scripts/make-figures.ts draws, with what they are. */
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
}

export const FIGURE_SHELF = rows as unknown as readonly ShelfFigure[];

/** Birds are stood up so high, unless something else is said. Common practice, no published source. */
export const ALOFT_METRES = 9;
