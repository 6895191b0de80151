/** What a render says of its camera and its sun, for the files that are saved. */
import { type Camera, type CameraFacts, camera, defaultsOf, matricesOf, type Size, sunDirection, type Triple } from '@tazzel/core';
import { anglesOfSight } from '../trace/camera.ts';
import type { CameraDescription, SceneDescription } from './model.ts';

/** Settings of a camera that exposes as an exposure value (at ISO 100) says. @source ISO 2720:1974 */
export const settingsOf = (ev: number): Extract<CameraDescription['exposure'], { kind: 'settings' }> => ({ kind: 'settings', fNumber: 8, shutterSeconds: Math.min(3600, Math.max(1e-5, 64 / 2 ** ev)), iso: 100 });

/** A scene's camera as a document knows cameras. */
export function cameraOfScene(description: CameraDescription): Camera {
  const { at, focalMillimetres, sensorMillimetres, shiftMillimetres, focus, exposure } = description;
  const { slope, ...angles } = anglesOfSight(description);
  const settings = exposure.kind === 'settings' ? { fNumber: exposure.fNumber, shutterSeconds: exposure.shutterSeconds, iso: exposure.iso } : {};
  return {
    ...(defaultsOf(camera) as unknown as Camera),
    ...settings,
    ...(focus ? { focusMetres: focus.distanceMetres, fNumber: focus.fNumber } : {}),
    ...angles,
    focalMillimetres,
    sensorMillimetres,
    shiftY: shiftMillimetres + slope * focalMillimetres,
    heightMetres: at[1],
    eastMetres: at[0],
    southMetres: at[2],
  };
}

/** @param size the whole picture, also where only a region was rendered */
export function cameraFactsOf(description: CameraDescription, size: Size): CameraFacts {
  const { focus, exposure, focalMillimetres } = description;
  const { fNumber, shutterSeconds, iso, focusMetres } = cameraOfScene(description);
  return {
    ...matricesOf(cameraOfScene(description), size),
    focalMillimetres,
    ...(exposure.kind === 'settings' ? { fNumber, shutterSeconds, iso } : focus ? { fNumber } : {}),
    ...(focus ? { focusMetres } : {}),
  };
}

export const towardsSun = ({ sun }: SceneDescription): Triple | null => (sun ? sunDirection(sun).direction : null);
