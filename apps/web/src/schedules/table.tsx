/** A schedule: titled table with search and columns that sort. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { usePieces } from '../ui/pieces.ts';
import { ArrowDown, ArrowUp, Search } from 'lucide-react';
import { type MouseEvent, type ReactNode, useEffect, useRef, useState } from 'react';

export interface Column<Row> {
  readonly id: string;
  readonly label: string;
  readonly width: string;
  readonly align?: 'right';
  readonly sortBy: (row: Row) => string | number;
  readonly cell: (row: Row) => ReactNode;
}

interface ScheduleProps<Row> {
  readonly title: string;
  readonly rows: readonly Row[];
  readonly columns: readonly Column<Row>[];
  readonly idOf: (row: Row) => string;
  readonly textOf: (row: Row) => string;
  readonly selectedIds: readonly string[];
  readonly markedId?: string | null;
  readonly onSelect: (id: string, event: MouseEvent) => void;
  readonly onHover?: (id: string | null) => void;
  readonly empty: ReactNode;
  readonly grow?: boolean;
  /** How high it gets where it does not grow. */
  readonly most?: string;
  /** Beside the title. */
  readonly action?: ReactNode;
  readonly below?: ReactNode;
}

/** What rows are sorted by is asked of each once. */
function sortedBy<Row>(rows: readonly Row[], of: (row: Row) => string | number, down: boolean): Row[] {
  const valued = rows.map((row) => ({ row, value: of(row) }));
  return valued.sort((a, b) => compareValues(a.value, b.value) * (down ? -1 : 1)).map(({ row }) => row);
}

const compareValues = (a: string | number, b: string | number) => (typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b), 'en', { numeric: true }));

/** Height of a row in pixels, and of the head that covers the first. */
const [ROW, HEAD] = [25, 22];
/** Schedules up to so long are drawn whole. */
const ALL_DRAWN = 60;

export function Schedule<Row>({ title, rows, columns, idOf, textOf, selectedIds, markedId, onSelect, onHover, empty, grow = true, most, action, below }: ScheduleProps<Row>) {
  const [search, setSearch] = useState('');
  const [order, setOrder] = useState<{ column: string; down: boolean } | null>(null);
  const wanted = search.trim().toLowerCase();
  const found = rows.filter((row) => wanted === '' || textOf(row).toLowerCase().includes(wanted));
  const column = columns.find((candidate) => candidate.id === order?.column);
  const sorted = column ? sortedBy(found, column.sortBy, order?.down === true) : found;
  const sort = (id: string) => setOrder((old) => (old?.column !== id ? { column: id, down: false } : old.down ? null : { column: id, down: true }));

  // What has one column needs no head.
  const isList = columns.length === 1;
  const isLong = sorted.length > ALL_DRAWN;
  const rowsIn = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    count: sorted.length,
    getScrollElement: () => rowsIn.current,
    getItemKey: (i) => idOf(sorted[i]),
    estimateSize: () => ROW,
    scrollPaddingStart: HEAD,
    overscan: 8,
    enabled: isLong,
  });
  // What was selected elsewhere is brought into sight.
  const last = selectedIds.at(-1);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for a selection, not whenever rows are sorted
  useEffect(() => {
    const at = last === undefined ? -1 : sorted.findIndex((row) => idOf(row) === last);
    if (at < 0) return;
    if (isLong) virtual.scrollToIndex(at, { align: 'auto' });
    else rowsIn.current?.querySelector(`[data-row="${CSS.escape(last ?? '')}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [last]);
  const drawn = isLong ? virtual.getVirtualItems() : [];
  const pieces = usePieces(sorted.length, 12, 8);
  const shown = isLong ? drawn.map(({ index }) => index) : [...sorted.keys()].slice(0, pieces);
  const selected = new Set(selectedIds);
  const space = (height: number) => height > 0 && <tr aria-hidden style={{ height }} />;

  return (
    <section aria-label={title} className={`flex min-h-0 flex-col border-b ${grow ? 'flex-1' : (most ?? (isList ? 'max-h-[22%]' : 'max-h-[40%]'))}`}>
      <div className="flex h-[30px] shrink-0 items-center gap-2 border-b px-2">
        <h2 className="lettering flex-1 truncate">{title}</h2>
        {rows.length > 4 && (
          <label className="relative">
            <span className="sr-only">Search {title.toLowerCase()}</span>
            <Search size={12} aria-hidden className="absolute top-1.5 left-1.5 text-faint" />
            <input type="search" value={search} onChange={(event) => setSearch(event.currentTarget.value)} className={`field pl-5.5 text-[12px] ${action ? 'w-16' : 'w-24'}`} />
          </label>
        )}
        {action}
        <span className="figure text-faint">{rows.length}</span>
      </div>
      {rows.length === 0 ? (
        <div className={`text-faint ${isList ? 'overflow-y-auto px-3 py-1.5 text-[12px]' : 'p-3'}`}>{empty}</div>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard
        <section ref={rowsIn} className="min-h-0 flex-1 overflow-auto" tabIndex={0} aria-label={`${title}, rows`}>
          <table aria-rowcount={sorted.length + 1} className="w-full table-fixed border-collapse">
            <colgroup>
              {columns.map(({ id, width }) => (
                <col key={id} style={{ width }} />
              ))}
            </colgroup>
            <thead className={isList ? 'sr-only' : 'sticky top-0 z-10 bg-panel'}>
              <tr className="border-b border-rule">
                {columns.map(({ id, label, align }) => (
                  <th key={id} scope="col" aria-sort={order?.column === id ? (order.down ? 'descending' : 'ascending') : 'none'} className={`px-1.5 py-0.5 font-normal ${align === 'right' ? 'text-right' : 'text-left'}`}>
                    <button type="button" onClick={() => sort(id)} className="lettering inline-flex items-center gap-0.5 text-[10px] text-faint hover:text-ink">
                      {label}
                      {order?.column === id && (order.down ? <ArrowDown size={10} aria-hidden /> : <ArrowUp size={10} aria-hidden />)}
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {space(drawn[0]?.start ?? 0)}
              {shown.map((index) => {
                const row = sorted[index];
                const id = idOf(row);
                return (
                  <tr
                    key={id}
                    aria-rowindex={index + 2}
                    data-selected={selected.has(id)}
                    data-row={id}
                    onClick={(event) => onSelect(id, event)}
                    onPointerEnter={() => onHover?.(id)}
                    onPointerLeave={() => onHover?.(null)}
                    className={`border-b hover:bg-sheet data-[selected=true]:bg-sheet data-[selected=true]:shadow-[inset_3px_0_0_var(--accent)] ${id === markedId ? 'bg-sheet' : ''}`}
                  >
                    {columns.map(({ id: columnId, align, cell }) => (
                      <td key={columnId} className={`truncate px-1.5 py-[3px] ${align === 'right' ? 'figure text-right' : ''}`}>
                        {cell(row)}
                      </td>
                    ))}
                  </tr>
                );
              })}
              {isLong && space(virtual.getTotalSize() - (drawn.at(-1)?.end ?? 0))}
            </tbody>
          </table>
          {sorted.length === 0 && <p className="p-3 text-faint">Nothing here is called “{search.trim()}”.</p>}
        </section>
      )}
      {below}
    </section>
  );
}
