import { type LutParam, NO_LUT } from '@tazzel/core';
import { readLut } from '@tazzel/formats';
import { X } from 'lucide-react';
import { showNotes } from '../notices.tsx';
import { IconButton } from '../ui/button.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Line } from '../ui/section.tsx';
import type { FieldProps } from './field.ts';

/** A table of colours, read from a file; it is kept in the document. */
export function LutField({ param: { label, help }, value, onChange }: FieldProps<LutParam>) {
  const load = async (file: File | undefined) => {
    if (!file) return;
    try {
      onChange(readLut(await file.text(), file.name), `lut ${file.name}`);
    } catch (error) {
      showNotes('The table could not be read', [(error as Error).message]);
    }
  };
  return (
    <>
      <Line label={label}>
        <span className="flex min-w-0 items-center gap-1">
          <span className="min-w-0 flex-1 truncate">{value.steps.length === 0 ? <span className="text-faint">none yet</span> : value.name}</span>
          {value.steps.length > 0 && (
            <IconButton label="Without the table" onClick={() => onChange(NO_LUT, 'no lut')}>
              <X size={13} aria-hidden />
            </IconButton>
          )}
          <FileButton text="File …" label="Table of colours" accept=".cube,.clf,.xml" onFiles={([file]) => void load(file)} />
        </span>
      </Line>
      <p className="text-[12px] text-faint">{help}</p>
    </>
  );
}
