import { ALPHA_USES, type AlphaUse, type Edit, type Encoding, isAdditive, type RoleId, roleLabel, roleSaysHowFar, roles, ruleFor, type Size, type Source, type SumUse, withRule, type Zone } from '@tazzel/core';
import { toast } from 'sonner';
import { showNotes, withProgress } from '../notices.tsx';
import { keepRoleRules, roleRules } from '../storage/library.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NameField } from '../ui/name-field.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Fact, Line, Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';

const encodings: readonly { value: Encoding; label: string; hint: string }[] = [
  { value: 'linear', label: 'Linear', hint: 'Light, as renderers compute it' },
  { value: 'display', label: 'Display', hint: 'sRGB-encoded, as on the screen' },
  { value: 'data', label: 'Data', hint: 'Numbers that no colour operation may touch' },
];
const alphaLabels: Record<AlphaUse, string> = { none: 'None', straight: 'Straight', premultiplied: 'Premultiplied', ignore: 'Not used' };
const MAY_BE_IDS = 3;
const sums: readonly { value: SumUse; label: string; hint: string }[] = [
  { value: 'auto', label: 'By its role', hint: 'Lit elements first, filter × raw where they are missing' },
  { value: 'in', label: 'Yes', hint: 'It is part of the beauty' },
  { value: 'out', label: 'No', hint: 'It is left out of the check and the rebuild' },
];
const formats: Readonly<Record<Source['file']['format'], string>> = { exr: 'OpenEXR', png: 'PNG', tiff: 'TIFF', jpeg: 'JPEG', hdr: 'Radiance HDR', webp: 'WebP' };

/** Scaled, in its own proportions, until it covers the picture; what stands over is cut off evenly. */
function filling({ width, height }: Source, picture: Size): Pick<Source, 'fit' | 'x' | 'y'> {
  const scale = Math.max(picture.width / width, picture.height / height);
  const fit = { width: Math.round(width * scale), height: Math.round(height * scale) };
  return { fit, x: Math.round((picture.width - fit.width) / 2), y: Math.round((picture.height - fit.height) / 2) };
}

const sureness = (confidence: number) => (confidence >= 0.8 ? 'for sure' : confidence >= 0.5 ? 'probably' : 'only a guess');

