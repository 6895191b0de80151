import { layersOn, type Material, type TazzelDocument } from '@tazzel/core';
import { memo, useDeferredValue } from 'react';
import { Download } from 'lucide-react';
import { safeName } from '@tazzel/formats';
import { download } from '../ui/download.ts';
import { Chip } from '../ui/chip.tsx';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { lrvOf } from './lrv.ts';
import { scheduleCsv } from './schedule-csv.ts';
import { type Column, Schedule } from './table.tsx';

export const percent = (share: number) => (share * 100).toFixed(share < 0.0995 ? 2 : 1);

/** Drawn when there is time: hundreds of rows must not hold up a slider. */
export function MaterialSchedule() {
  return <Rows document={useDeferredValue(useDocument())} />;
}

const Rows = memo(function Rows({ document }: { document: TazzelDocument }) {
  const actions = useActions();
  const selectedIds = useSession((state) => state.selectedMaterialIds);
  const hoveredId = useSession((state) => state.hoveredMaterialId);
  const pointAt = useSession((state) => state.pointAt);
  const isReading = useSession((state) => state.readsSchedule);
  const kinds = new Set(document.materials.map(({ kind }) => kind));
  const rows = kinds.size > 1 ? document.materials.filter(({ kind }) => kind === pointAt) : document.materials;
  const columns: readonly Column<Material>[] = [
    {
      id: 'tag',
      label: 'Tag',
      width: '26%',
      sortBy: (row) => row.tag,
      cell: (row) => (
        <span className="flex items-center gap-1.5">
          <Chip color={row.chip} />
          <span className="figure">{row.tag}</span>
        </span>
      ),
    },
    {
      id: 'name',
      label: kinds.has('material') && pointAt === 'material' ? 'Material' : 'Object',
      width: '29%',
      sortBy: (row) => row.name,
      cell: (row) => <NameField label={row.tag} value={row.name} onCommit={(name) => actions.edit({ type: 'rename-material', materialId: row.id, name })} onSelect={() => undefined} className="max-w-full" />,
    },
    { id: 'area', label: 'Area', width: '17%', align: 'right', sortBy: (row) => -row.area, cell: (row) => (row.area * 100).toFixed(1) },
    { id: 'lrv', label: 'LRV', width: '14%', align: 'right', sortBy: (row) => lrvOf(document, row) ?? -1, cell: (row) => lrvOf(document, row)?.toFixed(0) ?? '–' },
    { id: 'done', label: 'Uses', width: '14%', align: 'right', sortBy: (row) => -layersOn(document, row.id).length, cell: (row) => layersOn(document, row.id).length || '' },
  ];
  return (
    <Schedule
      title="Material schedule"
      rows={rows}
      columns={columns}
      idOf={(row) => row.id}
      textOf={(row) => `${row.tag} ${row.name} ${row.surface ?? ''}`}
      selectedIds={selectedIds}
      markedId={hoveredId}
      onSelect={(id, event) => actions.selectMaterial(id, event.ctrlKey || event.metaKey || event.shiftKey ? 'toggle' : 'only')}
      onHover={(id) => actions.set({ hoveredMaterialId: id })}
      action={
        rows.length > 0 && (
          <IconButton label="Save the schedule as CSV" onClick={() => download(`${safeName(document.name)}_schedule.csv`, [scheduleCsv(document)], 'text/csv')}>
            <Download size={13} aria-hidden />
          </IconButton>
        )
      }
      empty={isReading ? 'Reading materials and objects from the pictures of IDs …' : 'No materials yet. Add a material ID picture: every material in one flat colour. If it is in the document already, select it under Elements and choose “Find materials”.'}
    />
  );
});
