import { expect, it } from 'vitest';
import type { FileReport } from './report.ts';
import { safeName, sourcesFromReport } from './sources.ts';

it('one letter says less of numbers than the name of the file in which they are alone', () => {
  const element = (name: string) => ({ name, colorChannels: [name], alphaChannel: null, types: ['f32'] });
  const rolesOf = (fileName: string, ...names: string[]) => {
    const report = { format: 'exr', fileName, byteLength: 1, premultiplied: true, elements: names.map(element), dataWindow: { x: 0, y: 0, width: 4, height: 4 }, displayWindow: { x: 0, y: 0, width: 4, height: 4 } };
    return sourcesFromReport(report as unknown as FileReport, 'hash', () => 'source-1').map(({ name, role }) => `${name}: ${role}`);
  };
  expect(rolesOf('house_distance.exr', 'Z')).toEqual(['house_distance: distance']);
  expect(rolesOf('house_depth_in_glass.0001.exr', 'Z')).toEqual(['house_depth_in_glass.0001: depth']);
  expect(rolesOf('house_refraction_depth.exr', 'Z')).toEqual(['house_refraction_depth: seen-depth']);
  // The name of a project says nothing, and beside others every channel has its own.
  expect(rolesOf('house.exr', 'Z')).toEqual(['Z: depth']);
  expect(rolesOf('house_beauty.exr', 'Z')).toEqual(['Z: depth']);
  expect(rolesOf('house_distance.exr', 'Z', 'N')).toEqual(['Z: depth', 'N: normals']);
});

it('file names are plain wherever they go', () => {
  expect(safeName('Kiln Yard: dusk')).toBe('kiln-yard-dusk');
  expect(safeName('  Hörsaal / Süd #2 ')).toBe('horsaal-sud-2');
  expect(safeName('図書館')).toBe('図書館');
  expect(safeName('../../:*?')).toBe('picture');
});

it('file names are such as every system takes', () => {
  for (const name of ['CON', 'nul', 'Com1', 'lpt9']) expect(safeName(name)).toBe(`${name.toLowerCase()}-picture`);
  expect(safeName('console')).toBe('console');
  expect(new TextEncoder().encode(safeName('図'.repeat(500))).length).toBeLessThanOrEqual(100);
  expect(safeName('x'.repeat(300))).toHaveLength(100);
  expect(safeName(`${'x'.repeat(59)} y`, 60)).toBe('x'.repeat(59));
});
