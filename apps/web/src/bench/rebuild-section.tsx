import { guessEdits, guessSentence, rebuildDocument, type RebuildPairs, type RebuildSet, type RebuildSplit, rebuildSet, type RebuildVerdict } from '@tazzel/core';
import type { RebuildResult } from '@tazzel/engine';
import { useState } from 'react';
import { questions, useAnswer } from '../answers.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { Fact, Line, Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';

const splits: readonly { value: RebuildSplit; label: string; hint: string }[] = [
  { value: 'elements', label: 'Elements', hint: 'Light by the kind of path it took' },
  { value: 'lights', label: 'Light groups', hint: 'Light by the lamp it came from' },
];
const pairings: readonly { value: RebuildPairs; label: string; hint: string }[] = [
  { value: 'lit', label: 'Lit elements', hint: 'Lighting, GI, reflection, refraction as they were rendered' },
  { value: 'filter-raw', label: 'Filter × raw', hint: 'Surface colour times light, where both were rendered' },
];
const labelsOf = (set: RebuildSet | null) => set?.terms.map(({ label }) => label).join();
const verdicts: Readonly<Record<RebuildVerdict, string>> = { 'adds-up': 'Adds up', nearly: 'Nearly adds up', off: 'Does not add up' };
const percent = (share: number) => `${(100 * share).toFixed(2)} %`;
/** The difference is shown brighter: four stops make a hundredth of white visible. */
const DIFFERENCE_STOPS = 4;
const pressed = 'aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-panel';

/** Documents that were checked once are checked again whenever their elements change. */
const asked = new Set<string>();

export function RebuildSection() {
  const document = useDocument();
  const actions = useActions();
  const lookAt = useSession((state) => state.lookAt);
  const [split, setSplit] = useState<RebuildSplit>('elements');
  const [isAsked, setAsked] = useState(asked.has(document.id));
  const [wanted, setPairs] = useState<RebuildPairs>('lit');
  // Asked only where light came both ways.
  const [lit, products] = [rebuildSet(document.sources, split, 'lit'), rebuildSet(document.sources, split, 'filter-raw')];
  const isChoice = split === 'elements' && labelsOf(lit) !== labelsOf(products);
  const pairs = isChoice ? wanted : 'lit';
  const set = pairs === 'lit' ? lit : products;
  const { data, error, isFetching, refetch } = useAnswer(isAsked && set !== null ? questions.rebuild(document, split, pairs) : null, { keeps: ([what]) => what === 'rebuild' });
  const result = set && isAsked ? data : null;
  // Of several beauties, the one that the sum is nearest to.
  const target = (result?.set ?? set)?.target;
  const show = (what: 'sum' | 'difference') => {
    if (!set || !target) return;
    const label = what === 'sum' ? `Sum of the ${split === 'lights' ? 'light groups' : 'elements'}` : `Difference from ${target.name}, ${DIFFERENCE_STOPS} stops brighter`;
    actions.set({ viewedSourceId: null, lookAt: lookAt?.label === label ? null : { label, document: rebuildDocument(document, { ...set, target }, what, what === 'sum' ? 0 : DIFFERENCE_STOPS) } });
  };

  return (
    <Section title="Rebuild check">
      <Line label="Add up">
        <Choice label="What to add up" value={split} options={splits} onChange={setSplit} />
      </Line>
      {isChoice && (
        <Line label="Light as">
          <Choice label="Light that came both ways" value={pairs} options={pairings} onChange={setPairs} />
        </Line>
      )}
      {!set && <p className="mt-1 text-faint">{split === 'lights' ? 'There are no light groups to add up, or no beauty to compare them with.' : 'There is nothing to add up: the check needs a beauty, and elements of light beside it.'}</p>}
      {set && (
        <>
          <p className="narrow mt-1 text-[12px] text-faint">
            {set.terms.map((term) => term.label).join(' + ')} = {target?.name}?
          </p>
          <div className="mt-1.5 flex flex-wrap gap-1.5">
            {!result && (
              <Button
                look="main"
                disabled={isFetching}
                onClick={() => {
                  asked.add(document.id);
                  setAsked(true);
                  // After it was cancelled or failed.
                  if (error) void refetch();
                }}
              >
                Check
              </Button>
            )}
            <Button className={pressed} aria-pressed={lookAt?.label.startsWith('Sum') ?? false} onClick={() => show('sum')}>
              Look at the sum
            </Button>
            <Button className={pressed} aria-pressed={lookAt?.label.startsWith('Difference') ?? false} onClick={() => show('difference')}>
              Look at the difference
            </Button>
          </div>
        </>
      )}
      {error && error.name !== 'Cancelled' && <p role="alert" className="mt-1.5">{error.message}</p>}
      {result && <Result result={result} busy={isFetching} />}
    </Section>
  );
}

function Result({ result: { figures, verdict, sentence, guesses, level, problems }, busy }: { result: RebuildResult; busy: boolean }) {
  const document = useDocument();
  const actions = useActions();
  const { viewport } = useWorkspace();
  return (
    <div role="status" aria-busy={busy} className={`mt-2 border border-rule bg-sheet p-2 ${busy ? 'opacity-50' : ''}`}>
      <p className="lettering" data-verdict={verdict}>
        {verdict === 'adds-up' ? '= ' : verdict === 'nearly' ? '≈ ' : '≠ '}
        {verdicts[verdict]}
      </p>
      <p className="mt-1">{sentence}</p>
      <dl className="mt-1.5">
        <Fact label="Error">
          <span className="figure">{percent(figures.meanError)}</span> on average
        </Fact>
        <Fact label="Largest">
          <button type="button" className="text-left underline decoration-dotted underline-offset-2" onClick={() => viewport.showPoint(figures.largestAt.x << level, figures.largestAt.y << level)}>
            <span className="figure">{percent(figures.largestError)}</span> at{' '}
            <span className="figure">
              {figures.largestAt.x << level}, {figures.largestAt.y << level}
            </span>
          </button>
        </Fact>
        <Fact label="Stops">
          <span className="figure">{figures.largestStops.toFixed(2)}</span> at most
        </Fact>
        <Fact label="PSNR">
          <span className="figure">{Number.isFinite(figures.psnrDb) ? `${figures.psnrDb.toFixed(1)} dB` : 'equal'}</span>
        </Fact>
      </dl>
      {guesses.map((guess, i) => {
        const edits = guessEdits(guess, document.sources);
        return (
          <div key={`${guess.kind} ${guess.label}`} className="mt-1.5 border-t pt-1.5">
            {i > 0 && <p>Or: {guessSentence(guess)}</p>}
            <p className="flex items-center justify-between gap-2">
              <span className="narrow text-faint">
                then <span className="figure">{percent(guess.figures.meanError)}</span> on average
              </span>
              {edits.length > 0 && <Button onClick={() => edits.every((edit) => actions.edit(edit))}>Apply</Button>}
            </p>
          </div>
        );
      })}
      {level > 0 && <p className="mt-1 text-faint">Compared at 1/{2 ** level} of the size: not all elements fit into memory together.</p>}
      {problems.map((problem) => (
        <p key={problem} className="mt-1">
          {problem}
        </p>
      ))}
    </div>
  );
}
