import { useQuery } from '@tanstack/react-query';
import { zipFiles } from '@tazzel/formats';
import { bitsOf, LAYOUT_LABELS, LAYOUTS, type SaveSettings } from '@tazzel/renderer';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { useStore } from 'zustand';
import { download } from '../ui/download.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { listDocuments } from '../storage/rows.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line, Section } from '../ui/section.tsx';
import { bench } from './bench-store.ts';
import { sendRender } from './send.ts';

const NEW = 'new';
const megabytes = (bytes: number) => `${(bytes / 2 ** 20).toFixed(1)} MB`;

export function SaveSection({ disabled }: { disabled: boolean }) {
  const { layout, bits, denoise } = useStore(bench.store, (state) => state.choices);
  const hasJob = useStore(bench.store, (state) => state.job !== null);
  const [target, setTarget] = useState(NEW);
  const { data: documents = [] } = useQuery({ queryKey: ['documents'], queryFn: listDocuments, staleTime: 0 });
  const navigate = useNavigate();
  const possible = bitsOf(layout);
  const settings: SaveSettings = { layout, bits: possible.includes(bits) ? bits : possible[0], clean: denoise === 'all' };

  const save = async () => {
    try {
      const { stem, files, leftOut } = await withProgress('Writing the elements', (report) => {
        report(null, LAYOUT_LABELS[layout]);
        return bench.files(settings);
      });
      const bytes = (parts: readonly Uint8Array[]) => parts.reduce((sum, part) => sum + part.length, 0);
      if (files.length === 1) download(files[0].name, files[0].parts as Uint8Array<ArrayBuffer>[], 'image/x-exr');
      else if (files.length > 1) download(`${stem}.zip`, [zipFiles(files) as Uint8Array<ArrayBuffer>], 'application/zip');
      if (files.length > 0) toast(`${files.length === 1 ? files[0].name : `${stem}.zip with ${files.length} files`}, ${megabytes(files.reduce((sum, { parts }) => sum + bytes(parts), 0))}, is in your downloads.`);
      showNotes('Not everything was saved', leftOut);
    } catch (error) {
      showNotes('The elements were not saved', [(error as Error).message]);
    }
  };
  const send = async () => {
    try {
      const id = await sendRender(target === NEW ? null : target);
      if (id) await navigate(`/document/${id}/build-up`);
    } catch (error) {
      showNotes('The elements were not sent', [(error as Error).message]);
    }
  };
  return (
    <Section title="Save">
      <Line label="Files">
        <Choice label="Files" value={layout} options={LAYOUTS.map((value) => ({ value, label: LAYOUT_LABELS[value] }))} onChange={(next) => bench.choose({ layout: next })} />
      </Line>
      <Line label="Depth">
        <Choice label="Bits" value={String(settings.bits)} options={possible.map((value) => ({ value: String(value), label: layout === 'png' ? `${value} bit` : value === 16 ? 'Half, float where needed' : 'Float' }))} onChange={(value) => bench.choose({ bits: Number(value) as SaveSettings['bits'] })} />
      </Line>
      <Button className="mt-1 h-8 w-full" disabled={disabled || !hasJob} onClick={() => void save()}>
        Save all elements
      </Button>
      <div className="mt-3">
        <Line label="Document">
          <Choice label="Document" value={documents.some(({ id }) => id === target) ? target : NEW} options={[{ value: NEW, label: 'A new one' }, ...documents.filter(({ damage }) => damage === null).map(({ id, name, width, height }) => ({ value: id, label: name, hint: `${width} × ${height}`, group: 'In this browser' }))]} onChange={setTarget} />
        </Line>
      </div>
      <Button className="mt-1 h-8 w-full" disabled={disabled || !hasJob} onClick={() => void send()}>
        Send to the document
      </Button>
    </Section>
  );
}
