import { emptyDocument, guessSentence, pictureSize, type RebuildSplit, type TazzelDocument } from '@tazzel/core';
import type { Engine, RebuildResult } from '@tazzel/engine';
import { PROJECT_EXTENSION } from '@tazzel/formats';
import { type Command, type Invocation, roleOptions, text, UsageError } from '../command.ts';
import { openProject, takeFiles, withEngine } from '../files.ts';

const SPLITS: Readonly<Record<string, readonly RebuildSplit[]>> = { both: ['elements', 'lights'], elements: ['elements'], lights: ['lights'] };

export const check: Command = {
  name: 'check',
  summary: 'Says whether the elements of a render add up to the beauty, and what is wrong if they do not.',
  usage: `check FILE|FOLDER|doc.${PROJECT_EXTENSION}…`,
  options: {
    split: { type: 'string', value: 'elements|lights|both', help: 'What to add up: elements, light groups, or both (by default).' },
    ...roleOptions,
    pairs: { type: 'string', value: 'lit|raw', help: 'For light that came both ways: the lit element (by default), or filter × raw.' },
  },
  run: async (invocation) => {
    if (invocation.files.length === 0) throw new UsageError('Name the files of a render, its folder, or a project file.');
    const splits = SPLITS[text(invocation, 'split') ?? 'both'];
    if (!splits) throw new UsageError(`--split ${text(invocation, 'split')}: expected elements, lights or both.`);
    const pairs = text(invocation, 'pairs') ?? 'lit';
    if (!['lit', 'raw'].includes(pairs)) throw new UsageError(`--pairs ${pairs}: expected lit or raw.`);
    await withEngine(async (engine) => {
      const document = await open(engine, invocation);
      const results: RebuildResult[] = [];
      for (const split of splits) {
        const result = await engine.checkRebuild(document, { split, pairs: pairs === 'raw' ? 'filter-raw' : 'lit' });
        if (result) results.push(result);
      }
      if (results.length === 0) throw new Error('There is nothing to add up: the files need a beauty, and elements or light groups beside it. “tazzel inspect” says what they hold.');
      for (const result of results) report(result, invocation);
      invocation.result(results.map(({ set, figures, verdict, sentence, guesses, level, others }) => ({
        split: set.split,
        beauty: set.target.name,
        terms: set.terms.map((term) => term.label),
        missing: set.missing.map(({ id }) => id),
        others,
        verdict,
        sentence,
        ...figures,
        psnrDb: Number.isFinite(figures.psnrDb) ? figures.psnrDb : null,
        level,
        guesses: guesses.map((guess) => ({ kind: guess.kind, element: guess.label, factor: guess.factor, meanErrorAfter: guess.figures.meanError })),
      })));
      // A fault that has a name is one, however small.
      for (const { verdict, sentence, guesses } of results) if (verdict === 'off' || guesses.length > 0) invocation.problem(sentence);
    });
  },
};

async function open(engine: Engine, invocation: Invocation): Promise<TazzelDocument> {
  const [first, ...others] = invocation.files;
  if (first.toLowerCase().endsWith(`.${PROJECT_EXTENSION}`)) {
    if (others.length > 0) throw new UsageError('A project file is checked alone.');
    return openProject(engine, first, invocation.problem);
  }
  const { read } = await takeFiles(engine, invocation);
  const size = pictureSize(read);
  if (!size) throw new Error('None of the files could be read.');
  return { ...emptyDocument('check', 'Check', size), sources: read.flatMap((file) => file.sources) };
}

function report({ set, figures, sentence, verdict, guesses, level, problems }: RebuildResult, { say, problem }: Invocation): void {
  for (const sentenceOfFile of problems) problem(sentenceOfFile);
  const percent = (share: number) => `${(100 * share).toFixed(2)} %`;
  say(`${set.split === 'lights' ? 'Light groups' : 'Elements'}: ${set.terms.map((term) => term.label).join(' + ')}`);
  if (verdict !== 'off' && guesses.length === 0) say(`  ${sentence}`);
  const stops = figures.largestStops < 0.005 ? '0' : figures.largestStops.toFixed(2);
  say(`  error ${percent(figures.meanError)} on average, ${percent(figures.largestError)} at most (at ${figures.largestAt.x}, ${figures.largestAt.y}), ${stops} stops at most; PSNR ${Number.isFinite(figures.psnrDb) ? `${figures.psnrDb.toFixed(1)} dB` : 'infinite'}`);
  if (level > 0) say(`  compared at 1/${2 ** level} of the size, because not all elements fit into memory`);
  for (const guess of guesses.slice(1)) say(`  or: ${guessSentence(guess)}`);
}
