/** Documents with layers, groups, chains and masks of every kind, from a seed. */
import { applyEdit, blendModesFor, chainOf, CORRECTION_BLENDS, correctionById, corrections, type Edit, layerSpec, layersInOrder, lightGroup, newTerm, type TazzelDocument, toneById, tones, UNPLACED, type Zone } from '@tazzel/core';
import { fillParams } from './documents.ts';
import { seeded } from './random.ts';
import { randomParams } from './random-params.ts';

/** `base` holds the elements; what cannot be done is left out. */
export function randomDocument(seed: number, base: TazzelDocument, edits = 28): TazzelDocument {
  const random = seeded(seed);
  const among = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const { width, height } = base.size;
  const between = (low: number, high: number) => low + random() * (high - low);
  let document = base;
  for (let i = 0; i < edits; i++) {
    const zone: Zone = among(['scene', 'picture']);
    const places = layersInOrder(document);
    const { layer } = among(places);
    const place = { zone, index: Math.floor(random() * 6), ...(random() < 0.3 ? { groupId: among(places.filter(({ layer: each }) => each.kind === 'group').map(({ layer: each }) => each.id).concat(['none'])) } : {}) };
    const blend = among(blendModesFor(zone)).id as never;
    const correction = among(corrections).id;
    const used = among(document.masks.map(({ id }) => id).concat(['none']));
    const found = among(places);
    const link = among([...chainOf(found.layer), null]);
    const type = link?.type ?? (found.layer.kind === 'correction' ? found.layer.correction.type : 'exposure');
    const params = randomParams(correctionById(type).params, random);
    const edit = among<Edit>([
      { type: 'add-layer', layer: 'element', params: { source: among(document.sources).id }, ...place, blend },
      { type: 'add-layer', layer: 'fill', ...place, blend, params: fillParams({ shape: among(['plain', 'linear', 'radial']), from: [random(), random(), random(), 1], to: [random(), random(), random(), random()], start: [between(0, width), between(0, height)], end: [between(0, width), between(0, height)] }) },
      { type: 'add-layer', layer: 'snapshot', params: { after: layer.id }, ...place },
      { type: 'add-layer', layer: 'light', ...place, blend },
      { type: 'add-layer', layer: 'air', ...place, params: { ...randomParams(layerSpec('air').params, random), source: among(document.sources).id } },
      { type: 'add-layer', layer: 'sky', ...place, params: { ...randomParams(layerSpec('sky').params, random), look: among(['clear', 'general', 'photograph']), photograph: among(document.sources).id, alpha: among(document.sources).id } },
      { type: 'add-layer', layer: 'mirrored-sky', ...place, params: { ...randomParams(layerSpec('mirrored-sky').params, random), reflection: among(document.sources).id, normals: among(document.sources).id } },
      { type: 'set-source', sourceId: among(document.sources).id, patch: { role: among(['light-group', 'gi', 'beauty']) } },
      { type: 'set-params', lightId: among(document.sources).id, params: randomParams(lightGroup.params, random) },
      { type: 'set-params', layerId: found.layer.id, params: { isRelit: random() < 0.7 } },
      { type: 'add-correction-layer', correction, ...place },
      { type: 'add-chain-correction', layerId: layer.id, correction },
      { type: 'set-params', layerId: found.layer.id, ...(link ? { correctionId: link.id } : {}), params },
      { type: 'set-params', layerId: found.layer.id, ...(link ? { correctionId: link.id } : {}), params },
      { type: 'set-correction-blend', layerId: found.layer.id, ...(link ? { correctionId: link.id } : {}), blend: among(CORRECTION_BLENDS) },
      { type: 'set-layer', layerId: layer.id, patch: { opacity: random() < 0.5 ? 1 : random(), mask: used === 'none' ? null : { maskId: used, inverted: random() < 0.5, enabled: true } } },
      { type: 'set-layer', layerId: layer.id, patch: { placement: { ...UNPLACED, offsetX: between(-99, 99), offsetY: Math.round(between(-50, 50)), scaleX: between(-1.5, 1.5), scaleY: between(0.1, 2), rotationDegrees: among([0, 90, between(-180, 180)]), filter: among(['mitchell', 'lanczos']) } } },
      { type: 'add-mask', name: 'Oval', terms: [newTerm('ellipse', 'add', document, { points: [[between(0, width), between(0, height)], [between(0, width), between(0, height)], [between(0, width), between(0, height)]] })] },
      { type: 'add-mask', name: 'Tones', terms: [newTerm('tone', 'add', document, { after: layer.id })] },
      { type: 'set-source', sourceId: among(document.sources).id, patch: { x: Math.floor(between(-150, 150)), y: Math.floor(between(-99, 99)) } },
      { type: 'set-tone', tone: among(tones).id },
      { type: 'set-params', part: 'tone', params: randomParams(toneById(document.tone.type).params, random) },
      { type: 'group-layer', layerId: layer.id },
      { type: 'set-layer', layerId: layer.id, patch: { isolated: random() < 0.5, opacity: 0.7 } },
    ]);
    try {
      document = applyEdit(document, edit);
    } catch {
      // Asked for something that is not there: the next one may be.
    }
  }
  // Few pictures are of everything around: one is made so.
  if (seed % 3 === 0) {
    const { id } = among(document.sources);
    document = applyEdit(applyEdit(document, { type: 'set-source', sourceId: id, patch: { fit: { width: 512, height: 256 } } }), { type: 'add-layer', layer: 'sky', zone: 'scene', params: { look: 'environment', environment: id, turnDegrees: between(-180, 180), alpha: among(document.sources).id } });
  }
  // Most of what would do nothing yet is set to something; what works across pixels is rare among the corrections, so it is added.
  const blurred = layersInOrder(document).find(({ layer }) => layer.kind === 'picture');
  const across = corrections.filter(({ work }) => work === 'neighbourhood');
  if (blurred) document = applyEdit(document, { type: 'add-chain-correction', layerId: blurred.layer.id, correction: across[seed % across.length].id });
  for (const { layer } of layersInOrder(document)) {
    for (const link of [...chainOf(layer), null]) {
      const use = link ?? (layer.kind === 'correction' ? layer.correction : null);
      if (use && random() < 0.7) document = applyEdit(document, { type: 'set-params', layerId: layer.id, ...(link ? { correctionId: link.id } : {}), params: randomParams(correctionById(use.type).params, random) });
    }
  }
  return document;
}
