import { type LightScenario, lightsFile, mixFor, readLights, type TazzelDocument, withMix } from '@tazzel/core';
import { safeName } from '@tazzel/formats';
import { Check, Download, Files, FolderOpen, Plus, RefreshCw, X } from 'lucide-react';
import { useCallback, useRef, useState } from 'react';
import { questions } from '../answers.ts';
import { chosen } from '../files.ts';
import { download } from '../ui/download.ts';
import { OtherMixes } from '../light/other-mixes.tsx';
import { showNotes } from '../notices.tsx';
import { IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NameField } from '../ui/name-field.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, usePart, useSession, useWorkspace } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

/** Mixes that were kept, each with the picture in its light: to load, to compare with, to go between. */
export function ScenarioSchedule() {
  const { session } = useWorkspace();
  const scenarios = usePart((document) => document.light.scenarios);
  const actions = useActions();
  const input = useRef<HTMLInputElement>(null);
  const [isOthersOpen, setOthersOpen] = useState(false);
  const compareWith = useSession((state) => state.compareWith);
  const isCompared = useSession((state) => state.compare !== 'off');
  const save = () => {
    const { document } = session.getState();
    download(`${safeName(document.name)}.lights.json`, [`${JSON.stringify(lightsFile(document, document.light.scenarios), null, 1)}\n`], 'application/json');
  };
  const load = async (file: File | undefined) => {
    if (!file) return;
    try {
      const { scenarios: found, problems } = readLights(parsed(await file.text()));
      const fitted = found.map((scenario) => ({ name: scenario.name, ...mixFor(session.getState().document, scenario) }));
      if (fitted.length > 0 && !actions.edit({ type: 'add-scenarios', scenarios: fitted.map(({ name, mix }) => ({ name, mix })) })) return;
      showNotes('About these mixes', [...problems, ...fitted.flatMap(({ missing }) => missing)]);
    } catch (error) {
      showNotes('The mixes could not be read', [`${file.name}: ${(error as Error).message}`]);
    }
  };
  const columns: readonly Column<LightScenario>[] = [
    {
      id: 'name',
      label: 'Scenario',
      width: '100%',
      sortBy: (scenario) => scenario.name,
      cell: (scenario) => (
        <span className="flex items-center gap-1">
          <ScenarioPicture scenarioId={scenario.id} />
          <NameField label="Scenario" value={scenario.name} onSelect={() => actions.set({ compareWith: { kind: 'scenario', scenarioId: scenario.id } })} onCommit={(name) => actions.edit({ type: 'rename-scenario', scenarioId: scenario.id, name })} className="min-w-0 flex-1" />
          <IconButton label={`Load ${scenario.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'load-scenario', scenarioId: scenario.id })}>
            <Check size={13} aria-hidden />
          </IconButton>
          <IconButton label={`Put the present mix into ${scenario.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'replace-scenario', scenarioId: scenario.id })}>
            <RefreshCw size={13} aria-hidden />
          </IconButton>
          <IconButton label={`Remove ${scenario.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'remove-scenario', scenarioId: scenario.id })}>
            <X size={13} aria-hidden />
          </IconButton>
        </span>
      ),
    },
  ];
  return (
    <>
      <Schedule
        title="Scenarios"
        rows={scenarios}
        columns={columns}
        idOf={(scenario) => scenario.id}
        textOf={(scenario) => scenario.name}
        selectedIds={isCompared && compareWith.kind === 'scenario' ? [compareWith.scenarioId] : []}
        onSelect={(scenarioId) => actions.set({ compareWith: { kind: 'scenario', scenarioId } })}
        action={
          <>
            <IconButton label="Load mixes from a file" onClick={() => input.current?.click()}>
              <FolderOpen size={13} aria-hidden />
            </IconButton>
            <IconButton label="Mixes of another document" onClick={() => setOthersOpen(true)}>
              <Files size={13} aria-hidden />
            </IconButton>
            <IconButton label="Save all scenarios as a file" disabled={scenarios.length === 0} onClick={save}>
              <Download size={13} aria-hidden />
            </IconButton>
            <IconButton label="Keep this mix" onClick={() => actions.edit({ type: 'keep-scenario', name: `Lighting ${scenarios.length + 1}` })}>
              <Plus size={13} aria-hidden />
            </IconButton>
          </>
        }
        empty="Mixes that are kept: day, dusk, night …"
        below={scenarios.length > 1 ? <Between scenarios={scenarios} /> : undefined}
      />
      <OtherMixes open={isOthersOpen} onClose={() => setOthersOpen(false)} />
      <input ref={input} type="file" hidden aria-label="File of light mixes" accept=".json" onChange={(event) => void load(chosen(event.currentTarget)[0])} />
    </>
  );
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** The board between two scenarios. */
function Between({ scenarios }: { scenarios: readonly LightScenario[] }) {
  const actions = useActions();
  const [ends, setEnds] = useState<readonly [string, string]>(['', '']);
  const [percent, setPercent] = useState(50);
  const idAt = (i: 0 | 1) => (scenarios.some(({ id }) => id === ends[i]) ? ends[i] : scenarios[i].id);
  const options = scenarios.map(({ id, name }) => ({ value: id, label: name }));
  const go = (share: number, gesture?: string, [fromId, toId] = [idAt(0), idAt(1)]) => {
    setPercent(share);
    actions.edit({ type: 'blend-scenarios', fromId, toId, share: share / 100 }, gesture);
  };
  return (
    <div className="border-t px-3 py-1.5">
      <p className="lettering mb-1 text-[10px] text-faint">Between two</p>
      <div className="grid grid-cols-2 gap-1.5">
        <Choice label="From" value={idAt(0)} options={options} onChange={(id) => setEnds([id, idAt(1)])} />
        <Choice label="To" value={idAt(1)} options={options} onChange={(id) => setEnds([idAt(0), id])} />
      </div>
      <NumberField label="On the way" value={percent} min={0} max={100} step={1} digits={0} unit="%" initial={50} help="0 % is the first, 100 % the second; light is cross-faded." onChange={(share, gesture) => go(share, gesture)} />
    </div>
  );
}

function ScenarioPicture({ scenarioId }: { scenarioId: string }) {
  const ratio = usePart(({ size }) => size.width / size.height);
  const question = useCallback(
    (document: TazzelDocument) => {
      const scenario = document.light.scenarios.find(({ id }) => id === scenarioId);
      return scenario ? questions.card(withMix(document, scenario.mix), {}) : null;
    },
    [scenarioId],
  );
  return <SmallPicture question={question} whenSeen className="shrink-0 border border-rule" style={{ height: 22, width: Math.min(44, Math.round(22 * ratio)) }} />;
}
