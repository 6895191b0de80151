/** Names as they come from many hands: what they say, and what they do not. Common practice, no published source. */
import { describe, expect, it } from 'vitest';
import { guessRole, titleLength } from './guess.ts';

describe('names of elements', () => {
  it.each([
    ['light_lamp', 'light-group'],
    ['light_key', 'light-group'],
    ['light_fill', 'light-group'],
    ['LG_sun', 'light-group'],
    ['lg_fill', 'light-group'],
    ['lg', 'light-group'],
    ['sunlight', 'light-group'],
    ['lamps_kitchen', 'light-group'],
    ['transmission_direct', 'refraction'],
    ['transmission_indirect', 'refraction'],
    ['specular_direct', 'specular'],
    ['coat_direct', 'other-light'],
    ['coat_indirect', 'other-light'],
    ['sheen_indirect', 'other-light'],
    ['volume_direct', 'atmosphere'],
    ['volume_indirect', 'atmosphere'],
    ['subsurface_indirect', 'subsurface'],
    ['reflection_glossiness', 'measure'],
    ['reflectionIOR', 'measure'],
    ['volume_Z', 'measure'],
    ['motion_vectors', 'measure'],
    ['MotionVector', 'measure'],
    ['velocity', 'measure'],
    ['UV', 'measure'],
    ['roughness', 'measure'],
    ['matteShadow', 'shadow'],
    ['IndexOB', 'object-id'],
    ['IndexMA', 'material-id'],
    ['wirecolor', 'object-id'],
    ['Pworld', 'position'],
    ['RGB_color', 'beauty'],
    ['Noisy Image', 'beauty'],
    ['caustics', 'caustics'],
    ['aerial_perspective', 'atmosphere'],
    ['bloom', 'glare'],
    ['lens_glare', 'glare'],
    ['DepthZ', 'depth'],
    ['zbuf', 'depth'],
    ['Z_Refraction', 'seen-depth'],
    ['depth_in_glass_and_mirrors', 'seen-depth'],
    ['reflectionDepth', 'seen-depth'],
    ['gi_denoised', 'gi'],
    ['denoised_reflection', 'reflection'],
    ['denoised', 'denoised-beauty'],
    ['Spiegelung', 'reflection'],
    ['Selbstleuchten', 'self-illumination'],
    ['Umgebungsverdeckung', 'ambient-occlusion'],
    ['Hintergrund', 'background'],
    ['réflexion', 'reflection'],
    ['ombres', 'shadow'],
    ['profondeur', 'depth'],
    ['brouillard', 'atmosphere'],
    ['reflejos', 'reflection'],
    ['sombras', 'shadow'],
    ['profundidad', 'depth'],
    ['riflessi', 'reflection'],
    ['ombra', 'shadow'],
    ['nebbia', 'atmosphere'],
    ['sfondo', 'background'],
    ['illuminazione diretta', 'direct-lighting'],
  ])('%s is %s', (name, role) => expect(guessRole(name).role).toBe(role));
  it.each(['haus_P01', 'P3', 'N2', 'perspective P3', 'floor_N_02', 'plan A', 'section_B-B'])('a single letter in %s decides nothing', (name) => expect(guessRole(name).role).toBe('picture'));
  it.each(['P', 'N', 'Z', 'a'])('alone, as the name of a layer, %s says what it is', (name) => expect(guessRole(name).role).not.toBe('picture'));
  it('two meanings at once are a question, not an answer', () => {
    for (const name of ['shadow_reflection', 'depth of the emission', 'gi_normals']) expect(guessRole(name).confidence, name).toBeLessThan(0.5);
  });
});

describe('what all files of a set are called says nothing', () => {
  const parts = ['beauty', 'gi', 'reflection', 'refraction', 'specular', 'shadow', 'diffuse_filter', 'raw_lighting', 'depth', 'normals', 'material_id', 'ambient_occlusion', 'self_illumination', 'background', 'light_sun', 'light_lamp', 'alpha'];
  const roles = ['beauty', 'gi', 'reflection', 'refraction', 'specular', 'shadow', 'diffuse-filter', 'raw-lighting', 'depth', 'normals', 'material-id', 'ambient-occlusion', 'self-illumination', 'background', 'light-group', 'light-group', 'alpha'];
  it.each(['evening_light', 'lamp_shop', 'mirror_lake', 'hall_reflection_test', 'shadow_house_P01', 'Fog Hill', 'kiln_yard', 'diffuse_atelier', 'raw bar', 'LichtHaus', 'deep_id'])('%s', (project) => {
    const names = parts.map((part) => `${project}_${part}`);
    const title = titleLength(names);
    expect(names.map((name) => guessRole(name, null, [], title).role)).toEqual(roles);
  });
  it('but a set of nothing else is about it', () => {
    const names = ['light_sun', 'light_sky', 'light_lamp', 'light_rest'];
    expect(titleLength(names)).toBe(0);
    expect(names.map((name) => guessRole(name, null, [], titleLength(names)).role)).toEqual(Array(4).fill('light-group'));
    expect([titleLength(['beauty']), titleLength([])]).toEqual([0, 0]);
  });
});
