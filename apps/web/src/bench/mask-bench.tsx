import { type Edit, findMask, isTermType, type Mask, maskTerms, newTerm, problemSentence, resolveMask, strokesOf, termLabel, usesOf } from '@tazzel/core';
import { ChevronDown, ChevronUp, Copy, Eye, Trash2, X } from 'lucide-react';
import { questions, useAnswer } from '../answers.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice } from '../ui/choice.tsx';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { Menu } from '../ui/menu.tsx';
import { NameField } from '../ui/name-field.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';
import { lineSummary, TermFields } from './term-fields.tsx';

const operations = [
  { value: 'add', label: '+ add' },
  { value: 'subtract', label: '− take away' },
  { value: 'intersect', label: '∩ only where' },
] as const;

/** The recipe of a mask: its lines in order, then what is done to the whole. */
export function MaskBench({ mask }: { mask: Mask }) {
  const { session, viewport } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const focus = useSession((state) => state.focus);
  const { termId, soloTermId } = focus.kind === 'mask' ? focus : { termId: null, soloTermId: null };
  const uses = usesOf(document, mask.id);
  const level = Math.max(viewport.level, 1);
  const { data } = useAnswer(questions.maskProblems(document, mask, level), { keeps: () => true });
  // What the document alone tells is said at once; what reading the files tells comes later.
  const problems = [...resolveMask(document, mask).problems, ...(data ?? []).filter(({ term }) => term === null)];
  const change = (patch: Extract<Edit, { type: 'set-mask' }>['patch'], gesture?: string) => actions.edit({ type: 'set-mask', maskId: mask.id, patch }, gesture);
  const add = (type: string) => {
    if (!actions.edit({ type: 'add-term', maskId: mask.id, term: newTerm(type, mask.terms.length === 0 ? 'add' : 'intersect', document) })) return;
    const added = findMask(session.getState().document, mask.id)?.terms.at(-1);
    if (added) actions.openTerm(added.id, strokesOf(added) === null ? 'select' : 'brush');
  };

  return (
    <>
      <div className="border-b border-ink px-3 py-2">
        <div className="flex items-start gap-2.5">
          <MaskPicture mask={mask} className="w-[72px] shrink-0" />
          <div className="min-w-0 flex-1">
            <NameField label="Mask" value={mask.name} onCommit={(name) => change({ name })} className="max-w-full text-[15px] font-medium" />
            <p className="narrow text-faint">{uses === 0 ? 'not used yet' : uses === 1 ? 'used once' : `used ${uses} times; all follow`}</p>
          </div>
          <IconButton label="Duplicate the mask" onClick={() => actions.edit({ type: 'duplicate-mask', maskId: mask.id })}>
            <Copy size={13} aria-hidden />
          </IconButton>
          <IconButton label="Delete the mask" onClick={() => actions.edit({ type: 'remove-mask', maskId: mask.id })}>
            <Trash2 size={13} aria-hidden />
          </IconButton>
        </div>
        {problems.filter(({ term }) => term === null).map(problemSentence).map((sentence) => (
          <p key={sentence} role="alert" className="mt-1.5">
            {sentence}
          </p>
        ))}
      </div>

      <Section title="Recipe" action={<Menu trigger={<Button className="h-6 px-2">Add …</Button>} items={() => maskTerms.map(({ id, label }) => ({ label, onSelect: () => add(id) }))} />}>
        {mask.terms.length === 0 && <p className="text-faint">Nothing is selected yet. Add a material, a depth, a shape or paint.</p>}
        <ol aria-label="Lines of the recipe">
          {mask.terms.map((term, index) => {
            const label = termLabel(term.type);
            const open = term.id === termId;
            const isKnown = isTermType(term.type);
            const told = isKnown ? lineSummary(term, document) : '';
            const name = `${label} ${told}`.trim();
            const set = (patch: Extract<Edit, { type: 'set-term' }>['patch']) => actions.edit({ type: 'set-term', maskId: mask.id, termId: term.id, patch });
            return (
              <li key={term.id} className="-mx-3 border-t px-3 py-1">
                <div className="flex items-center gap-1">
                  <Check bare label={`${name} on`} checked={!term.muted} onChange={(on) => set({ muted: !on })} />
                  <button type="button" aria-expanded={open} onClick={() => actions.openTerm(open ? null : term.id)} className={`flex min-w-0 flex-1 items-center gap-1 px-1 text-left ${term.muted ? 'opacity-50' : ''}`}>
                    <span className="figure w-3 shrink-0">{index === 0 && term.operation === 'add' ? '' : operations.find(({ value }) => value === term.operation)?.label[0]}</span>
                    <span className="shrink-0">{label}</span>
                    <span className="narrow truncate text-faint">{told}</span>
                  </button>
                  <IconButton label={`Look at ${label.toLowerCase()} alone`} aria-pressed={soloTermId === term.id} onClick={() => actions.soloTerm(soloTermId === term.id ? null : term.id)}>
                    <Eye size={13} aria-hidden />
                  </IconButton>
                  {open && (
                    <>
                  <IconButton label={`Move ${label.toLowerCase()} up`} disabled={index === 0} onClick={() => actions.edit({ type: 'move-term', maskId: mask.id, termId: term.id, to: index - 1 })}>
                    <ChevronUp size={13} aria-hidden />
                  </IconButton>
                  <IconButton label={`Move ${label.toLowerCase()} down`} disabled={index === mask.terms.length - 1} onClick={() => actions.edit({ type: 'move-term', maskId: mask.id, termId: term.id, to: index + 1 })}>
                    <ChevronDown size={13} aria-hidden />
                  </IconButton>
                    </>
                  )}
                  <IconButton label={`Remove ${label.toLowerCase()}`} onClick={() => actions.edit({ type: 'remove-term', maskId: mask.id, termId: term.id })}>
                    <X size={13} aria-hidden />
                  </IconButton>
                </div>
                {problems.filter((problem) => problem.term === index).map(({ sentence }) => (
                  <p key={sentence} role="alert" className="border-l-2 border-ink pl-2 text-[12px]">
                    {sentence}
                  </p>
                ))}
                {open && (
                  <div className="pt-1 pb-0.5">
                    <Choice label={`How ${label.toLowerCase()} joins`} value={term.operation} options={operations} onChange={(operation) => set({ operation })} className="mb-1 w-full" />
                    {isKnown && <TermFields term={term} maskId={mask.id} />}
                  </div>
                )}
              </li>
            );
          })}
        </ol>
      </Section>

      <Section title="The whole">
        <NumberField label="Grow or shrink" value={mask.growPx} min={-100} max={100} step={0.5} digits={1} unit="px" initial={0} help="Below 0 it shrinks; pixels of the full picture" onChange={(growPx, gesture) => change({ growPx }, gesture)} />
        <NumberField label="Feather" value={mask.featherPx} min={0} max={200} step={0.5} digits={1} unit="px" initial={0} help="Standard deviation of a Gaussian, in pixels of the full picture" onChange={(featherPx, gesture) => change({ featherPx }, gesture)} />
        <NumberField label="Strength" value={mask.strength * 100} min={0} max={100} step={1} digits={0} unit="%" initial={100} onChange={(percent, gesture) => change({ strength: percent / 100 }, gesture)} />
        <div className="flex flex-wrap gap-x-4 gap-y-1 pt-1">
          <Check label="Feather along edges" checked={mask.followEdges} disabled={mask.featherPx === 0} onChange={(followEdges) => change({ followEdges })} />
          <Check label="Inverted" checked={mask.inverted} onChange={(inverted) => change({ inverted })} />
        </div>
      </Section>
    </>
  );
}
