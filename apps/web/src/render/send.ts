/** A render on its way into a document, without a detour over the disk. */
import { addElements, applyEdit, type TazzelDocument } from '@tazzel/core';
import { concatenate } from '@tazzel/formats';
import { materialIds, nameOfColor, type SceneDescription } from '@tazzel/renderer';
import { getEngine } from '../engine.ts';
import { takeInAll } from '../intake.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { openFiles } from '../opening.ts';
import { changeDocument, loadDocument } from '../storage/documents.ts';
import { whileFilesArrive } from '../storage/locks.ts';
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
    if (id && scene) await changeDocument(id, (document) => namedMaterials(document, scene));
    return id;
  }
  const engine = await getEngine();
  let isSent = false;
  await whileFilesArrive(() =>
    changeDocument(documentId, async (stored) => {
      await loadDocument(documentId, engine);
      const { sources, materials, facts, problems } = await withProgress('Reading the elements', (report, signal) => takeInAll(engine, stored, [file], ({ share, name }) => report(share, name), signal));
      showNotes('About these elements', problems);
      if (sources.length === 0) return stored;
      isSent = true;
      let document = addElements(stored, sources, facts);
      if (materials.length > 0) document = applyEdit(document, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
      return scene ? namedMaterials(document, scene) : document;
    }),
  );
  return isSent ? documentId : null;
}

/** The schedule takes its names from the scene: the colours of the ID picture tell which is which. */
function namedMaterials(document: TazzelDocument, scene: SceneDescription): TazzelDocument {
  const rows = materialIds(scene);
  let named = document;
  for (const material of document.materials) {
    const name = nameOfColor(rows, material.chip);
    if (name !== null && material.name === material.tag) named = applyEdit(named, { type: 'rename-material', materialId: material.id, name });
  }
  return named;
}
