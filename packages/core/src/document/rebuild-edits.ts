/** What the rebuild check found, as edits. */
import type { RebuildGuess } from '../elements/rebuild-search.ts';
import type { Source } from '../model/model.ts';
import type { Edit } from './edits.ts';

/** The edits that make a change, for one click; empty if it can only be made by rendering or saving again. */
export function guessEdits({ kind, sourceIds, factor, shift }: RebuildGuess, sources: readonly Source[]): Edit[] {
  const changed = sourceIds.flatMap((id) => sources.find((source) => source.id === id) ?? []);
  const last = changed.at(-1);
  if (!last || changed.length < sourceIds.length) return [];
  const patch = (source: Source, values: Extract<Edit, { type: 'set-source' }>['patch']): Edit => ({ type: 'set-source', sourceId: source.id, patch: values });
  switch (kind) {
    case 'without':
      return [patch(last, { inSum: 'out' })];
    case 'add':
      return [patch(last, last.role === 'picture' ? { role: 'other-light', inSum: 'in' } : { inSum: 'in' })];
    case 'double':
    case 'factor':
      return last.encoding === 'linear' ? [patch(last, { scale: last.scale * factor, offset: last.offset * factor })] : [];
    case 'encoding':
      return changed.map((source) => patch(source, { encoding: source.encoding === 'display' ? 'linear' : 'display' }));
    case 'shift':
      return changed.map((source) => patch(source, { x: source.x + shift.x, y: source.y + shift.y }));
    case 'glow':
      return [];
    default:
      return last.encoding === 'linear' ? [patch(last, { scale: last.scale / factor, offset: last.offset / factor })] : [];
  }
}
