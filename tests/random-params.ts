/** Values of any kind of parameter, by chance. */
import { HUE_FAMILIES, type Param, type ParamTable, type ParamValue } from '@tazzel/core';

export function randomValue(param: Param, random: () => number): ParamValue {
  const within = (min: number, max: number) => min + random() * (max - min);
  switch (param.kind) {
    case 'number': {
      const [low, high] = param.usual ?? [param.min, param.max];
      return within(low, high);
    }
    case 'choice': {
      const ids = Object.keys(param.options);
      return ids[Math.floor(random() * ids.length)];
    }
    case 'flag':
      return random() < 0.5;
    case 'color':
      return [random(), random(), random()];
    case 'point':
      return param.unit === '%' ? [within(0, 100), within(0, 100)] : [Math.floor(within(0, 100)), Math.floor(within(0, 100))];
    case 'direction':
      return [within(-1, 1), within(-1, 1), within(-1, 1)];
    case 'curve':
      return [[0, random()], [within(0.1, 0.45), random()], [within(0.55, 0.9), random()], [1, random()]];
    case 'bands':
      return HUE_FAMILIES.map(() => within(param.min, param.max));
    case 'element':
    case 'layer':
      return `${param.kind === 'element' ? 'source' : 'layer'}-${1 + Math.floor(random() * 4)}`;
    case 'figures':
      return Array.from({ length: Math.floor(random() * 3) }, (_, i) => ({ sourceId: `source-${1 + i}`, at: [within(0, 60), within(10, 40)] as const, groundMetres: within(-1, 1), heightMetres: within(0.3, 3), mirrored: random() < 0.5, leanDegrees: within(-20, 20), foot: [random(), within(0.6, 1)] as const, top: within(0, 0.4), ...(random() < 0.4 && { corners: [[within(0, 0.1), 0], [within(0.9, 1), 0], [0, 1], [1, within(0.8, 1)]] as const, points: [[random(), random()]] as const, eyeLevel: within(-1, 0.3), fromMetres: within(1, 20) }) }));
    case 'lut':
      return random() < 0.3 ? param.default : { name: 'Random', steps: [{ kind: 'matrix', values: Array.from({ length: 12 }, () => within(-0.3, 1)) }, { kind: 'range', low: 0, high: random() < 0.5 ? null : 2 }, { kind: 'cube', side: 2, low: [0, 0, 0], high: [1, 2, 1], values: 'AAAAAAAAADwAAAAAAAAAOAAAADwAOAAAAAAANAA8ADwANAA8AAAAOgA8ADwAOgA8' }] };
    case 'moment':
      return new Date(Math.floor(within(946684800000, 1893456000000) / 60000) * 60000).toISOString().replace(/:\d\d\.\d+/, '');
    case 'mask':
      return `mask-${1 + Math.floor(random() * 3)}`;
    case 'scenario':
      return random() < 0.5 ? '' : `scenario-${1 + Math.floor(random() * 2)}`;
    case 'materials':
      return Array.from({ length: Math.floor(random() * 4) }, (_, i) => `material-${i + 1}`);
    case 'paths':
      return Array.from({ length: Math.floor(random() * 3) }, () => Array.from({ length: 1 + Math.floor(random() * 3) }, () => [Math.floor(within(0, 60)), Math.floor(within(0, 40))] as const));
    case 'places':
      return Array.from({ length: param.least }, () => [Math.floor(within(0, 100)), Math.floor(within(0, 100))] as const);
    case 'strokes':
      return Array.from({ length: Math.floor(random() * 3) }, () => ({ erase: random() < 0.5, sizePx: within(1, 20), hardness: random(), opacity: random(), flow: random(), spacing: within(0.05, 1), path: [within(0, 50), within(0, 50), random()] }));
    case 'text':
      return ['', 'Kiln Yard', 'a, b = “c” <d>'][Math.floor(random() * 3)];
    case 'tones':
      return [within(param.min, param.max), within(param.min, param.max), within(param.min, param.max)];
  }
}

export const randomParams = (params: ParamTable, random: () => number): Record<string, ParamValue> => Object.fromEntries(Object.entries(params).map(([name, param]) => [name, randomValue(param, random)]));
