import type { StageId } from '@tazzel/editor';
import { buildUpStage } from './build-up.tsx';
import { deliverStage } from './deliver.tsx';
import { elementsStage } from './elements.tsx';
import { entourageStage } from './entourage.tsx';
import { lensStage } from './lens.tsx';
import { lightStage } from './light.tsx';
import type { Stage } from './stage.ts';
import { skyStage } from './sky.tsx';
import { surfacesStage } from './surfaces.tsx';

/** A stage without an entry does not compile. */
export const stageById: { readonly [K in StageId]: Stage } = { elements: elementsStage, 'build-up': buildUpStage, light: lightStage, surfaces: surfacesStage, sky: skyStage, entourage: entourageStage, lens: lensStage, deliver: deliverStage };
