import { dayOf, type Delivery, NAME_PARTS, plannedPictures, sizeOfDelivery } from '@tazzel/core';
import { type DeliveredFile, deliverList } from '@tazzel/engine';
import { pictureFormatById, safeName, zipFiles } from '@tazzel/formats';
import { FolderOutput, Package, X } from 'lucide-react';
import { toast } from 'sonner';
import { download } from '../ui/download.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { Button, IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NameField } from '../ui/name-field.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import { chooseFolder, filesIn, hasFolders, writeInto } from './folder.ts';

const SCHEMES = [
  { value: 'all', label: 'Each scheme', hint: 'and the picture without any' },
  { value: 'shown', label: 'As shown', hint: 'the scheme that is shown' },
] as const;

/** What is delivered again and again, in one go: into a folder, or as one zip. */
export function DeliveriesSection() {
  const { engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const { deliveries } = document;
  const planned = plannedPictures(document, deliveries, dayOf(new Date()));
  const all = async (write: Parameters<typeof deliverList>[1]['write'], isTaken: (name: string) => boolean) =>
    withProgress('Delivering', (report, signal) => deliverList(engine, { document, deliveries, day: dayOf(new Date()), isTaken, write, signal, onProgress: (share, name) => report(share, name) }));
  const toZip = async () => {
    try {
      const files: { name: string; parts: readonly Uint8Array[] }[] = [];
      const report = await all(async (name, parts) => void files.push({ name, parts }), () => false);
      if (files.length > 0) download(`${safeName(document.name)}-${dayOf(new Date())}.zip`, [zipFiles(files) as Uint8Array<ArrayBuffer>], 'application/zip');
      tell(report, 'the zip in your downloads');
    } catch (error) {
      showNotes('The pictures were not delivered', [(error as Error).message]);
    }
  };
  const toFolder = async () => {
    try {
      const folder = await chooseFolder();
      if (!folder) return;
      const taken = await filesIn(folder);
      tell(await all((name, parts) => writeInto(folder, name, parts), (name) => taken.has(name)), `the folder ${folder.name}`);
    } catch (error) {
      showNotes('The pictures were not delivered', [(error as Error).message]);
    }
  };
  if (deliveries.length === 0) {
    return (
      <Section title="Deliveries">
        <p className="text-faint">What you keep in the list is delivered in one go, of each scheme.</p>
      </Section>
    );
  }
  return (
    <Section title="Deliveries">
      <ul>
        {deliveries.map((delivery) => (
          <li key={delivery.id} className="border-b border-hair py-1 last:border-b-0">
            <div className="flex items-center gap-1">
              <NameField label="Name of the files" value={delivery.name} onCommit={(name) => actions.edit({ type: 'set-delivery', deliveryId: delivery.id, patch: { name } })} className="min-w-0 flex-1" />
              <IconButton label={`Remove the delivery ${delivery.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'remove-delivery', deliveryId: delivery.id })}>
                <X size={13} aria-hidden />
              </IconButton>
            </div>
            <div className="flex items-center gap-2">
              <span className="narrow min-w-0 flex-1 truncate text-[12px] text-faint">{described(document, delivery)}</span>
              <Choice label={`Schemes of ${delivery.name}`} value={delivery.schemes} options={SCHEMES} onChange={(schemes) => actions.edit({ type: 'set-delivery', deliveryId: delivery.id, patch: { schemes } })} className="h-[22px] w-[122px] shrink-0" />
            </div>
          </li>
        ))}
      </ul>
      <details className="py-1 text-[12px] text-faint">
        <summary className="cursor-pointer hover:text-ink">
          {planned.length} {planned.length === 1 ? 'file' : 'files'}
        </summary>
        <ul aria-label="Files" className="figure pl-3">
          {planned.map(({ name, delivery, schemeId }) => (
            <li key={`${delivery.id} ${schemeId}`} className="truncate">
              {safeName(name)}.{pictureFormatById(delivery.format)?.endings[0] ?? delivery.format}
            </li>
          ))}
        </ul>
        <p className="pt-1">A name may hold {Object.entries(NAME_PARTS).map(([part, meaning], i) => `${i > 0 ? ', ' : ''}{${part}} (${meaning})`)}. Two alike get numbers; nothing is overwritten.</p>
      </details>
      <div className="flex gap-1.5">
        {hasFolders() && (
          <Button look="main" className="h-8 flex-1" onClick={() => void toFolder()}>
            <FolderOutput size={14} aria-hidden /> Folder …
          </Button>
        )}
        <Button look={hasFolders() ? 'plain' : 'main'} className="h-8 flex-1" onClick={() => void toZip()}>
          <Package size={14} aria-hidden /> As one zip
        </Button>
      </div>
    </Section>
  );
}

function described(document: Parameters<typeof sizeOfDelivery>[0], delivery: Delivery): string {
  const { width, height } = sizeOfDelivery(document, delivery);
  return `${pictureFormatById(delivery.format)?.label ?? delivery.format}, ${width} × ${height}`;
}

/** What became of them: what is there, and each that is not, with why. */
function tell(files: readonly DeliveredFile[], where: string): void {
  const written = files.filter(({ bytes }) => bytes > 0);
  if (written.length > 0) toast(`${written.length} of ${files.length} files, ${(written.reduce((sum, { bytes }) => sum + bytes, 0) / 2 ** 20).toFixed(1)} MB, are in ${where}.`);
  showNotes(written.length === files.length ? 'Delivered, with remarks' : `${files.length - written.length} of ${files.length} files were not delivered`, files.flatMap(({ name, problems }) => problems.map((problem) => `${name}: ${problem}`)));
}
