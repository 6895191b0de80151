/** What all terms have in common that read an element, or the picture after a layer. */
import type { ElementTerm } from '../document/model.ts';
import type { RoleId } from '../elements/roles.ts';
import { completeParams, type ParamTable, type ParamValues } from '../params/table.ts';
import type { FillRow, MaskInputs, TermOf, TermSpec } from './define.ts';
import { missingElement, viewNeeds } from './read.ts';

interface ElementSpec<K extends ElementTerm['kind'], P extends ParamTable> {
  readonly kind: K;
  readonly label: string;
  readonly summary: string;
  readonly params: P;
  /** Roles it reads, the best first. */
  readonly roles: readonly RoleId[];
  /** Whether any other element will do as well. */
  readonly any?: boolean;
  /** Whether it may read the picture after a layer instead. */
  readonly picture?: boolean;
  /** Whether it looks at the camera of the document. */
  readonly looksFrom?: (params: ParamValues<P>) => boolean;
  readonly source: string;
  readonly prepare: (params: ParamValues<P>, term: TermOf<K>, inputs: MaskInputs) => FillRow;
}

export function elementTerm<K extends ElementTerm['kind'], const P extends ParamTable>({ roles, any = false, picture = false, looksFrom, prepare, ...spec }: ElementSpec<K, P>): TermSpec<K> {
  const needsCamera = (term: TermOf<K>) => looksFrom?.(completeParams(spec, term.params) as ParamValues<P>) ?? false;
  return {
    ...spec,
    reads: { roles, any, picture },
    areShares: false,
    needs: (term, document) => [...viewNeeds(term, document, roles), ...(needsCamera(term) ? [{ what: 'camera' } as const] : [])],
    problem: (term, document) => missingElement(term, document, roles) ?? (needsCamera(term) && document.camera === null ? 'It needs the camera, which is not known. Set it under Elements, Camera and sun.' : null),
    prepare: (term, inputs) => prepare(completeParams(spec, term.params) as ParamValues<P>, term, inputs),
  };
}
