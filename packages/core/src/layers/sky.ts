import { viewOfCamera } from '../camera/view.ts';
import { alphaSource } from '../masks/read.ts';
import { findSource } from '../model/query.ts';
import { plainSight, prepareSky } from '../sky/pixel.ts';
import { cameraOrLevel, photographMap, pictureOfSky, skyParams, skyPicture } from './sky-values.ts';
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
  begin: ({ sun }) => ({ wrapPercent: 10, ...(sun ? {} : { sunFrom: 'own' as const }) }),
  uses: ({ document, values }) => {
    const alpha = alphaSource(values, document);
    return alpha ? [alpha.id] : [];
  },
  problem: ({ document, values }) => {
    const source = findSource(document, pictureOfSky(values) ?? '');
    if (!source || values.look !== 'environment') return null;
    const { width, height } = source.fit ?? source;
    return Math.abs(width / height - 2) > 0.02 ? `“${source.name}” has ${width} × ${height} pixels. A picture of everything around is twice as wide as high; take it as a photograph.` : null;
  },
  origin: (values, { document, source: read, below, coveredBy, coveredByMask, oldSky, softened, around, placed }) => {
    const alpha = alphaSource(values, document);
    const known = alpha && read(alpha.id);
    const masked = !known && values.edges === 'exchange' ? coveredByMask() : null;
    const covering = known ? coveredBy(known) : masked;
    const picture = skyPicture(values, document);
    const under = covering && values.edges === 'exchange' ? below() : null;
    const view = viewOfCamera(cameraOrLevel(document), document.size);
    const named = pictureOfSky(values);
    const shown = named ? read(named) : null;
    // Its picture is still to be chosen.
    if (named !== null && !shown) return null;
    const wrap = under === null ? 0 : values.wrapPercent / 100;
    const sight = { ...plainSight(view), hasAlpha: covering !== null, exchanges: under !== null, isRead: shown !== null, wrap };
    const asIs = (from: Factor['from']): Factor => ({ from, scale: null, load: 'as-is' });
    const reads: (Factor | null)[] = [
      covering ? covering.factor : null,
      under === null ? null : asIs({ kind: 'picture', node: under }),
      under === null || !covering ? null : asIs({ kind: 'picture', node: oldSky(under, covering) }),
      shown && asIs({ kind: 'picture', node: values.look === 'environment' ? around(shown, view, (values.turnDegrees * Math.PI) / 180) : placed(shown, photographMap(values, { x: shown.x, y: shown.y, ...(shown.fit ?? { width: shown.width, height: shown.height }) }, view, document.size)) }),
      wrap === 0 || !covering ? null : { ...asIs({ kind: 'picture', node: softened(covering.node(), values.wrapPx) }), isGrey: true },
    ];
    return { from: { kind: 'formula', formula: 'sky', prepared: prepareSky(picture, sight), of: { ...picture, ...sight }, reads }, domain: 'light', bounded: false, scale: null, domainRegion: null, holdsMask: masked !== null };
  },
});
