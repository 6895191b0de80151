import { viewOfCamera } from '../camera/view.ts';
import type { Source, TazzelDocument } from '../model/model.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { element } from '../params/references.ts';
import { plainSight, prepareSky } from '../sky/pixel.ts';
import type { Triple } from '../vector.ts';
import { defineLayer, type Factor } from './define.ts';
import { cameraOrLevel, meanSkyLight, pictureOfSky, skyOfDocument, skyPicture, skyValuesOf } from './sky-values.ts';

const params = {
  takes: choice({ label: 'Seen', options: { direction: 'Where it is mirrored', mean: 'As its mean' }, default: 'direction', help: 'The new sky in the direction that each surface mirrors, by its normals; or all of it as one light.' }),
  old: color({ label: 'Old sky', of: 'light', default: [1, 1, 1], help: 'The mean light of the rendered sky: reflections are multiplied with the new one as a share of it.' }),
  fresh: color({ label: 'New sky', of: 'light', default: [1, 1, 1], help: 'The mean light of the new sky, for one that is a picture.', when: { takes: 'mean' } }),
  reflection: element({ label: 'Reflections', roles: ['reflection'], help: 'The element whose light is changed; the usual one, unless another is chosen.' }),
  normals: element({ label: 'Normals', roles: ['normals'], help: 'Where surfaces face; the usual element, unless another is chosen.', when: { takes: 'direction' } }),
};
const LEAST_LIGHT = 1e-4;

const chosen = (id: string, role: string, { sources }: TazzelDocument): Source | null => sources.find((source) => source.id === id) ?? sources.find((source) => source.role === role) ?? null;

/** The new sky in glass and water: what the element of reflections gains and loses when the old sky goes. Added to the light below. */
export const mirroredSky = defineLayer({
  id: 'mirrored-sky',
  label: 'Sky in reflections',
  summary: 'The new sky in glass and water: reflections in the light of the sky that is there now.',
  isPlaced: false,
  params,
  nameOf: () => 'Sky in reflections',
  problem: ({ document, values }) => {
    const layer = skyOfDocument(document);
    if (!layer) return 'the document has no sky of its own. Put one behind the building first.';
    if (!chosen(values.reflection, 'reflection', document)) return 'there is no element of reflections. Render one, or choose it.';
    if (values.takes === 'mean') return null;
    if (!chosen(values.normals, 'normals', document)) return 'there is no element of normals. Render one, or take the sky as its mean.';
    return pictureOfSky(skyValuesOf(layer.params)) === null ? null : 'a sky that is a picture is mirrored as its mean only.';
  },
  uses: ({ document, values }) => [chosen(values.reflection, 'reflection', document), values.takes === 'direction' ? chosen(values.normals, 'normals', document) : null].flatMap((source) => (source ? [source.id] : [])),
  origin: (values, { document, source: read }) => {
    const layer = skyOfDocument(document);
    const wanted = chosen(values.reflection, 'reflection', document);
    const reflection = wanted && layer?.visible ? read(wanted.id) : null;
    if (!layer || !reflection) return null;
    const own = skyValuesOf(layer.params);
    // As a share of the old sky; a black one would make it endless.
    const perOld = values.old.map((value) => 1 / Math.max(LEAST_LIGHT, value));
    const found = { domain: 'light', bounded: false, scale: null, domainRegion: null } as const;
    if (values.takes === 'mean') {
      const mean = pictureOfSky(own) === null ? meanSkyLight(own, document) : values.fresh;
      if (!mean) return null;
      return { ...found, from: { kind: 'sum', summands: [{ factors: [factorOf(reflection)], gain: mean.map((value, c) => value * perOld[c] - 1) as unknown as Triple }], plus: 0 } };
    }
    const facing = chosen(values.normals, 'normals', document);
    const normals = facing && read(facing.id);
    if (!normals || pictureOfSky(own) !== null) return null;
    const picture = skyPicture(own, document);
    // The sun itself has its own light in the render.
    const shown = { ...picture, hasDisc: false, gain: picture.gain.map((value, c) => value * perOld[c]) as unknown as Triple };
    const sight = { ...plainSight(viewOfCamera(cameraOrLevel(document), document.size)), mirrors: true };
    return { ...found, from: { kind: 'formula', formula: 'sky', prepared: prepareSky(shown, sight), of: { ...shown, ...sight }, reads: [null, factorOf(reflection), null, factorOf(normals)] } };
  },
});

const factorOf = ({ id, encoding, scale, offset }: Source): Factor => ({ from: { kind: 'source', sourceId: id }, scale: scale === 1 && offset === 0 ? null : { scale, offset }, load: encoding === 'display' ? 'to-light' : 'as-is' });