export function ElementBench({ source }: { source: Source }) {
  const { engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const viewed = useSession((state) => state.viewedSourceId === source.id);
  const set = (patch: Extract<Edit, { type: 'set-source' }>['patch'], gesture?: string) => actions.edit({ type: 'set-source', sourceId: source.id, patch }, gesture);
  const setRole = async (role: RoleId) => {
    if (!set({ role })) return;
    const rule = ruleFor(source.name, role);
    if (!rule) return;
    await keepRoleRules(withRule(await roleRules(), rule));
    toast(`Elements called “${rule.words.join(' ')}” are read as ${roleLabel(role).toLowerCase()} from now on.`);
  };
  const add = (zone: Zone) => actions.edit({ type: 'add-layer', layer: 'element', params: { source: source.id }, zone });
  const { width, height, x, y, file } = source;
  const covers = x === 0 && y === 0 && width === document.size.width && height === document.size.height;
  const isDepth = roleSaysHowFar(source.role);
  const isInverted = source.scale === -1 && source.offset === 1;
  const findMaterials = async () => {
    try {
      const materials = await withProgress('Finding materials', (report) => {
        report(null, source.name);
        return engine.findMaterials(source, document.sources);
      });
      actions.edit({ type: 'set-materials', sourceId: source.id, materials });
    } catch (error) {
      showNotes('No materials were found', [`${source.name}: ${(error as Error).message}`]);
    }
  };

  return (
    <>
      <div className="border-b border-ink px-3 py-2">
        <button type="button" className="narrow text-[12px] text-faint hover:text-ink hover:underline" onClick={() => actions.selectSource(null)}>
          ← The whole set
        </button>
        <NameField label="Element" value={source.name} onCommit={(name) => set({ name })} className="w-full text-[15px] font-medium" />
        <p className="narrow truncate text-faint">
          {roleLabel(source.role)}: {source.guess ? `${source.guess.reason}, ${sureness(source.guess.confidence)}` : 'chosen by hand'}
        </p>
      </div>
      <Section title="How it is read">
        <Line label="Role">
          <Choice label="Role" value={source.role} options={roles.map(({ id, label }) => ({ value: id, label }))} onChange={(role) => void setRole(role)} />
        </Line>
        <Line label="Values">
          <Choice label="Encoding" value={source.encoding} options={encodings} onChange={(encoding) => set({ encoding })} />
        </Line>
        <Line label="Alpha">
          <Choice label="Alpha" value={source.alpha} disabled={source.alphaChannel === null} options={ALPHA_USES.filter((use) => (use === 'none') === (source.alphaChannel === null)).map((value) => ({ value, label: alphaLabels[value] }))} onChange={(alpha) => set({ alpha })} />
        </Line>
      </Section>
      {(source.findings.length > 0 || source.scale !== 1 || source.offset !== 0 || isDepth) && (
        <Section title={source.findings.length > 0 ? 'To look at' : 'What its values mean'}>
          {source.findings.map(({ kind, sentence }) => (
            <p key={kind} className="mb-1.5">
              {sentence}
            </p>
          ))}
          {isDepth ? (
            <>
              <NumberField label="Value 0 is at" value={source.offset} min={0} max={10_000} step={0.5} digits={2} unit="m" initial={0} onChange={(near, gesture) => set({ offset: near, scale: source.offset + source.scale - near }, gesture)} />
              <NumberField label="Value 1 is at" value={source.offset + source.scale} min={0} max={10_000} step={0.5} digits={2} unit="m" initial={1} onChange={(far, gesture) => set({ scale: far - source.offset }, gesture)} />
            </>
          ) : (
            <div className="flex flex-wrap gap-1.5">
              <Button onClick={() => set(isInverted ? { scale: 1, offset: 0 } : { scale: -1, offset: 1 })}>{isInverted ? 'As it was' : 'Invert'}</Button>
              {!isInverted && (source.scale !== 1 || source.offset !== 0) && <Button onClick={() => set({ scale: 1, offset: 0 })}>Not scaled by {source.scale.toFixed(3)}</Button>}
            </div>
          )}
        </Section>
      )}
      {!covers && (
        <Section title="Its place in the picture">
          <p className="mb-1.5 text-faint">
            It is {width} × {height}
            {source.fit ? `, drawn at ${source.fit.width} × ${source.fit.height}` : ''}, the picture {document.size.width} × {document.size.height}.
          </p>
          <div className="flex flex-wrap gap-1.5">
            <Button onClick={() => set({ fit: document.size, x: 0, y: 0 })}>
              Scale to the picture
            </Button>
            <Button onClick={() => set(filling(source, document.size))}>Fill and crop</Button>
            <Button onClick={() => set({ fit: null, x: Math.round((document.size.width - width) / 2), y: Math.round((document.size.height - height) / 2) })}>In the middle</Button>
            <Button onClick={() => set({ fit: null, x: 0, y: 0 })}>At the upper left</Button>
          </div>
          <NumberField label="From the left" value={x} min={-65_536} max={65_536} step={1} digits={0} unit="px" initial={0} onChange={(left, gesture) => set({ x: Math.round(left) }, gesture)} />
          <NumberField label="From the top" value={y} min={-65_536} max={65_536} step={1} digits={0} unit="px" initial={0} onChange={(top, gesture) => set({ y: Math.round(top) }, gesture)} />
        </Section>
      )}
      <Section title="Use">
        {isAdditive(source.role) && (
          <Line label="In the sum">
            <Choice label="Counts in the sum" value={source.inSum} options={sums} onChange={(inSum) => set({ inSum })} />
          </Line>
        )}
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
            {formats[file.format]}, {(file.byteLength / 2 ** 20).toFixed(1)} MB
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
