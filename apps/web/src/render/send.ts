/** A render on its way into a document, without a detour over the disk. */
import { addElements, applyEdit, type TazzelDocument } from '@tazzel/core';
import { concatenate } from '@tazzel/formats';
import { materialIds, nameOfColor, type SceneDescription } from '@tazzel/renderer';
import { getEngine } from '../engine.ts';
import { takeInAll } from '../intake.ts';
import { showReport, withProgress } from '../notices.tsx';
import { openFiles } from '../opening.ts';
import { loadDocument, saveDocument } from '../storage/documents.ts';
import { bench } from './bench-store.ts';

/** Puts the elements into a document, or into a new one. Returns its id; null if nothing was read. */
export async function sendRender(documentId: string | null): Promise<string | null> {
  const { choices } = bench.store.getState();
  const { stem, files } = await withProgress('Handing over the elements', (report) => {
    report(null, 'packing');
    return bench.files({ layout: 'multi-part', bits: 16, clean: choices.denoise === 'all' });
  });
  const file = new File([concatenate(files[0].parts) as Uint8Array<ArrayBuffer>], `${stem}.exr`, { type: 'image/x-exr' });
  const scene = bench.store.getState().job?.scene ?? null;
  if (documentId === null) {
    const id = await openFiles([file], takeInAll);
    if (id && scene) await nameMaterials(id, scene);
    return id;
  }
  const engine = await getEngine();
  const stored = await loadDocument(documentId, engine);
  if (!stored) throw new Error('This document is not in the browser any more. Choose another one.');
  const { sources, materials, problems } = await withProgress('Reading the elements', (report, signal) => takeInAll(engine, stored.document, [file], ({ name }) => report(null, name), signal));
  showReport('About these elements', problems);
  if (sources.length === 0) return null;
  let document = addElements(stored.document, sources);
  if (materials.length > 0) document = applyEdit(document, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
  await saveDocument(document, Date.now());
  if (scene) await nameMaterials(documentId, scene);
  return documentId;
}

/** The schedule takes its names from the scene: the colours of the ID picture tell which is which. */
async function nameMaterials(id: string, scene: SceneDescription): Promise<void> {
  const engine = await getEngine();
  const stored = await loadDocument(id, engine);
  if (!stored) return;
  const rows = materialIds(scene);
  let document: TazzelDocument = stored.document;
  for (const material of document.materials) {
    const name = nameOfColor(rows, material.chip);
    if (name !== null && material.name === material.tag) document = applyEdit(document, { type: 'rename-material', materialId: material.id, name });
  }
  if (document !== stored.document) await saveDocument(document, Date.now());
}
