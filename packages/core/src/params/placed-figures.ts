import { isConvex } from '../raster/homography.ts';
import { LIMITS, withinCoordinates } from '../limits.ts';
import { clamp, isList, isNumber, jsonIn, type ParamHead, type ParamKind, Unfit } from './define.ts';
import type { Place } from './places.ts';

/** A cut-out picture that stands somewhere in the one that it is put into. */
export interface PlacedFigure {
  /** The picture, which has an alpha. */
  readonly sourceId: string;
  /** Where its foot is seen, in pixels of the full picture. */
  readonly at: Place;
  /** How high the ground is there (or, for what flies, how high it is), in metres of the camera's world. */
  readonly groundMetres: number;
  /** From its foot to its top. */
  readonly heightMetres: number;
  /** Left and right exchanged. */
  readonly mirrored: boolean;
  /** Leaning about its foot, clockwise. */
  readonly leanDegrees: number;
  /** Where its foot lies in its own picture, as shares of width and height from the upper left corner. */
  readonly foot: Place;
  /** Where its top lies, as a share of the height. */
  readonly top: number;
  /** Where the corners of its picture are pulled to (upper left and right, lower left and right), as shares of its width and height when it stands straight. */
  readonly corners?: readonly Place[];
  /** Places of its picture that are known, as shares: by them it is held. */
  readonly points?: readonly Place[];
  /** At which share of its picture's height the camera that photographed it looked level. */
  readonly eyeLevel?: number;
  /** From how many metres away it was photographed. */
  readonly fromMetres?: number;
}

/** Cut-out pictures, each with the place where it stands. */
export type FiguresParam = ParamHead<'figures', readonly PlacedFigure[]>;
export const placedFigures = (param: Omit<FiguresParam, 'kind' | 'default'>): FiguresParam => ({ kind: 'figures', default: [], ...param });

/** Heights of what is stood up, in metres. */
export const FIGURE_METRES = [0.02, 60] as const;
export const MOST_FIGURES = 200;
/** A foot may lie a little outside of its picture; a top must lie over it. */
const [FOOT_SPAN, LEAST_SPAN] = [1, 0.01];
const METRES = 100_000;

/** It is held by at most so many points. */
export const MOST_POINTS = 4;
/** Corners are pulled at most so many widths and heights away; an eye level lies at most so many heights over or under its picture. */
const [FARTHEST_CORNER, FARTHEST_LEVEL] = [20, 20];
export const FROM_METRES = [0.1, 500] as const;

const EXPECTED = `figures, at most ${MOST_FIGURES}, each with a picture, a place and a height`;

const isPlace = (given: unknown): given is Place => isList(given, 2);
/** Corners that a picture can be pulled to: not too far away, around an area without a dent. */
export const areCorners = (given: unknown): given is readonly Place[] => Array.isArray(given) && given.length === 4 && given.every((corner) => isPlace(corner) && corner.every((share) => Math.abs(share) <= FARTHEST_CORNER)) && isConvex(given as Place[]);

function figureRead(given: unknown): PlacedFigure | null {
  if (typeof given !== 'object' || given === null) return null;
  const { sourceId, at, groundMetres, heightMetres, mirrored, leanDegrees, foot, top, corners, points, eyeLevel, fromMetres, ...others } = given as Record<string, unknown>;
  if (Object.keys(others).length > 0 || typeof sourceId !== 'string' || sourceId === '' || sourceId.length > LIMITS.id || !isList(at, 2) || !isList(foot, 2)) return null;
  if (!isNumber(groundMetres) || !isNumber(heightMetres) || !isNumber(leanDegrees) || !isNumber(top) || typeof mirrored !== 'boolean') return null;
  if (foot.some((share) => share < -FOOT_SPAN || share > 1 + FOOT_SPAN) || top < -FOOT_SPAN || top > foot[1] - LEAST_SPAN) return null;
  if (corners !== undefined && !areCorners(corners)) return null;
  if (points !== undefined && !(Array.isArray(points) && points.length <= MOST_POINTS && points.every(isPlace))) return null;
  if ((eyeLevel !== undefined && !isNumber(eyeLevel)) || (fromMetres !== undefined && !isNumber(fromMetres))) return null;
  const photographed = { ...(corners && { corners }), ...(points?.length && { points }), ...(eyeLevel !== undefined && { eyeLevel: clamp(eyeLevel, -FARTHEST_LEVEL, FARTHEST_LEVEL) }), ...(fromMetres !== undefined && { fromMetres: clamp(fromMetres, ...FROM_METRES) }) };
  return { sourceId, at: [withinCoordinates(at[0]), withinCoordinates(at[1])], groundMetres: clamp(groundMetres, -METRES, METRES), heightMetres: clamp(heightMetres, ...FIGURE_METRES), mirrored, leanDegrees: clamp(leanDegrees, -180, 180), foot: [foot[0], foot[1]], top, ...photographed };
}

export const figuresKind: ParamKind<FiguresParam> = {
  read: (_, given) => {
    if (!Array.isArray(given) || given.length > MOST_FIGURES) return new Unfit(EXPECTED);
    const figures = given.map(figureRead);
    return figures.every((figure) => figure !== null) ? figures : new Unfit(EXPECTED);
  },
  write: (_, value) => JSON.stringify(value),
  parse: (_, text) => jsonIn(text),
  summary: (_, value) => (value.length === 1 ? 'one figure' : `${value.length} figures`),
  range: () => 'figures as JSON: picture, place, height, ground, foot, top',
  // Metres stay; where it is seen grows with the picture.
  scaled: (_, value, { across, down }) => value.map((figure) => ({ ...figure, at: [withinCoordinates(figure.at[0] * across), withinCoordinates(figure.at[1] * down)] as const })),
  names: { kind: 'element', ids: (value) => value.map(({ sourceId }) => sourceId), renamed: (value, to) => value.flatMap((figure) => (to(figure.sourceId) === null ? [] : [{ ...figure, sourceId: to(figure.sourceId) as string }])) },
};
