/** What all terms have in common that read an element, or the picture after a layer. */
import type { RoleId } from '../elements/roles.ts';
import { element, layer } from '../params/references.ts';
import type { ParamTable, ParamValues } from '../params/table.ts';
import { defineTerm, type FillRow, type MaskInputs, type TermPick, type TermSpec } from './define.ts';
import { missingElement, type Reads, sourceOf, viewNeeds } from './read.ts';

interface ElementSpec<P extends ParamTable> {
  readonly id: string;
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
  readonly looksFrom?: (values: ParamValues<P>) => boolean;
  readonly pick?: TermPick<P>;
  readonly source: string;
  readonly prepare: (values: ParamValues<P> & Reads, inputs: MaskInputs) => FillRow;
}

export function elementTerm<const P extends ParamTable>({ roles, any = false, picture = false, looksFrom, pick, prepare, params, ...spec }: ElementSpec<P>): TermSpec {
  const reads: ParamTable = {
    source: element({ label: 'Reads', roles, help: 'The element; the usual one, unless another is chosen.' }),
    ...(picture ? { after: layer({ label: 'Reads the picture after', help: 'Instead of an element: the picture as it is after a layer.' }) } : {}),
  };
  const readsOf = (values: unknown) => values as Reads;
  return defineTerm<ParamTable>({
    ...spec,
    ...(pick ? { pick: { label: pick.label, take: (found, values) => pick.take(found, values as ParamValues<P>) } } : {}),
    params: { ...reads, ...params },
    reads: { roles, any, picture },
    areShares: false,
    isSmooth: true,
    resolve: (values, document) => (readsOf(values).after ? values : { ...values, source: sourceOf(readsOf(values), document, roles)?.id ?? '' }),
    needs: (values, document) => [...viewNeeds(readsOf(values), document, roles), ...(looksFrom?.(values as ParamValues<P>) ? [{ what: 'camera' } as const] : [])],
    fault: (values, document) => missingElement(readsOf(values), document, roles) ?? (looksFrom?.(values as ParamValues<P>) && document.camera === null ? 'It needs the camera, which is not known. Set it under Elements, Camera and sun.' : null),
    prepare: (values, inputs) => prepare(values as ParamValues<P> & Reads, inputs),
  });
}
