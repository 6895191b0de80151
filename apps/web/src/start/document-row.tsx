import { Copy, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { DocumentRow } from '../storage/rows.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';

const dates = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });

interface Props {
  readonly row: DocumentRow;
  readonly onOpen: () => void;
  readonly onRename: (name: string) => void;
  readonly onDuplicate: () => void;
  readonly onDelete: () => void;
  readonly onSalvage: () => void;
}

export function DocumentRowView({ row, onOpen, onRename, onDuplicate, onDelete, onSalvage }: Props) {
  const url = useObjectUrl(row.picture);
  return (
    <li className="flex items-center gap-4 border-b py-2.5">
      <button type="button" aria-label={`Open ${row.name}`} disabled={row.damage !== null} onClick={onOpen} className="group block h-24 w-36 shrink-0 border border-rule bg-field hover:border-ink">
        {url ? <img src={url} alt="" className="h-full w-full object-contain" /> : <span className="hatch-element block h-full w-full" />}
      </button>
      <div className="min-w-0 flex-1">
        {row.damage === null ? <NameField label="Name" value={row.name} onCommit={onRename} className="max-w-full text-[16px] font-medium" /> : <p className="text-[16px] font-medium">{row.name}</p>}
        {row.damage ? (
          <p className="text-warn">{row.damage}</p>
        ) : (
          <p className="figure text-faint">
            {row.width} × {row.height} · {row.layers} {row.layers === 1 ? 'layer' : 'layers'} · {row.savedAt === null ? 'date unknown' : dates.format(row.savedAt)}
          </p>
        )}
      </div>
      {row.damage === null ? <Button onClick={onOpen}>Open</Button> : <Button onClick={onSalvage}>Save what is there</Button>}
      {row.damage === null && (
        <IconButton label={`Duplicate ${row.name}`} onClick={onDuplicate}>
          <Copy size={14} aria-hidden />
        </IconButton>
      )}
      <IconButton label={`Delete ${row.name}`} onClick={onDelete}>
        <Trash2 size={14} aria-hidden />
      </IconButton>
    </li>
  );
}

function useObjectUrl(blob: Blob | null): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!blob) return setUrl(null);
    const made = URL.createObjectURL(blob);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [blob]);
  return url;
}
