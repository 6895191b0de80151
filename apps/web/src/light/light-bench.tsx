import { findLayer, groupsOf, isPictureLayer, lampGains, layersInOrder, lightStarts, rebuildSet, rowsOf, type TazzelDocument } from '@tazzel/core';
import { openLight } from '@tazzel/editor';
import { Plus } from 'lucide-react';
import { Link, useNavigate } from 'react-router';
import { questions, useAnswer } from '../answers.ts';
import { CorrectionParams } from '../bench/correction-params.tsx';
import { showNotes } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Menu } from '../ui/menu.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, usePart, useSession, useWorkspace } from '../workspace/context.ts';
import { FramesSection } from './frames-section.tsx';
import { LightDetails } from './light-details.tsx';
import { LightRow, percentOf } from './light-row.tsx';
import { useLightFigures, useOwnColours } from './use-lights.ts';

const ABSENT = 'The document has no light groups. A render delivers them beside its elements: sun, sky and lamps, each as a picture of its own. Drop those files onto the window, or open the render bench and ask for light groups.';

/** The mix on the board, as it is shown by the build-up: the layer of the lights, or the group of elements that are lit by it. */
function shownBy({ buildUp }: TazzelDocument): 'lights' | 'elements' | null {
  const isMix = (layer: TazzelDocument['buildUp']['scene'][number]) => layer.kind === 'picture' && layer.type === 'light' && layer.params.scenario === '';
  const isRelit = (layer: TazzelDocument['buildUp']['scene'][number]): boolean => (layer.kind === 'group' ? layer.layers.some(isRelit) : layer.kind === 'picture' && layer.params.isRelit === true);
  if (buildUp.scene.some((layer) => layer.visible && isMix(layer))) return 'lights';
  return buildUp.scene.some((layer) => layer.visible && isRelit(layer)) ? 'elements' : null;
}

/** The light board: one row for each group, what all of them do, and what comes after the mix. */
export function LightBench() {
  const document = useDocument();
  const actions = useActions();
  const open = useSession(openLight);
  const figures = useLightFigures();
  useOwnColours();
  if (groupsOf(document).length === 0) return <p className="p-3 text-faint">{ABSENT}</p>;
  const rows = rowsOf(document);
  const shown = shownBy(document);
  const reset = (what: 'intensity' | 'colour' | 'all') => actions.edit({ type: 'reset-lights', what });
  return (
    <>
      <div className="border-b border-ink px-3 py-2">
        <h2 className="text-[15px] font-medium">Light board</h2>
        <p className="figure text-[12px] text-faint">
          {figures ? `grain ${percentOf(figures.noise)}, as rendered ${percentOf(figures.noiseAsRendered)}` : 'its groups are being measured'}
        </p>
      </div>
      {shown === null ? (
        <Section title="Not in the picture">
          <p className="mb-1.5 text-faint">The mix takes the place of the beauty, which waits underneath, switched off; so do layers of single light groups. Nothing else of the build-up changes.</p>
          <Button look="main" onClick={() => actions.edit({ type: 'add-light-mix' })}>
            Mix the light
          </Button>
        </Section>
      ) : (
        <Split by={shown} />
      )}
      <Sum />
      <section aria-label="Mix" className="border-b pt-2">
        <div className="flex h-6 items-center justify-between gap-2 px-3">
          <h3 className="lettering text-[10px] text-faint">Mix</h3>
          <span className="flex gap-1">
            <Menu trigger={<Button className="h-6 px-1.5 text-[12px]">Begin with</Button>} items={() => lightStarts.map(({ id, label }) => ({ label, onSelect: () => void actions.edit({ type: 'begin-mix', start: id }) }))} />
            <Menu
              trigger={<Button className="h-6 px-1.5 text-[12px]">All</Button>}
              items={() => [
                { label: 'On', onSelect: () => void actions.edit({ type: 'switch-lights', on: true }) },
                { label: 'Off', onSelect: () => void actions.edit({ type: 'switch-lights', on: false }) },
                null,
                { label: 'Intensities as rendered', onSelect: () => void reset('intensity') },
                { label: 'Colours as rendered', onSelect: () => void reset('colour') },
                { label: 'All as rendered', onSelect: () => void reset('all') },
              ]}
            />
          </span>
        </div>
        <ul>
          {rows.map((row) => (
            <LightRow key={row[0].id} row={row} figure={figures?.of.get(row[0].id) ?? null}>
              {open && row.includes(open) && <LightDetails key={open.id} group={open} figure={figures?.of.get(open.id) ?? null} />}
            </LightRow>
          ))}
        </ul>
      </section>
      {shown !== null && <AfterMix />}
      {shown !== null && <FramesSection />}
      {shown !== null && <BackToScene />}
    </>
  );
}

