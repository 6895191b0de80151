/** Schemes: what is changed while one is shown belongs to it; without it everything is as it was. */
import { describe, expect, it } from 'vitest';
import { after, material, smallDocument, source } from '../../../../tests/documents.ts';
import { randomParams } from '../../../../tests/random-params.ts';
import { seeded } from '../../../../tests/random.ts';
import { correctionById, corrections } from '../corrections/registry.ts';
import { CoreError } from '../errors.ts';
import type { TazzelDocument } from '../model/model.ts';
import { chainOf, findLayer, layersInOrder } from '../model/query.ts';
import { applyEdit, type Edit } from './edits.ts';
import { lostOverrides, recorded, underScheme } from './schemes.ts';
import { parseDocument, readDocument } from './schema.ts';
import { slotWords } from './slots.ts';

const plain = after(
  smallDocument(),
  { type: 'add-sources', sources: [source(8, { role: 'light-group', name: 'light_sun' }), source(9, { role: 'light-group', name: 'light_lamps' })] },
  { type: 'set-materials', sourceId: 'source-3', materials: [material(1, 'source-3')] },
  { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'white-balance' },
);
const looks = ({ buildUp, masks, tone, light, sun }: TazzelDocument) => ({ buildUp, masks, tone, mix: light.mix, sun });
const exposure = plain.buildUp.scene.at(-1)?.id ?? '';
const dusk = after(plain, { type: 'add-scheme', name: 'Dusk' }, { type: 'set-params', layerId: exposure, params: { exposureStops: -1 } }, { type: 'set-tone', tone: 'filmic', params: { white: 6 } }, { type: 'set-params', lightId: 'source-9', params: { intensityStops: 2 } });

describe('a scheme', () => {
  it('holds what was changed while it was shown, and nothing else', () => {
    expect(dusk.schemes.list[0].overrides.map(({ at, what, value }) => [at, what, typeof value === 'object' ? 'table' : value])).toEqual([
      [{ layerId: exposure }, 'params.exposureStops', -1],
      [{ part: 'tone' }, 'curve', 'table'],
      [{ lightId: 'source-9' }, 'params.intensityStops', 2],
    ]);
    expect(looks(underScheme(dusk, null))).toEqual(looks(plain));
    expect(looks(underScheme(underScheme(dusk, null), 'scheme-1'))).toEqual(looks(dusk));
    // Back to what it is without the scheme, it is no difference.
    const back = after(dusk, { type: 'set-params', layerId: exposure, params: { exposureStops: 0 } });
    expect(back.schemes.list[0].overrides).toHaveLength(2);
  });
  it('goes over what all begin with: what is changed without one is changed in all that do not say otherwise', () => {
    const changed = after(dusk, { type: 'choose-scheme', schemeId: null }, { type: 'set-params', layerId: exposure, params: { exposureStops: 0.5, gamma: 1.2 } }, { type: 'choose-scheme', schemeId: 'scheme-1' });
    expect(findLayer(changed, exposure)?.layer).toMatchObject({ correction: { params: { exposureStops: -1, gamma: 1.2 } } });
    // The next one begins with the one that is shown.
    const next = after(changed, { type: 'add-scheme', name: 'Night' }, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } });
    expect(next.schemes.list.map(({ overrides }) => overrides.length)).toEqual([3, 4]);
    expect(looks(underScheme(next, 'scheme-1'))).toEqual(looks(changed));
    expect(after(next, { type: 'remove-scheme', schemeId: 'scheme-2' }).schemes.chosenId).toBeNull();
  });
  it('new layers are seen in it alone, in groups, too; a group around old ones is seen everywhere', () => {
    const added = after(dusk, { type: 'add-layer', layer: 'fill', zone: 'scene' }, { type: 'add-ready-group', group: 'brighter-middle' });
    const [fill, group] = added.buildUp.scene.slice(-2);
    const without = underScheme(added, null);
    expect([fill, group].map(({ id }) => [findLayer(added, id)?.layer.visible, findLayer(without, id)?.layer.visible])).toEqual([[true, false], [true, false]]);
    const grouped = after(dusk, { type: 'group-layer', layerId: exposure });
    expect(findLayer(underScheme(grouped, null), exposure)?.groupIds.map((id) => findLayer(underScheme(grouped, null), id)?.layer.visible)).toEqual([true]);
  });
  it('what is gone stays in it, is named, and its ids are not given to anything else', () => {
    const gone = after(dusk, { type: 'remove-layer', layerId: exposure });
    expect(lostOverrides(gone, gone.schemes.list[0]).map(({ what }) => what)).toEqual(['params.exposureStops']);
    const anew = after(gone, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' });
    expect(anew.buildUp.scene.at(-1)?.id).not.toBe(exposure);
    expect(slotWords(gone, gone.schemes.list[0].overrides[0])).toBeNull();
    const cleared = after(gone, { type: 'remove-overrides', schemeId: 'scheme-1', slots: gone.schemes.list[0].overrides });
    expect([cleared.schemes.list[0].overrides, looks(cleared).tone]).toEqual([[], plain.tone]);
  });
  it('its differences have words', () => {
    const { overrides } = after(dusk, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5, visible: false } }).schemes.list[0];
    expect(overrides.map((override) => Object.values(slotWords(dusk, override) ?? {}).join(' | '))).toEqual(['Exposure | Exposure | -1.00 EV', 'Tone line | Curve | Filmic', 'light_lamps | Intensity | 2.00 EV', expect.stringMatching(/\| On \| no$/), expect.stringMatching(/\| Opacity \| 50 %$/)].map((words) => (typeof words === 'string' ? expect.stringContaining(words.split(' | ')[1]) : words)));
  });
  it('any changes there and back, in any order of schemes (seeds 1 … 20)', () => {
    for (let seed = 1; seed <= 20; seed++) {
      const random = seeded(seed);
      const among = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
      let document = plain;
      const seen = new Map<string | null, object>([[null, looks(plain)]]);
      for (let n = 0; n < 30; n++) {
        const { chosenId } = document.schemes;
        const { layer } = among(layersInOrder(document));
        const link = among([...chainOf(layer), null]);
        const type = link?.type ?? (layer.kind === 'correction' ? layer.correction.type : among(corrections).id);
        const edit = among<Edit>([
          { type: 'add-scheme', name: `S${n}` },
          { type: 'choose-scheme', schemeId: among([null, ...document.schemes.list.map(({ id }) => id)]) },
          ...(chosenId === null ? [] : [
            { type: 'set-params', layerId: layer.id, ...(link ? { correctionId: link.id } : {}), params: randomParams(correctionById(type).params, random) } as const,
            { type: 'set-layer', layerId: layer.id, patch: among([{ opacity: random() }, { visible: random() < 0.5 }, { mask: null }]) } as const,
            { type: 'set-params', lightId: 'source-8', params: { intensityStops: Math.round(random() * 40) / 10 } } as const,
            { type: 'set-tone', tone: among(['straight', 'filmic', 'reinhard']), params: {} } as const,
          ]),
        ]);
        try {
          document = applyEdit(document, edit);
        } catch (error) {
          expect(error).toBeInstanceOf(CoreError);
          continue;
        }
        if (edit.type === 'choose-scheme' || edit.type === 'add-scheme') expect(looks(document), `seed ${seed}, step ${n}`).toEqual(seen.get(edit.type === 'add-scheme' ? chosenId : edit.schemeId));
        seen.set(document.schemes.chosenId, looks(document));
      }
      expect(looks(underScheme(document, null))).toEqual(looks(plain));
      expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    }
  });
  it('a newer render and a new build-up are no difference of the scheme that is shown; values in pixels grow with the picture', () => {
    const soft = after(plain, { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' }, { type: 'add-scheme', name: 'Soft' });
    const id = soft.buildUp.scene.at(-1)?.id ?? '';
    const blurred = after(soft, { type: 'set-params', layerId: id, params: { sigmaPx: 4 } });
    const { width, height } = blurred.size;
    const larger = after(blurred, { type: 'refresh', sources: blurred.sources, materials: null, size: { width: 2 * width, height: 2 * height }, scales: true });
    expect(larger.schemes.list[0].overrides).toEqual([{ at: { layerId: id }, what: 'params.sigmaPx', value: 8 }]);
    const built = after(larger, { type: 'build', name: 'Anew', scene: [], picture: [] });
    expect(built.schemes).toBe(larger.schemes);
  });
  it('nothing is recorded where nothing is shown', () => {
    expect(recorded(plain, after(plain, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.2 } })).schemes).toBe(plain.schemes);
  });
});

