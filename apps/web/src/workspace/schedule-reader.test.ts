import { emptyDocument, type Source } from '@tazzel/core';
import { createSession } from '@tazzel/editor';
import { afterEach, expect, it, vi } from 'vitest';
import { material, source } from '../../../../tests/documents.ts';

const told: string[] = [];
vi.mock('sonner', () => ({ toast: (sentence: string) => void told.push(sentence) }));
const { startScheduleReader } = await import('./schedule-reader.ts');

const size = { width: 8, height: 6 };
const ids = source(3, { role: 'material-id', encoding: 'data' });
const withIds = { ...emptyDocument('d', 'D', size), sources: [source(1, { role: 'beauty' }), ids] };
const reads: string[][] = [];
const engine = (result: Awaited<ReturnType<Parameters<typeof startScheduleReader>[0]['findSchedule']>>) => ({
  findSchedule: async (sources: readonly Source[]) => {
    reads.push(sources.map(({ id }) => id));
    return result;
  },
});
const rest = () => new Promise((resolve) => setTimeout(resolve));

afterEach(() => {
  told.length = 0;
  reads.length = 0;
});

it('fills an empty schedule while work goes on, and undoing does not forget it', async () => {
  const session = createSession(withIds);
  startScheduleReader(engine({ materials: [material(1, 'source-3')], problems: [] }), session);
  expect(session.getState().readsSchedule).toBe(true);
  session.actions.edit({ type: 'set-source', sourceId: 'source-1', patch: { scale: 2 } });
  await rest();
  expect(session.getState()).toMatchObject({ readsSchedule: false, document: { materials: [{ id: 'material-1' }] } });
  expect(session.getState().history.past).toHaveLength(1);
  session.actions.undo();
  expect(session.getState().document).toMatchObject({ materials: [{ id: 'material-1' }], sources: [{ scale: 1 }, {}] });
});

it('reads nothing where there are materials or no pictures of them', async () => {
  startScheduleReader(engine({ materials: [], problems: [] }), createSession({ ...withIds, materials: [material(1, 'source-3')] }));
  startScheduleReader(engine({ materials: [], problems: [] }), createSession({ ...withIds, sources: [source(1, { role: 'beauty' })] }));
  await rest();
  expect(reads).toEqual([]);
});

it('says what could not be read, once; new pictures are read again', async () => {
  const session = createSession(withIds);
  startScheduleReader(engine({ materials: [], problems: ['material_id: This does not look like an ID picture.'] }), session);
  await rest();
  session.actions.edit({ type: 'set-source', sourceId: 'source-1', patch: { scale: 2 } });
  await rest();
  expect([reads.length, told]).toEqual([1, ['material_id: This does not look like an ID picture.']]);
  session.actions.addElements([source(9, { role: 'object-id', encoding: 'data' })]);
  await rest();
  expect(reads.length).toBe(2);
});

it('leaves a document alone that was closed meanwhile', async () => {
  const session = createSession(withIds);
  startScheduleReader(engine({ materials: [material(1, 'source-3')], problems: [] }), session)();
  await rest();
  expect(session.getState().document.materials).toEqual([]);
});
