import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { build } from 'esbuild';
import { beforeAll, describe, expect, it } from 'vitest';
import { scratch } from '../../../tests/tools.ts';

const root = fileURLToPath(new URL('../../../', import.meta.url));
const core = join(root, 'packages/core/src');

/** A correction, a mask term and a kind of layer that the product does not have: a file each, and the line in the registry. */
const fixtures = {
  corrections: {
    file: `import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { evenPower, powered } from './power.ts';
export const fixture = defineCorrection({
  work: 'points', id: 'fixture-dim', label: 'Fixture: dim', summary: 'Takes light away.', group: 'Light and tone',
  params: { sharePercent: number({ label: 'Share', unit: '%', min: 0, max: 100, default: 50, step: 1, digits: 0, help: 'What is left.' }) },
  domain: 'light', zones: ['scene', 'picture'], isNoOp: ({ sharePercent }) => sharePercent === 100,
  prepare: ({ sharePercent }) => evenPower({ factor: sharePercent / 100, offset: 0, exponent: 1 }), pixel: powered,
  kernel: 'power', examples: [{ sharePercent: 20 }], source: 'a fixture of the tests',
});`,
    line: [/(export const corrections: readonly Correction\[\] = \[)/, 'fixture, '],
  },
  masks: {
    file: `import { number } from '../params/number.ts';
import { defineTerm } from './define.ts';
export const fixture = defineTerm({
  id: 'fixture-columns', label: 'Fixture: columns', summary: 'Every second column.',
  params: { first: number({ label: 'First', unit: 'px', min: 0, max: 100, default: 0, step: 1, digits: 0, help: 'Where it begins.' }) },
  reads: null, areShares: false, isSmooth: false, needs: () => [],
  prepare: ({ first }) => (_, out) => { for (let x = 0; x < out.length; x++) out[x] = (x + first) % 2 === 0 ? 1 : 0; },
  source: 'a fixture of the tests',
});`,
    line: [/(export const maskTerms: readonly TermSpec\[\] = \[)/, 'fixture, '],
  },
  layers: {
    file: `import { color } from '../params/color.ts';
import { defineLayer } from './define.ts';
import { prepareFill } from './fill-pixel.ts';
export const fixture = defineLayer({
  id: 'fixture-wash', label: 'Fixture: wash', summary: 'One colour, half covering.', isPlaced: false,
  params: { tint: color({ label: 'Tint', of: 'light', default: [1, 0, 0], help: 'Any.' }) },
  nameOf: () => 'Wash',
  origin: ({ tint }) => {
    const fill = { shape: 'plain', from: [tint[0], tint[1], tint[2], 0.5], to: [0, 0, 0, 0], start: [0, 0], end: [1, 1] } as const;
    return { from: { kind: 'formula', formula: 'fill', prepared: prepareFill(fill), of: fill, reads: [] }, domain: 'light', bounded: false, scale: null, domainRegion: null };
  },
});`,
    line: [/(LayerSpec\[\] = \[)/, 'fixture, '],
  },
} as const;

type Product = typeof import('./index.ts') & typeof import('../../../tests/pictures.ts');
let product: Product;

beforeAll(async () => {
  const folder = scratch();
  const entry = join(folder, 'entry.ts');
  writeFileSync(entry, `export * from '@tazzel/core'; export { draw } from ${JSON.stringify(join(root, 'tests/pictures.ts'))};`);
  const touched = new Set<string>();
  const made = await build({
    entryPoints: [entry],
    bundle: true,
    write: false,
    format: 'esm',
    platform: 'node',
    absWorkingDir: root,
    nodePaths: [join(root, 'node_modules')],
    plugins: [
      {
        name: 'fixtures',
        setup(on) {
          on.onResolve({ filter: /^@tazzel\/core$/ }, () => ({ path: join(core, 'index.ts') }));
          on.onResolve({ filter: /fixture\.ts$/ }, ({ path, importer }) => ({ path: join(dirname(importer), path) }));
          on.onLoad({ filter: /\/(corrections|masks|layers)\/(fixture|registry)\.ts$/ }, ({ path }) => {
            const room = path.split('/').at(-2) as keyof typeof fixtures;
            touched.add(relative(core, path));
            const { file, line } = fixtures[room];
            if (path.endsWith('fixture.ts')) return { contents: file, loader: 'ts' };
            const registry = readFileSync(path, 'utf8');
            if (!line[0].test(registry)) throw new Error(`${path} has no list to add to.`);
            return { contents: `import { fixture } from './fixture.ts';\n${registry.replace(line[0], `$1${line[1]}`)}`, loader: 'ts' };
          });
        },
      },
    ],
  });
  expect([...touched].sort()).toEqual(['corrections', 'layers', 'masks'].flatMap((room) => [`${room}/fixture.ts`, `${room}/registry.ts`]));
  const bundle = join(folder, 'product.mjs');
  writeFileSync(bundle, made.outputFiles[0].contents);
  product = (await import(pathToFileURL(bundle).href)) as Product;
});

describe('a correction, a mask term and a kind of layer are a file and a line each', () => {
  it('which is all that edits, files, addresses, the shell, keys and pixels need', () => {
    const { applyEdit, emptyDocument, newTerm, parseDocument, paramsAt, titleAt, planDocument, draw, valueFromText, correctionById, termSpec, layerSpec, evaluateMask, maskKey, whyNot } = product;
    const size = { width: 4, height: 2 };
    const begin = applyEdit(emptyDocument('d', 'D', size), { type: 'add-layer', layer: 'fixture-wash', zone: 'scene', params: { tint: [0.8, 0.4, 0.2] } });
    const masked = applyEdit(begin, { type: 'add-mask', name: 'Columns', terms: [newTerm('fixture-columns', 'add', begin)] });
    const added = { type: 'add-correction-layer', correction: 'fixture-dim', zone: 'scene', maskId: 'mask-1' } as const;
    expect(whyNot(masked, added)).toBeNull();
    const document = applyEdit(applyEdit(masked, added), { type: 'set-params', layerId: 'layer-2', params: { sharePercent: 25 } });
    expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    expect([titleAt(document, { layerId: 'layer-1' }), titleAt(document, { layerId: 'layer-2' }), titleAt(document, { maskId: 'mask-1', termId: 'term-1' })]).toEqual(['Wash', 'Fixture: dim', 'Columns: Fixture: columns']);
    expect(paramsAt(document, { maskId: 'mask-1', termId: 'term-1' })?.values).toEqual({ first: 0 });
    expect([valueFromText(correctionById('fixture-dim'), 'sharePercent', '30'), valueFromText(termSpec('fixture-columns'), 'first', '7'), valueFromText(layerSpec('fixture-wash'), 'tint', '#ffffff')]).toEqual([30, 7, [1, 1, 1]]);
    const moved = applyEdit(document, { type: 'set-params', maskId: 'mask-1', termId: 'term-1', params: { first: 1 } });
    expect(maskKey(moved, moved.masks[0])).not.toBe(maskKey(document, document.masks[0]));
    const plan = planDocument(document);
    const inputs = { size, level: 0, views: {}, mattes: {}, mixtures: {}, coverages: {}, pictures: {}, masks: {}, camera: null, materials: {} };
    const { pixels } = draw(plan, { source: () => undefined as never, mask: (key) => evaluateMask(plan.masks[key].mask, inputs), target: product.lightOf(plan) });
    // Half covering, dimmed to a quarter in every second column.
    expect([...pixels.planes.slice(0, 4)].map((value) => Math.round(value * 1e4) / 1e4)).toEqual([0.1, 0.4, 0.1, 0.4]);
  });
});

describe('nobody else knows one of them by its file', () => {
  const files = readdirSync(core, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts') && name !== 'index.ts');
  const importers = (file: string) => files.filter((other) => readFileSync(join(core, other), 'utf8').split('\n').some((line) => /^(import|export) .*from '/.test(line) && join(dirname(other), /from '([^']+)'/.exec(line)?.[1] ?? '') === file));
  /** What more than a registry may ask of them. */
  const known: Readonly<Record<string, string>> = {
    'masks/material.ts': 'which materials a mask names is asked by schedules, recipes, refresh',
    'masks/paint.ts': 'strokes have keys of their own, and the engine paints them once',
  };
  it.each(['corrections', 'masks', 'layers'])('%s', (room) => {
    const listed = [...readFileSync(join(core, room, 'registry.ts'), 'utf8').matchAll(/from '\.\/([^']+)'/g)].map(([, name]) => `${room}/${name}`).filter((name) => !name.endsWith('define.ts'));
    expect(listed.length).toBeGreaterThan(2);
    for (const file of listed) if (!Object.hasOwn(known, file)) expect(importers(file), file).toEqual([`${room}/registry.ts`]);
  });
});
