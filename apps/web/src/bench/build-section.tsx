import { type BuildResult, builtInRecipes, buildExact, buildLit, buildRecipe, type RebuildPairs, type RebuildSplit, type Recipe, rebuildSet, recipeOf } from '@tazzel/core';
import { safeName } from '@tazzel/formats';
import { useEffect, useState } from 'react';
import { download } from '../ui/download.ts';
import { showNotes } from '../notices.tsx';
import { keepRecipes, readRecipeFile, recipeFile, recipes } from '../storage/library.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Menu } from '../ui/menu.tsx';
import { Line, Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';

type Grain = 'lit' | 'filter-raw' | 'lights' | 'mix' | 'relit';
const grains: readonly { value: Grain; label: string; hint: string }[] = [
  { value: 'lit', label: 'Lit elements', hint: 'Direct light, GI, reflection … one layer each' },
  { value: 'filter-raw', label: 'Filter × raw', hint: 'Light and surface colour apart, where both are there' },
  { value: 'lights', label: 'Light groups', hint: 'One layer for each lamp or set of lamps' },
  { value: 'mix', label: 'Light mix', hint: 'All light groups in one layer, mixed on the light board' },
  { value: 'relit', label: 'Elements in the light of the board', hint: 'Lit elements that sum to the light mix' },
];

/** Makes the build-up of the elements in one step. */
export function BuildSection() {
  const document = useDocument();
  const actions = useActions();
  // Masks of glass, water and sky come from the schedule.
  const isReading = useSession((state) => state.readsSchedule);
  const [grain, setGrain] = useState<Grain>('lit');
  const [own, setOwn] = useState<readonly Recipe[]>([]);
  useEffect(() => void recipes().then(setOwn), []);
  const [split, pairs]: [RebuildSplit, RebuildPairs] = grain === 'lights' ? ['lights', 'lit'] : ['elements', grain === 'filter-raw' ? grain : 'lit'];
  const exact = grain === 'mix' ? buildLit(document, 'lights') : grain === 'relit' ? buildLit(document, 'elements') : rebuildSet(document.sources, split, pairs) && buildExact(document, split, pairs);

  const build = (result: BuildResult | null) => {
    if (!result || !actions.edit(result.edit)) return;
    showNotes('Built, with gaps', result.missing);
  };
  const keep = (list: readonly Recipe[]) => {
    setOwn(list);
    void keepRecipes(list);
  };
  const save = () => {
    const name = document.name;
    const number = own.filter((recipe) => recipe.name.startsWith(name)).length;
    keep([...own, recipeOf(document, crypto.randomUUID(), number === 0 ? name : `${name} ${number + 1}`)]);
  };
  const load = async (file: File) => {
    try {
      const recipe = readRecipeFile(await file.text());
      keep([...own.filter(({ id }) => id !== recipe.id), recipe]);
    } catch (error) {
      showNotes('The recipe could not be read', [`${file.name}: ${(error as Error).message}`]);
    }
  };

  return (
    <Section title="Make the build-up">
      <Line label="Rebuild by">
        <Choice label="Granularity of the rebuild" value={grain} options={grains} onChange={setGrain} />
      </Line>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Button disabled={!exact} title={exact ? 'Beauty off, all light added under the tone line' : grain === 'mix' || grain === 'relit' ? 'It needs the light groups of the render' : 'It needs a beauty, and elements of light beside it'} onClick={() => build(exact)}>
          Exact rebuild
        </Button>
        {builtInRecipes.map((recipe) => (
          <Button key={recipe.id} disabled={isReading} title={isReading ? 'The pictures of IDs are still being read' : recipe.summary} onClick={() => build(buildRecipe(document, recipe))}>
            {recipe.name}
          </Button>
        ))}
      </div>
      <p className="mt-1.5 text-faint">It takes the place of the build-up below; undo brings that back.</p>
      <ul className="mt-2">
        {own.map((recipe) => (
          <li key={recipe.id} className="flex items-center gap-1 border-t py-0.5">
            <span className="min-w-0 flex-1 truncate">{recipe.name}</span>
            <Button className="h-6 px-2" disabled={isReading} onClick={() => build(buildRecipe(document, recipe))}>
              Build
            </Button>
            <Menu
              trigger={
                <Button className="h-6 px-2" aria-label={`More about ${recipe.name}`}>
                  …
                </Button>
              }
              items={() => [
                { label: 'Save as a file', onSelect: () => download(`${safeName(recipe.name)}.recipe.json`, [recipeFile(recipe)], 'application/json') },
                { label: 'Delete', onSelect: () => keep(own.filter((other) => other !== recipe)) },
              ]}
            />
          </li>
        ))}
      </ul>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Button onClick={save}>Keep this build-up as a recipe</Button>
        <FileButton text="Load a recipe …" label="Recipe file" accept=".json" onFiles={([file]) => void load(file)} />
      </div>
    </Section>
  );
}
