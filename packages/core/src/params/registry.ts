import { type BandsParam, bandsKind } from './bands.ts';
import { type ChoiceParam, choiceKind } from './choice.ts';
import { type ColorParam, colorKind } from './color.ts';
import { type CurveParam, curveKind } from './curve.ts';
import type { ParamKind } from './define.ts';
import { type DirectionParam, directionKind } from './direction.ts';
import { type FiguresParam, figuresKind } from './placed-figures.ts';
import { type FlagParam, flagKind } from './flag.ts';
import { type LutParam, lutKind } from './lut.ts';
import { type MomentParam, momentKind } from './moment.ts';
import { type NumberParam, numberKind } from './number.ts';
import { type PathsParam, pathsKind } from './paths.ts';
import { type PointParam, pointKind } from './point.ts';
import { type PlacesParam, placesKind } from './places.ts';
import { type ElementParam, elementKind, type LayerParam, layerKind, type MaskParam, maskKind, type MaterialsParam, materialsKind, type ScenarioParam, scenarioKind } from './references.ts';
import { type StrokesParam, strokesKind } from './strokes.ts';
import { type TextParam, textKind } from './text.ts';
import { type TonesParam, tonesKind } from './tones.ts';

export type Param = NumberParam | ChoiceParam | FiguresParam | FlagParam | ColorParam | PointParam | DirectionParam | CurveParam | BandsParam | TonesParam | ElementParam | LayerParam | LutParam | MomentParam | MaskParam | MaterialsParam | PathsParam | PlacesParam | ScenarioParam | StrokesParam | TextParam;
/** Plain JSON. */
export type ParamValue = Param['default'];
export type ValueOf<P extends Param> = P['default'];

/** Every kind of parameter. */
export const paramKinds: { readonly [K in Param['kind']]: ParamKind<Extract<Param, { kind: K }>> } = {
  number: numberKind,
  choice: choiceKind,
  figures: figuresKind,
  flag: flagKind,
  color: colorKind,
  point: pointKind,
  direction: directionKind,
  curve: curveKind,
  bands: bandsKind,
  tones: tonesKind,
  element: elementKind,
  layer: layerKind,
  lut: lutKind,
  moment: momentKind,
  mask: maskKind,
  materials: materialsKind,
  paths: pathsKind,
  places: placesKind,
  scenario: scenarioKind,
  strokes: strokesKind,
  text: textKind,
};

/** The kind of a parameter, for any of them. */
export const paramKind = (param: Param): ParamKind<Param> => paramKinds[param.kind] as unknown as ParamKind<Param>;
