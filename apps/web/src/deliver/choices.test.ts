import { type FlatFormat, flatFormatById } from '@tazzel/formats';
import { describe, expect, it } from 'vitest';
import { FIRST, valuesOf, withValues } from './choices.ts';

const [png, tiff, jpeg, webp] = ['png', 'tiff', 'jpeg', 'webp'].map((id) => flatFormatById(id) as FlatFormat);

describe('how a picture is delivered', () => {
  it('author and resolution are set once for all formats that have them; everything else is of its format', () => {
    const chosen = withValues(FIRST, png, { author: 'A. Nobody', dpi: 300, bits: '16', space: 'oprgb' });
    expect(valuesOf(png, chosen)).toMatchObject({ author: 'A. Nobody', dpi: 300, bits: '16', space: 'oprgb' });
    expect(valuesOf(tiff, withValues(chosen, png, { bits: '8' }))).toMatchObject({ author: 'A. Nobody', dpi: 300, bits: '16', space: 'srgb' });
    expect(valuesOf(jpeg, chosen)).toMatchObject({ author: 'A. Nobody', dpi: 300, quality: 92, space: 'srgb' });
    expect(valuesOf(webp, chosen)).not.toHaveProperty('dpi');
    expect(valuesOf(png, withValues(chosen, webp, { title: 'Yard', quality: 40 }))).toMatchObject({ title: 'Yard', space: 'oprgb' });
  });
  it('what was kept by an earlier version and is none any more is the default', () => {
    expect(valuesOf(png, { ...FIRST, values: { png: { bits: '12' } } })).toMatchObject({ bits: '8' });
  });
});
