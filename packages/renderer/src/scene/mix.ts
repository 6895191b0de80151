/** A light mix written into a scene's lamps: watts and colour, so that the next render is lit as the mix was. */
import { groupName, kelvinToLinearSrgb, luminanceOf } from '@tazzel/core';
import { type CameraDescription, lightGroups, REST_GROUP, type SceneDescription, SKY_GROUP, SUN_GROUP, type Triple } from './model.ts';

/** What a group's light is multiplied with. */
export interface GroupGain {
  /** As its element is called. */
  readonly name: string;
  readonly gain: Triple;
}

export interface RelitScene {
  readonly scene: SceneDescription;
  /** Groups that the scene does not have: their part of the mix is not in it. */
  readonly missing: readonly string[];
}

const sameName = (a: string, b: string) => plain(a) === plain(b);
const plain = (name: string) => groupName({ name }).toLowerCase().replace(/[\s_.-]+/g, ' ');
const isNone = (gain: Triple) => gain.every((value) => value === 1);

/** Watts carry how much brighter it becomes, and a filter the colour: only what is not grey needs one. */
function split(white: readonly number[], filter: Triple | undefined, gain: Triple): { readonly factor: number; readonly filter?: Triple } {
  const before = white.map((value, c) => value * (filter?.[c] ?? 1));
  const light = luminanceOf(before);
  const factor = light > 0 ? luminanceOf(before.map((value, c) => value * gain[c])) / light : 0;
  if (factor === 0) return { factor, ...(filter ? { filter } : {}) };
  const colour = gain.map((value, c) => ((filter?.[c] ?? 1) * value) / factor) as unknown as Triple;
  const isGrey = colour.every((value) => Math.abs(value - 1) < 1e-9);
  return { factor, ...(isGrey ? {} : { filter: colour }) };
}

/**
 * @param exposure how the old render was exposed: with an automatic camera the new one would be exposed anew
 */
export function sceneWithMix(scene: SceneDescription, gains: readonly GroupGain[], exposure: CameraDescription['exposure'] | null = null): RelitScene {
  const groups = lightGroups(scene);
  const gainOf = (group: string | null): Triple => gains.find(({ name }) => sameName(name, group ?? REST_GROUP))?.gain ?? [1, 1, 1];
  const lit = <T extends { readonly kelvin: number; readonly filter?: Triple }>({ filter, ...lamp }: T, gain: Triple, scaled: (factor: number) => object) => {
    if (isNone(gain)) return { ...lamp, ...(filter ? { filter } : {}) } as unknown as T;
    const { factor, ...colour } = split(kelvinToLinearSrgb(lamp.kelvin), filter, gain);
    return { ...lamp, ...scaled(factor), ...colour } as unknown as T;
  };
  const [sunGain, skyGain] = [gainOf(SUN_GROUP), gainOf(SKY_GROUP)];
  const { sun, skyFilter = [1, 1, 1] as Triple } = scene;
  const sky = skyFilter.map((value, c) => value * skyGain[c]) as unknown as Triple;
  // The sun’s lux may follow its altitude: then the filter carries all of it.
  const sunFilter = (sun?.filter ?? [1, 1, 1]).map((value, c) => value * sunGain[c]) as unknown as Triple;
  const { skyFilter: _, ...rest } = scene;
  return {
    scene: {
      ...rest,
      ...(isNone(sky) ? {} : { skyFilter: sky }),
      sun: sun && (isNone(sunGain) ? sun : { ...sun, filter: sunFilter }),
      lamps: scene.lamps.map((lamp) => lit(lamp, gainOf(lamp.group), (factor) => ({ lumens: lamp.lumens * factor }))),
      materials: scene.materials.map((material) => {
        const { surface } = material;
        return surface.kind === 'luminous' ? { ...material, surface: lit(surface, gainOf(surface.group), (factor) => ({ luminance: surface.luminance * factor })) } : material;
      }),
      cameras: exposure ? scene.cameras.map((camera) => ({ ...camera, exposure })) : scene.cameras,
    },
    missing: gains.filter(({ name, gain }) => !isNone(gain) && !groups.some((group) => sameName(name, group))).map(({ name }) => name),
  };
}