/** Whether the groups are all the light that there is; said where they are not, and no hindrance. */
function Sum() {
  const document = useDocument();
  const { data } = useAnswer(rebuildSet(document.sources, 'lights') ? questions.rebuild(document, 'lights', 'lit') : null, { keeps: ([what]) => what === 'rebuild' });
  if (!data || data.verdict === 'adds-up') return null;
  return (
    <Section title="Do they add up?">
      <p role="status" className="text-[12px] text-warn">
        {data.sentence}
      </p>
      <p className="mt-1 text-[12px] text-faint">
        They can be mixed all the same. <Link to="../elements" relative="path" className="underline">Elements</Link> has the check, and what may help.
      </p>
    </Section>
  );
}

/** Which split of the light the picture is made of: what was done to the other one stays. */
function Split({ by }: { by: 'lights' | 'elements' }) {
  const actions = useActions();
  return (
    <Section title="Put together by">
      <div role="radiogroup" aria-label="Put together by" className="flex">
        {(['lights', 'elements'] as const).map((each) => (
          // biome-ignore lint/a11y/useSemanticElements: two halves of one switch
          <button key={each} type="button" role="radio" aria-checked={by === each} onClick={() => by !== each && actions.edit({ type: 'split-light', by: each })} className="-ml-px h-7 flex-1 border border-rule first:ml-0 hover:border-ink aria-checked:bg-ink aria-checked:text-panel">
            {each === 'lights' ? 'Lights' : 'Elements'}
          </button>
        ))}
      </div>
      <p className="mt-1.5 text-[12px] text-faint">
        {by === 'lights' ? 'The sum of the light groups, each with its gain.' : 'Reflections, GI and all other elements in the same light, to be corrected apart. Together they are the mix exactly; each by itself is an estimate. Where they hold no light to share out, all get equal parts.'}
      </p>
    </Section>
  );
}

/** The mix goes into the lamps of the scene that is open in the render bench; here it is as rendered then, or the next render would be lit twice. */
function BackToScene() {
  const { session } = useWorkspace();
  const actions = useActions();
  const navigate = useNavigate();
  const isMixed = usePart(({ light }) => light.mix.length > 0);
  const write = async () => {
    try {
      const { bench } = await import('../render/bench-store.ts');
      const missing = await bench.writeMix(lampGains(session.getState().document));
      actions.edit({ type: 'reset-lights', what: 'all' });
      showNotes('The lamps carry the mix now', ['Start the render: it will look as the mix did, and its files can take the place of the old ones under this build-up. The mix of the document is back to as rendered; undo brings it back. A camera that exposes automatically exposes anew.', ...missing.map((name) => `The scene has no group “${name}”.`)], { leads: true });
      await navigate('/render');
    } catch (error) {
      showNotes('Nothing was written', [(error as Error).message]);
    }
  };
  return (
    <Section title="Back to the scene">
      <p className="mb-1.5 text-[12px] text-faint">Writes the mix into the lamps of the scene in the render bench (watts and colour), to be rendered without the grain of a mix.</p>
      <Button disabled={!isMixed} onClick={() => void write()}>
        Write into the lamps
      </Button>
    </Section>
  );
}

const AFTER = [
  { type: 'exposure', label: 'Exposure' },
  { type: 'white-balance', label: 'White balance' },
] as const;

/** Exposure and white of the mix: corrections right over it. */
function AfterMix() {
  const document = useDocument();
  const actions = useActions();
  const mix = layersInOrder(document).find(({ layer }) => isPictureLayer(layer) && layer.type === 'light' && layer.params.scenario === '');
  if (!mix) return null;
  const isLit = (layer: (typeof document.buildUp.scene)[number]) => layer.id === mix.layer.id || layer.kind === 'group';
  const { scene } = document.buildUp;
  const from = scene.findIndex((layer) => layer.id === mix.layer.id);
  // Those of the relit elements stand over their group as well.
  const first = scene.findIndex((layer, i) => i >= from && !isLit(layer));
  const after = first < 0 ? [] : scene.slice(first);
  const until = after.findIndex((layer) => layer.kind !== 'correction');
  const corrections = until < 0 ? after : after.slice(0, until);
  return (
    <Section title="After the mix">
      {AFTER.map(({ type, label }) => {
        const layer = corrections.find((each) => each.kind === 'correction' && each.correction.type === type && each.mask === null);
        const use = layer && findLayer(document, layer.id)?.layer;
        return use?.kind === 'correction' ? (
          <fieldset key={type} className="mb-1.5">
            <legend className="narrow text-[12px] text-faint">{label}</legend>
            <CorrectionParams use={use.correction} layerId={use.id} zone="scene" correctionId={null} />
          </fieldset>
        ) : (
          <Button key={type} className="mr-1.5" onClick={() => actions.edit({ type: 'add-correction-layer', correction: type, zone: 'scene', index: first < 0 ? scene.length : first })}>
            <Plus size={13} aria-hidden /> {label}
          </Button>
        );
      })}
    </Section>
  );
}

