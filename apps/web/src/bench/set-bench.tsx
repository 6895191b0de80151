/** The elements as one set: do they add up, what build-up is made of them, how a newer render takes their place. */
import { roleLabel } from '@tazzel/core';
import { useState } from 'react';
import { Button } from '../ui/button.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument } from '../workspace/context.ts';
import { BuildSection } from './build-section.tsx';
import { RebuildSection } from './rebuild-section.tsx';
import { RefreshSection } from './refresh-section.tsx';
import { SceneSection } from './scene-section.tsx';
import { RulesSheet } from './rules-sheet.tsx';

export function SetBench() {
  const document = useDocument();
  const actions = useActions();
  const [rulesOpen, setRulesOpen] = useState(false);
  const { sources } = document;
  if (sources.length === 0) return <p className="p-3 text-faint">Drop the files of a render onto the window: one multi-layer file, many files, or both. What they hold is then listed on the left, and this bench puts them together.</p>;
  const unsure = sources.filter((source) => source.guess !== null && source.guess.confidence < 0.5);
  const findings = sources.flatMap((source) => source.findings.map(({ kind, sentence }) => ({ key: `${source.id} ${kind}`, sourceId: source.id, sentence })));
  const notes = [...unsure.map((source) => ({ key: source.id, sourceId: source.id, sentence: `${source.name}: read as ${roleLabel(source.role).toLowerCase()}, but that is only a guess. Choose its role.` })), ...findings];
  return (
    <>
      <div className="border-b border-ink px-3 py-2">
        <h2 className="text-[15px] font-medium">{sources.length} elements</h2>
        <p className="narrow text-faint">Select one on the left for what it holds and how it is read.</p>
      </div>
      <RebuildSection />
      <BuildSection />
      {notes.length > 0 && (
        <Section title="To look at">
          <ul className="space-y-1.5">
            {notes.map(({ key, sourceId, sentence }) => (
              <li key={key}>
                <button type="button" onClick={() => actions.selectSource(sourceId)} className="text-left hover:underline">
                  {sentence}
                </button>
              </li>
            ))}
          </ul>
        </Section>
      )}
      <SceneSection />
      <RefreshSection />
      <Section title="Roles">
        <p className="mb-1.5 text-faint">A role that you correct is remembered for elements of the same name.</p>
        <Button onClick={() => setRulesOpen(true)}>Rules for roles …</Button>
        <RulesSheet open={rulesOpen} onClose={() => setRulesOpen(false)} />
      </Section>
    </>
  );
}
