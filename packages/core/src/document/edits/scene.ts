/** Camera and sun of the place that the picture shows, and how its light becomes a picture. */
import { camera, type CameraOrigin, type DocumentCamera } from '../../camera/camera.ts';
import { completeParams, type KeptValues } from '../../params/table.ts';
import { type DocumentSun, sun } from '../../sun/sun.ts';
import { newTone } from '../../tone/registry.ts';
import type { Handlers } from './define.ts';

export type SceneEdit =
  /** Values that are not given stay; null forgets the camera. */
  | { type: 'set-camera'; params: KeptValues | null; from?: CameraOrigin }
  /** Another curve for the tone line; values that are not given are its defaults. */
  | { type: 'set-tone'; tone: string; params?: KeptValues }
  | { type: 'set-sun'; params: KeptValues | null; from?: DocumentSun['from'] };

export const sceneEdits: Handlers<SceneEdit> = {
  'set-camera': {
    label: 'Set the camera',
    apply: (document, { params, from = 'hand' }) => ({ ...document, camera: params === null ? null : { from, params: completeParams(camera, { ...document.camera?.params, ...params }) } }),
  },
  'set-tone': {
    label: 'Set the tone line',
    apply: (document, { tone, params = {} }) => ({ ...document, tone: newTone(tone, params) }),
  },
  'set-sun': {
    label: 'Set the sun',
    apply: (document, { params, from = 'hand' }) => ({ ...document, sun: params === null ? null : { from, params: completeParams(sun, { ...document.sun?.params, ...params }) } }),
  },
};

/** What newer files say, where nobody has set it otherwise. */
export const takenOver = <T extends DocumentCamera | DocumentSun>(now: T | null, found: T | null | undefined): T | null => (found && (now === null || now.from === 'file') ? found : now);
