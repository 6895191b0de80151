import type { Material } from '@tazzel/core';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { Chip } from '../ui/chip.tsx';
import { NameField } from '../ui/name-field.tsx';
import { type Column, Schedule } from './table.tsx';

export const percent = (share: number) => (share * 100).toFixed(share < 0.0995 ? 2 : 1);

export function MaterialSchedule() {
  const document = useDocument();
  const actions = useActions();
  const selectedId = useSession((state) => state.selectedMaterialId);
  const hoveredId = useSession((state) => state.hoveredMaterialId);
  const columns: readonly Column<Material>[] = [
    {
      id: 'tag',
      label: 'Tag',
      width: '27%',
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
      label: 'Material',
      width: '48%',
      sortBy: (row) => row.name,
      cell: (row) => <NameField label={row.tag} value={row.name} onSelect={() => actions.selectMaterial(row.id)} onCommit={(name) => actions.edit({ type: 'rename-material', materialId: row.id, name })} className="max-w-full" />,
    },
    { id: 'area', label: 'Area %', width: '25%', align: 'right', sortBy: (row) => -row.area, cell: (row) => percent(row.area) },
  ];
  return (
    <Schedule
      title="Material schedule"
      rows={document.materials}
      columns={columns}
      idOf={(row) => row.id}
      textOf={(row) => `${row.tag} ${row.name}`}
      selectedId={selectedId}
      markedId={hoveredId}
      onSelect={actions.selectMaterial}
      onHover={(id) => actions.set({ hoveredMaterialId: id })}
      empty="No materials yet. Add a material ID picture: every material in one flat colour. If it is in the document already, select it under Elements and choose “Find materials”."
    />
  );
}
