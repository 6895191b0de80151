import { viewOfCamera } from '../camera/view.ts';
import { alphaSource } from '../masks/read.ts';
import { prepareSky } from '../sky/pixel.ts';
import { cameraOrLevel, skyParams, skyPicture } from './sky-values.ts';
import { defineLayer, type Factor } from './define.ts';

/** Another sky behind the building, in perspective. */
export const sky = defineLayer({
  id: 'sky',
  label: 'Sky',
  summary: 'Another sky behind the building: computed by sun and haze, with clouds; edges without a rim.',
  isPlaced: false,
  readsBelow: true,
  params: skyParams,
  nameOf: () => 'Sky',
  begin: ({ sun }) => (sun ? {} : { sunFrom: 'own' }),
  uses: ({ document, values }) => {
    const alpha = alphaSource(values, document);
    return alpha ? [alpha.id] : [];
  },
  origin: (values, { document, source: read, below, oldSky }) => {
    const alpha = alphaSource(values, document);
    const covered = alpha && read(alpha.id);
    const picture = skyPicture(values, document);
    const under = covered && values.edges === 'exchange' ? below() : null;
    const view = viewOfCamera(cameraOrLevel(document), document.size);
    const sight = { view, hasAlpha: covered !== null, exchanges: under !== null };
    const asIs = (from: Factor['from']): Factor => ({ from, scale: null, load: 'as-is' });
    const reads: (Factor | null)[] = [
      covered && asIs({ kind: 'source', sourceId: covered.id }),
      under === null ? null : asIs({ kind: 'picture', node: under }),
      under === null || !covered ? null : asIs({ kind: 'picture', node: oldSky(under, covered) }),
    ];
    return { from: { kind: 'formula', formula: 'sky', prepared: prepareSky(picture, sight), of: { ...picture, ...sight }, reads }, domain: 'light', bounded: false, scale: null, domainRegion: null };
  },
});
