/** How a kind of picture is declared: what it reads, and how its pixels are made. One file each, and a line in the registry. */
import type { Plane } from '../../raster/planes.ts';
import type { Region } from '../../raster/region.ts';
import type { Backend } from '../backend.ts';
import type { Pixels } from '../pixels.ts';
import type { RunTask } from '../run.ts';

/** A region of another picture. It may reach beyond that picture, whose outermost pixels then go on. */
export interface Need {
  readonly picture: number;
  readonly region: Region;
}

/** What a kind may use while it makes pixels. */
export interface Tools {
  /** Planes to write to come from its arena. */
  readonly backend: Backend;
  /** A region of another picture. */
  read(picture: number, region: Region): Pixels;
  mask(key: string): Plane;
  /** Runs steps pixel by pixel. */
  run(task: Omit<RunTask, 'level' | 'inputs'>): Pixels;
}

export interface PictureKind<W> {
  readonly inputs: (work: W) => readonly number[];
  /** What a region of it is made of. */
  readonly needs: (work: W, region: Region) => readonly Need[];
  /** `planes` is how many the picture has. */
  readonly make: (work: W, region: Region, planes: number, tools: Tools) => Pixels;
}
