import { ALPHA_USES, type AlphaUse, type Encoding, guessRole, type RoleId, roleLabel, roles, type Source, type Zone } from '@tazzel/core';
import { fileStem } from '@tazzel/formats';
import { showReport, withProgress } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NameField } from '../ui/name-field.tsx';
import { Fact, Line, Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';

const encodings: readonly { value: Encoding; label: string; hint: string }[] = [
  { value: 'linear', label: 'Linear', hint: 'Light, as renderers compute it' },
  { value: 'display', label: 'Display', hint: 'sRGB-encoded, as on the screen' },
  { value: 'data', label: 'Data', hint: 'Numbers that no colour operation may touch' },
];
const alphaLabels: Record<AlphaUse, string> = { none: 'None', straight: 'Straight', premultiplied: 'Premultiplied', ignore: 'Not used' };
const MAY_BE_IDS = 3;

export function ElementBench({ source }: { source: Source }) {
  const { engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const viewed = useSession((state) => state.viewedSourceId === source.id);
  const set = (patch: { name?: string; role?: RoleId; encoding?: Encoding; alpha?: AlphaUse }) => actions.edit({ type: 'set-source', sourceId: source.id, patch });
  const add = (zone: Zone) => actions.edit({ type: 'add-element-layer', sourceId: source.id, zone });
  const { width, height, x, y, file } = source;
  const covers = x === 0 && y === 0 && width === document.size.width && height === document.size.height;
  const findMaterials = async () => {
    try {
      const materials = await withProgress('Finding materials', (report) => {
        report(null, source.name);
        return engine.findMaterials(source);
      });
      actions.edit({ type: 'set-materials', sourceId: source.id, materials });
    } catch (error) {
      showReport('No materials were found', [`${source.name}: ${(error as Error).message}`]);
    }
  };

  return (
    <>
      <div className="border-b border-ink px-3 py-2">
        <NameField label="Element" value={source.name} onCommit={(name) => set({ name })} className="w-full text-[15px] font-medium" />
        <p className="narrow truncate text-faint">
          {roleLabel(source.role)}: {guessRole(source.name || fileStem(file.name)).role === source.role ? guessRole(source.name || fileStem(file.name)).reason : 'chosen by hand'}
        </p>
      </div>
      <Section title="How it is read">
        <Line label="Role">
          <Choice label="Role" value={source.role} options={roles.map(({ id, label }) => ({ value: id, label }))} onChange={(role) => set({ role })} />
        </Line>
        <Line label="Values">
          <Choice label="Encoding" value={source.encoding} options={encodings} onChange={(encoding) => set({ encoding })} />
        </Line>
        <Line label="Alpha">
          <Choice label="Alpha" value={source.alpha} disabled={source.alphaChannel === null} options={ALPHA_USES.filter((use) => (use === 'none') === (source.alphaChannel === null)).map((value) => ({ value, label: alphaLabels[value] }))} onChange={(alpha) => set({ alpha })} />
        </Line>
      </Section>
      <Section title="Use">
        <div className="flex flex-wrap gap-1.5">
          <Button onClick={() => add('scene')}>Add under the tone line</Button>
          <Button onClick={() => add('picture')}>Add over it</Button>
          <Button aria-pressed={viewed} className="aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-panel" onClick={() => actions.set({ viewedSourceId: viewed ? null : source.id })}>
            Look at it alone
          </Button>
          {source.colorChannels.length <= MAY_BE_IDS && <Button onClick={() => void findMaterials()}>Find materials</Button>}
          <Button onClick={() => actions.edit({ type: 'remove-source', sourceId: source.id })}>Remove</Button>
        </div>
      </Section>
      <Section title="File">
        <dl>
          <Fact label="File">{file.name}</Fact>
          <Fact label="Format">
            {file.format === 'exr' ? 'OpenEXR' : 'PNG'}, {(file.byteLength / 2 ** 20).toFixed(1)} MB
          </Fact>
          <Fact label="Channels">
            <span className="figure text-[11px]">{[...source.colorChannels, ...(source.alphaChannel ? [source.alphaChannel] : [])].join(' ')}</span>
          </Fact>
          <Fact label="Size">
            <span className="figure">
              {width} × {height}
            </span>
            {!covers && ` at ${x}, ${y} of the picture`}
          </Fact>
        </dl>
      </Section>
    </>
  );
}
