/** Elements. */
import type { DocumentCamera } from '../../camera/camera.ts';
import type { DocumentSun } from '../../sun/sun.ts';
import { documentIn } from '../against.ts';
import { usedSourceIds } from '../layers.ts';
import { LIMITS, shortened } from '../../limits.ts';
import type { Source } from '../../model/model.ts';
import { findSource } from '../../model/query.ts';
import { type Handlers, named, refuse } from './define.ts';
import { withoutLight } from './light.ts';

type SourcePatch = Partial<Pick<Source, 'name' | 'encoding' | 'role' | 'alpha' | 'scale' | 'offset' | 'inSum' | 'fit' | 'x' | 'y'>>;

export type SourceEdit =
  | { type: 'add-sources'; sources: readonly Source[]; /** What their files say; taken where the document does not know better. */ camera?: DocumentCamera | null; sun?: DocumentSun | null }
  | { type: 'set-source'; sourceId: string; patch: SourcePatch }
  | { type: 'remove-source'; sourceId: string };

export const sourceEdits: Handlers<SourceEdit> = {
  'add-sources': {
    label: 'Add elements',
    apply: (document, { sources, camera, sun }) => {
      const known = new Set(document.sources.map((source) => source.id));
      const doubled = sources.find((source) => known.has(source.id));
      if (doubled) refuse(`The document already has a source with the id ${doubled.id}.`);
      return { ...document, sources: [...document.sources, ...sources.map(withinLimits)], camera: document.camera ?? camera ?? null, sun: document.sun ?? sun ?? null };
    },
  },
  'set-source': {
    label: 'Change element',
    apply: (document, { sourceId, patch }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      if (patch.alpha && (patch.alpha === 'none') !== (source.alphaChannel === null)) refuse(`${source.name} has ${source.alphaChannel ? 'an' : 'no'} alpha channel.`);
      const name = patch.name === undefined ? source.name : named(patch.name, 'an element', LIMITS.elementName);
      // What was found belongs to the role and the values that it was found with.
      const guess = patch.role === undefined ? source.guess : null;
      const isMended = patch.scale !== undefined || patch.offset !== undefined;
      const findings = source.findings.filter(({ kind }) => (patch.role === undefined || kind === 'copy') && !(isMended && (kind === 'inverted' || kind === 'normalised-depth')));
      return { ...document, sources: document.sources.map((other) => (other === source ? { ...source, ...patch, name, guess, findings } : other)) };
    },
  },
  'remove-source': {
    label: 'Remove element',
    apply: (document, { sourceId }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      if (usedSourceIds(document).has(sourceId)) refuse(`${source.name} is used by a layer. Delete the layer first.`);
      const state = document.states.find((each) => usedSourceIds(documentIn(document, each)).has(sourceId));
      if (state) refuse(`${source.name} is shown in the state “${state.name}”. Remove the state first.`);
      if (document.materials.some((material) => material.sourceId === sourceId)) {
        if (document.masks.length > 0) refuse(`Masks depend on ${source.name}. Remove the corrections that use them first.`);
        return { ...document, sources: document.sources.filter((other) => other !== source), materials: document.materials.filter((material) => material.sourceId !== sourceId) };
      }
      return { ...document, sources: document.sources.filter((other) => other !== source), light: withoutLight(document.light, sourceId), states: document.states.map((kept) => ({ ...kept, mix: kept.mix.filter((setting) => setting.sourceId !== sourceId) })) };
    },
  },
};

/** Texts that came with a file may be of any length. */
export function withinLimits(source: Source): Source {
  const { name, guess, findings } = source;
  const reason = guess && guess.reason.length > LIMITS.reason ? { ...guess, reason: shortened(guess.reason, LIMITS.reason) } : guess;
  const told = findings.length > LIMITS.findings || findings.some(({ sentence }) => sentence.length > LIMITS.sentence) ? findings.slice(0, LIMITS.findings).map((finding) => ({ ...finding, sentence: shortened(finding.sentence, LIMITS.sentence) })) : findings;
  return name.length > LIMITS.elementName || reason !== guess || told !== findings ? { ...source, name: shortened(name, LIMITS.elementName), guess: reason, findings: told } : source;
}
