/** How the sheet is divided: widths and heights of the panels, which are folded, and whether the picture stands alone. Remembered in this browser. */
import { createStore, useStore } from 'zustand';
import { keepSetting, setting } from '../storage/database.ts';

export type Panel = 'schedules' | 'bench' | 'buildUp';

interface PanelSpec {
  readonly label: string;
  /** Pixels. */
  readonly initial: number;
  readonly least: number;
  readonly most: number;
}

export const panels: Readonly<Record<Panel, PanelSpec>> = {
  schedules: { label: 'schedules', initial: 248, least: 190, most: 520 },
  bench: { label: 'bench', initial: 254, least: 236, most: 460 },
  buildUp: { label: 'build-up', initial: 154, least: 148, most: 320 },
};

export interface Layout {
  readonly sizes: Readonly<Record<Panel, number>>;
  readonly folded: Readonly<Record<Panel, boolean>>;
  /** Nothing but the picture; not remembered. */
  readonly isAlone: boolean;
}

export const layoutStore = createStore<Layout>(() => ({
  sizes: { schedules: panels.schedules.initial, bench: panels.bench.initial, buildUp: panels.buildUp.initial },
  folded: { schedules: false, bench: false, buildUp: false },
  isAlone: false,
}));

const within = (panel: Panel, size: number) => Math.round(Math.min(panels[panel].most, Math.max(panels[panel].least, size)));

function keep(next: Partial<Layout>): void {
  layoutStore.setState(next);
  const { sizes, folded } = layoutStore.getState();
  keepSetting('layout', { sizes, folded });
}

export const resizePanel = (panel: Panel, size: number): void => keep({ sizes: { ...layoutStore.getState().sizes, [panel]: within(panel, size) } });
export const foldPanel = (panel: Panel, isFolded = !layoutStore.getState().folded[panel]): void => keep({ folded: { ...layoutStore.getState().folded, [panel]: isFolded }, isAlone: false });
export const setAlone = (isAlone = !layoutStore.getState().isAlone): void => layoutStore.setState({ isAlone });

/** Brings back how the sheet was divided; what does not fit any more is left out. */
export async function restoreLayout(): Promise<void> {
  const kept = await setting<Partial<Layout> | null>('layout', null);
  const { sizes, folded } = layoutStore.getState();
  const each = <V>(values: unknown, now: Readonly<Record<Panel, V>>, read: (panel: Panel, value: unknown) => V | null): Record<Panel, V> =>
    Object.fromEntries((Object.keys(panels) as Panel[]).map((panel) => [panel, read(panel, (values as Record<string, unknown> | null | undefined)?.[panel]) ?? now[panel]])) as Record<Panel, V>;
  layoutStore.setState({
    sizes: each(kept?.sizes, sizes, (panel, value) => (typeof value === 'number' && Number.isFinite(value) ? within(panel, value) : null)),
    folded: each(kept?.folded, folded, (_, value) => (typeof value === 'boolean' ? value : null)),
  });
}

export const useLayout = <T>(select: (layout: Layout) => T): T => useStore(layoutStore, select);
