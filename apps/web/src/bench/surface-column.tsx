/** A surface's own corrections as one column: five controls that need no opening, then what there is, each to be opened in its place. */
import { completeParams, type Correction, correctionLabel, correctionPlace, corrections, correctionsOn, defaultsOf, type Edit, isCorrectionId, type KeptValues, type Material, meanOf, summaryOf, correctionById, type ParamTable, type TazzelDocument } from '@tazzel/core';
import { ChevronDown, ChevronUp, SquareSplitHorizontal, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { ParamFields } from '../fields/param-fields.tsx';
import { Button, IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { CorrectionMenu } from '../ui/correction-menu.tsx';
import { Menu } from '../ui/menu.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { CorrectionParams } from './correction-params.tsx';

/** The controls at hand: a part of a correction's parameters. */
const atHand = corrections.flatMap((correction) => (correction.atHand ? [{ correction, params: Object.fromEntries(correction.atHand.map((name) => [name, correction.params[name]])) as ParamTable }] : []));

export function SurfaceColumn({ materials, ids }: { materials: readonly Material[]; ids: readonly string[] }) {
  const document = useDocument();
  const actions = useActions();
  const [openId, setOpenId] = useState<string | null>(null);
  // What was just added, or chosen in the build-up, is open.
  const atHandId = useSession((state) => (state.focus.kind === 'layer' ? state.selectedLayerId : null));
  useEffect(() => {
    if (atHandId !== null) setOpenId(atHandId);
  }, [atHandId]);
  const isBefore = useSession((state) => state.compare === 'before' && state.compareWith.kind === 'surface');
  const own = correctionsOn(document, ids);
  const correct = (correction: Correction): Edit => ({ type: 'correct-material', materialIds: ids, correction: correction.id, ...correctionPlace(correction, null) });
  return (
    <>
      <Section title="At hand" action={own.length > 0 ? <BeforeButton isPressed={isBefore} /> : undefined}>
        {atHand.map(({ correction, params }) => (
          <ParamFields key={correction.id} params={params} values={valuesOf(document, ids, own, correction)} onChange={(changed, gesture) => actions.edit({ type: 'set-on-surface', materialIds: ids, correction: correction.id, params: changed }, gesture)} />
        ))}
      </Section>
      <Section title="Corrections here" action={<CorrectionMenu trigger={<Button className="h-6 px-2">Add …</Button>} edit={correct} onAdd={actions.edit} />}>
        {own.length === 0 && <p className="text-faint">None of its own yet: move a control above, or add one.</p>}
        <ul>
          {own.map(({ layer, zone }) => {
            const isOpen = layer.id === openId;
            const label = correctionLabel(layer.correction.type);
            return (
              <li key={layer.id} className="-mx-3 border-t px-3 py-1 first:border-t-0 last:pb-0">
                <div className="flex items-center gap-1">
                  <Check bare label={`${layer.name} on`} checked={layer.visible} onChange={(visible) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { visible } })} />
                  <button type="button" aria-expanded={isOpen} onClick={() => setOpenId(isOpen ? null : layer.id)} className="flex min-w-0 flex-1 items-center gap-1 px-1 text-left">
                    <span className="truncate">{label}</span>
                    <span className="narrow min-w-0 flex-1 truncate text-right text-[12px] text-faint">{summaryFor(layer.correction)}</span>
                    {isOpen ? <ChevronUp size={12} aria-hidden /> : <ChevronDown size={12} aria-hidden />}
                  </button>
                  <IconButton label={`${label} once more everywhere else: a pair`} onClick={() => actions.edit({ type: 'pair-correction', layerId: layer.id })}>
                    <SquareSplitHorizontal size={13} aria-hidden />
                  </IconButton>
                  <IconButton label={`Remove ${label} here`} onClick={() => actions.edit({ type: 'remove-layer', layerId: layer.id })}>
                    <X size={13} aria-hidden />
                  </IconButton>
                </div>
                {isOpen && (
                  <div className="pt-1">
                    <CorrectionParams use={layer.correction} layerId={layer.id} zone={zone} correctionId={null} />
                  </div>
                )}
              </li>
            );
          })}
        </ul>
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          <Button title="A colour laid over it that keeps its texture: multiplied" onClick={() => actions.edit({ type: 'tint-surface', materialIds: ids })}>
            Tint
          </Button>
          {own.length > 0 && (
            <>
            <Menu trigger={<Button>Copy to …</Button>} items={() => targetsFor(document, materials).map(({ name, rows, area }) => ({ label: name, hint: `${(area * 100).toFixed(1)} %`, onSelect: () => void actions.edit({ type: 'copy-corrections', from: ids, to: rows }) }))} />
              {own.some(({ groupIds }) => groupIds.length === 0) && <Button onClick={() => actions.edit({ type: 'fold-corrections', materialIds: ids })}>Fold into a group</Button>}
            </>
          )}
        </div>
      </Section>
    </>
  );
}

function BeforeButton({ isPressed }: { isPressed: boolean }) {
  const actions = useActions();
  return (
    <Button aria-pressed={isPressed} className="h-6 px-2 aria-pressed:bg-ink aria-pressed:text-panel" title="The picture without the corrections of this surface" onClick={() => actions.set(isPressed ? { compare: 'off' } : { compare: 'before', compareWith: { kind: 'surface' } })}>
      Before
    </Button>
  );
}

/** What a control shows: its correction as it is, or as it would begin. */
function valuesOf(document: TazzelDocument, ids: readonly string[], own: ReturnType<typeof correctionsOn>, correction: Correction): KeptValues {
  const layer = own.find((place) => place.layer.correction.type === correction.id)?.layer;
  if (layer) return completeParams(correction, layer.correction.params);
  const mean = correction.onSurface ? meanOf(document, ids) : null;
  return mean ? completeParams(correction, correction.onSurface?.(mean) ?? {}) : defaultsOf(correction);
}

function summaryFor({ type, params }: { type: string; params: KeptValues }): string {
  if (!isCorrectionId(type)) return 'does nothing';
  const spec = correctionById(type);
  return summaryOf(spec, completeParams(spec, params));
}

/** Other surfaces, the largest first; rows of one surface together. */
function targetsFor(document: TazzelDocument, materials: readonly Material[]) {
  const here = new Set(materials.map(({ id }) => id));
  const byName = new Map<string, { name: string; rows: string[]; area: number }>();
  for (const { id, name, surface, area, kind } of document.materials) {
    if (here.has(id) || kind !== materials[0].kind) continue;
    const key = surface === null ? `row ${id}` : `surface ${surface}`;
    const entry = byName.get(key) ?? { name: surface ?? name, rows: [], area: 0 };
    entry.rows.push(id);
    entry.area += area;
    byName.set(key, entry);
  }
  return [...byName.values()].sort((a, b) => b.area - a.area).slice(0, 40);
}