describe('schemes in files', () => {
  const stored = () => JSON.parse(JSON.stringify(dusk)) as { schemes: { list: { overrides: { at: unknown; what: unknown; value: unknown }[] }[]; base: unknown[]; chosenId: unknown } };
  it('documents of before have none', () => {
    const { schemes: _, ...before } = plain;
    expect(parseDocument(before).schemes).toEqual({ list: [], chosenId: null, base: [] });
  });
  it.each([
    ['a value that does not fit', (file: ReturnType<typeof stored>) => { file.schemes.list[0].overrides.push({ at: { layerId: 'layer-1' }, what: 'opacity', value: 'much' }); }, /1 values of the scheme “Dusk” were left out/],
    ['a curve that is none', (file: ReturnType<typeof stored>) => { file.schemes.list[0].overrides[1].value = { type: 5 }; }, /1 values of the scheme “Dusk” were left out/],
    ['an address that is none', (file: ReturnType<typeof stored>) => { file.schemes.list[0].overrides[0].at = { constructor: 'x' }; }, /The scheme “Dusk” was left out: .*address/],
    ['a shown scheme that is missing', (file: ReturnType<typeof stored>) => { file.schemes.chosenId = 'scheme-9'; }, /scheme that was shown is missing/],
    ['no list', (file: ReturnType<typeof stored>) => { (file.schemes as { list: unknown }).list = 7; }, /list of schemes is missing/],
  ])('%s is named, and the rest is read', (_label, break_, sentence) => {
    const file = stored();
    break_(file);
    const { document, problems } = readDocument(file);
    expect(problems.join(' ')).toMatch(sentence);
    expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    for (const { id } of document.schemes.list) expect(() => applyEdit(document, { type: 'choose-scheme', schemeId: document.schemes.chosenId === id ? null : id })).not.toThrow();
  });
});
