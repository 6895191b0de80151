/** Corrections that can be read from a file and written to one, by their id. */
import type { KeptValues } from '@tazzel/core';
import { cdlFile, type ColorDecision, readCdl, safeName } from '@tazzel/formats';
import { download } from '../ui/download.ts';
import { showNotes } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { FileButton } from '../ui/file-button.tsx';

interface CorrectionFile {
  readonly label: string;
  readonly accept: string;
  readonly extension: string;
  readonly type: string;
  /** @throws Error with a sentence; the second value says what is left aside. */
  readonly read: (text: string, fileName: string) => readonly [params: KeptValues, note: string | null];
  readonly write: (params: KeptValues, name: string) => string;
}

const files: Readonly<Record<string, CorrectionFile>> = {
  cdl: {
    label: 'Colour decision list',
    accept: '.cdl,.cc,.ccc,.xml',
    extension: 'cdl',
    type: 'application/xml',
    read: (text, fileName) => {
      const [{ name, ...params }, ...others] = readCdl(text, fileName);
      return [params, others.length > 0 ? `${fileName} holds ${others.length + 1} decisions; the first one${name ? ` (${name})` : ''} was taken.` : null];
    },
    write: (params, name) => cdlFile({ name, ...(params as unknown as Omit<ColorDecision, 'name'>) }),
  },
};

export function CorrectionFiles({ type, params, name, onChange }: { type: string; params: KeptValues; name: string; onChange: (params: KeptValues) => void }) {
  const file = files[type];
  if (!file) return null;
  const load = async (given: File | undefined) => {
    if (!given) return;
    try {
      const [found, note] = file.read(await given.text(), given.name);
      onChange(found);
      if (note) showNotes('About this file', [note]);
    } catch (error) {
      showNotes('The file could not be read', [(error as Error).message]);
    }
  };
  return (
    <div className="flex flex-wrap gap-1.5 pb-1">
      <FileButton text="From a file …" label={file.label} accept={file.accept} onFiles={([given]) => void load(given)} />
      <Button onClick={() => download(`${safeName(name)}.${file.extension}`, [file.write(params, name)], file.type)}>Save as .{file.extension}</Button>
    </div>
  );
}
