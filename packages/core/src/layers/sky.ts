import { viewOfCamera } from '../camera/view.ts';
import { alphaSource } from '../masks/read.ts';
import type { Source } from '../model/model.ts';
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
  origin: (values, { document, source: read, below, coveredBy, coveredByMask, oldSky, softened, around, placed, kept }) => {
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
    const asIs = (from: Factor['from']): Factor => ({ from, scale: null, load: 'as-is' });
    const covered = covering?.factor ?? null;
    const soft = wrap === 0 || !covering ? null : { ...asIs({ kind: 'picture' as const, node: softened(covering.node(), values.wrapPx) }), isGrey: true };
    const sight = { ...plainSight(view), hasAlpha: covering !== null, exchanges: under !== null, wrap };
    /** Clouds take many times as long as all that is done with them: their light is kept without exposure, edges and whatever lies around. */
    const clouded = () => {
      const [bare, alone] = [{ ...picture, gain: [1, 1, 1] as const }, { ...sight, exchanges: false, wrap: Math.ceil(wrap), isLight: true }];
      return kept({ kind: 'formula', formula: 'sky', prepared: prepareSky(bare, alone), of: { ...bare, ...alone }, reads: [covered, null, null, null, soft] });
    };
    const photograph = (source: Source) =>
      values.look === 'environment' ? around(source, view, (values.turnDegrees * Math.PI) / 180) : placed(source, photographMap(values, { x: source.x, y: source.y, ...(source.fit ?? { width: source.width, height: source.height }) }, view, document.size));
    const light = shown ? photograph(shown) : picture.clouds ? clouded() : null;
    const seen = { ...sight, isRead: light !== null };
    const lit = light === null ? picture : { ...picture, clouds: null };
    const reads: (Factor | null)[] = [
      covered,
      under === null ? null : asIs({ kind: 'picture', node: under }),
      under === null || !covering ? null : asIs({ kind: 'picture', node: oldSky(under, covering) }),
      light === null ? null : asIs({ kind: 'picture', node: light }),
      soft,
    ];
    return { from: { kind: 'formula', formula: 'sky', prepared: prepareSky(lit, seen), of: { ...lit, ...seen }, reads }, domain: 'light', bounded: false, scale: null, domainRegion: null, holdsMask: masked !== null };
  },
});
