import { completeParams, layerSpec, type ParamTable, type PictureLayer, problemOf, whyNot } from '@tazzel/core';
import { ParamFields } from '../fields/param-fields.tsx';
import { useActions, useDocument } from '../workspace/context.ts';

/** The fields of a layer's own parameters, made from its declaration: all of them, some, or all but some. */
export function LayerFields({ layer, only, except = [], labels = {} }: { layer: PictureLayer; only?: readonly string[]; except?: readonly string[]; labels?: Readonly<Record<string, string>> }) {
  const document = useDocument();
  const actions = useActions();
  const spec = layerSpec(layer.type);
  const problem = problemOf(document, layer);
  const shown: ParamTable = Object.fromEntries(Object.entries(spec.params).flatMap(([name, param]) => ((only && !only.includes(name)) || except.includes(name) ? [] : [[name, { ...param, label: labels[name] ?? param.label }]])));
  return (
    <>
      <ParamFields params={shown} values={completeParams(spec, layer.params)} whyNot={(params) => whyNot(document, { type: 'set-params', layerId: layer.id, params })} onChange={(params, gesture) => actions.edit({ type: 'set-params', layerId: layer.id, params }, gesture)} />
      {problem && <p className="text-warn">It shows nothing: {problem}</p>}
    </>
  );
}
