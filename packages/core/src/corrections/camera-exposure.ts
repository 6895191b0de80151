import { exposureValue } from '../camera/camera.ts';
import { number } from '../params/number.ts';
import type { KeptValues } from '../params/table.ts';
import { defineCorrection } from './define.ts';
import { evenPower, powered } from './power.ts';

const fNumber = (label: string, help: string) => number({ label, unit: 'f/', min: 0.5, max: 256, default: 8, step: 0.1, digits: 1, usual: [1, 22], help });
const seconds = (label: string, help: string) => number({ label, unit: 's', min: 0.00001, max: 86_400, default: 1 / 125, step: 0.001, digits: 4, usual: [0.001, 1], help });
const speed = (label: string, help: string) => number({ label, unit: 'ISO', min: 1, max: 10_000_000, default: 100, step: 10, digits: 0, usual: [50, 6400], help });

/** Exposure by what a photographer sets: the light changes by the difference in exposure value between two settings. */
export const cameraExposure = defineCorrection({
  work: 'points',
  id: 'camera-exposure',
  label: 'Camera exposure',
  summary: 'Aperture, shutter and ISO instead of stops: from how it was rendered to how it should have been taken.',
  group: 'Light and tone',
  params: {
    fNumber: fNumber('Aperture', 'A smaller number lets in more light; what is out of focus stays as it is.'),
    shutterSeconds: seconds('Shutter', 'Twice as long is twice the light.'),
    iso: speed('Speed', 'Twice the speed is twice as bright.'),
    renderedFNumber: fNumber('Rendered at', 'Aperture of the render, as its file says or as it was set.'),
    renderedSeconds: seconds('Rendered for', 'Shutter of the render.'),
    renderedIso: speed('Rendered with', 'Speed of the render.'),
  },
  begin: (camera): KeptValues => (camera ? { fNumber: camera.fNumber, shutterSeconds: camera.shutterSeconds, iso: camera.iso, renderedFNumber: camera.fNumber, renderedSeconds: camera.shutterSeconds, renderedIso: camera.iso } : {}),
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ fNumber, shutterSeconds, iso, renderedFNumber, renderedSeconds, renderedIso }) => fNumber === renderedFNumber && shutterSeconds === renderedSeconds && iso === renderedIso,
  prepare: ({ fNumber, shutterSeconds, iso, renderedFNumber, renderedSeconds, renderedIso }) => evenPower({ factor: 2 ** (exposureValue(renderedFNumber, renderedSeconds, renderedIso) - exposureValue(fNumber, shutterSeconds, iso)), offset: 0, exponent: 1 }),
  pixel: powered,
  kernel: 'power',
  examples: [
    { fNumber: 8, shutterSeconds: 1 / 125, iso: 100, renderedFNumber: 8, renderedSeconds: 1 / 125, renderedIso: 100 },
    { fNumber: 4, shutterSeconds: 1 / 60, iso: 200, renderedFNumber: 8, renderedSeconds: 1 / 125, renderedIso: 100 },
    { fNumber: 16, shutterSeconds: 1 / 100, iso: 100, renderedFNumber: 8, renderedSeconds: 1 / 125, renderedIso: 400 },
  ],
  source: 'ISO 2720:1974: exposure value is log2(N² / t), and a stop more for twice the speed',
});
