/** The ways to a document: from files, from a project file, from the demo. */
import { addElements, applyEdit, documentOfStack, emptyDocument, FIGURE_SHELF, readDocument } from '@tazzel/core';
import { byteSource, fileStem, neededFiles, OPENRASTER_ENDING, PROJECT_EXTENSION, readOpenRaster } from '@tazzel/formats';
import { getEngine } from './engine.ts';
import { importProject } from './files.ts';
import { takeIn } from './intake.ts';
import { showNotes, showReport, withProgress } from './notices.tsx';
import { storageError } from './storage/database.ts';
import { createDocument, hasDocument } from './storage/documents.ts';
import { storedHashes, storeFile } from './storage/files.ts';
import { whileFilesArrive } from './storage/locks.ts';

export const DEMO_ID = 'demo';

const isProject = (file: File) => file.name.toLowerCase().endsWith(`.${PROJECT_EXTENSION}`);
const isStack = (file: File) => file.name.toLowerCase().endsWith(`.${OPENRASTER_ENDING}`);
const number = (count: number, what: string) => `${count} ${what}${count === 1 ? '' : 's'}`;

/** Opens dropped or chosen files, read by `take`. Returns the id of the document to go to, or null if nothing could be read. */
export async function openFiles(files: readonly File[], take: typeof takeIn = takeIn): Promise<string | null> {
  const projects = files.filter(isProject);
  if (projects.length > 0) {
    const others = files.filter((file) => !isProject(file));
    return openProject(projects[0], [...projects.slice(1), ...others].map((file) => `${file.name} was not opened: one project file is opened at a time. Drop pictures into an open document.`));
  }
  const stack = files.find(isStack);
  return stack ? openStack(stack, files.filter((file) => file !== stack), take) : newDocument(files, take);
}

/** A file of layers as a new document: each of its pictures becomes an element, each layer a layer. */
async function openStack(file: File, others: readonly File[], take: typeof takeIn): Promise<string | null> {
  try {
    const engine = await getEngine();
    engine.keepOnly(new Set());
    return await whileFilesArrive(async () => {
      const { id, problems } = await withProgress('Opening the layers', async (report, signal) => {
        report(null, file.name);
        const { width, height, items, files, problems: lost } = await readOpenRaster(byteSource(file.name, new Uint8Array(await file.arrayBuffer())));
        const pictures = files.map(({ name, bytes }) => new File([bytes as Uint8Array<ArrayBuffer>], name));
        const { sources, problems: found } = await take(engine, emptyDocument('', '', { width, height }), pictures, ({ share, name }) => report(share, name), signal);
        const made = documentOfStack(crypto.randomUUID(), fileStem(file.name), { width, height }, items, sources);
        // What elements of a render would be told does not matter of finished pictures.
        const refused = found.filter((sentence) => pictures.some(({ name }) => sentence.startsWith(name) && !sources.some((source) => source.file.name === name)));
        if (made.document.buildUp.picture.length === 0) throw new Error(`None of the layers of ${file.name} could be read. ${refused.join(' ')}`);
        await createDocument(made.document);
        return { id: made.document.id, problems: [...lost, ...refused, ...made.problems, ...others.map(({ name }) => `${name} was not opened: a file of layers is opened by itself. Drop pictures into the open document.`)] };
      });
      showNotes('About these layers', problems);
      return id;
    });
  } catch (error) {
    if ((error as Error).name !== 'Cancelled') showReport('The layers could not be opened', [storageError(error, file.name).message]);
    return null;
  }
}

async function openProject(file: File, notes: readonly string[]): Promise<string | null> {
  try {
    const { id, problems } = await withProgress('Opening the project file', (report, signal) => {
      report(null, file.name);
      return importProject(file, (share) => report(share, file.name), signal);
    });
    showReport('Opened with gaps', [...problems, ...notes]);
    return id;
  } catch (error) {
    if ((error as Error).name !== 'Cancelled') showReport('The project file could not be opened', [storageError(error, file.name).message]);
    return null;
  }
}

async function newDocument(files: readonly File[], take: typeof takeIn): Promise<string | null> {
  try {
    const engine = await getEngine();
    engine.keepOnly(new Set());
    return await whileFilesArrive(async () => {
      const { sources, materials, size, facts, problems } = await withProgress(`Reading ${number(files.length, 'file')}`, (report, signal) => take(engine, null, files, ({ share, name }) => report(share, name), signal));
      if (!size || sources.length === 0) {
        showReport('No document was made', problems.length > 0 ? problems : ['Nothing was read.']);
        return null;
      }
      const named = sources.find((source) => source.role.includes('beauty')) ?? sources[0];
      let document = addElements(emptyDocument(crypto.randomUUID(), fileStem(named.file.name), size), sources, facts);
      if (materials.length > 0) document = applyEdit(document, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
      await createDocument(document);
      showNotes('About these files', problems);
      return document.id;
    });
  } catch (error) {
    showReport('No document was made', [storageError(error, 'the new document').message]);
    return null;
  }
}

/** The documents that come with the product, by the last part of their address. */
export const DEMOS = {
  courtyard: { id: DEMO_ID, file: 'document.json' },
  'reading-room': { id: `${DEMO_ID}-reading-room`, file: 'reading-room.json' },
  'late-sun': { id: `${DEMO_ID}-late-sun`, file: 'late-sun.json' },
  'misty-morning': { id: `${DEMO_ID}-misty-morning`, file: 'misty-morning.json' },
} as const;
export type DemoName = keyof typeof DEMOS;

/** Puts a demo into the storage unless it is there already. @throws Error with a sentence */
export async function openDemo(name: DemoName = 'courtyard'): Promise<string> {
  const demo = DEMOS[name];
  if (await hasDocument(demo.id)) return demo.id;
  await withProgress('Preparing the demo', (report, signal) => whileFilesArrive(() => fetchDemo(demo.file, report, signal)));
  return demo.id;
}

async function fetchDemo(documentFile: string, report: (share: number | null, detail?: string) => void, signal: AbortSignal): Promise<void> {
  const get = async (file: string) => {
    // Pictures of figures lie with the shelf.
    const response = await fetch(FIGURE_SHELF.some(({ id }) => file === `${id}.png`) ? `/figures/${file}` : `/demo/${file}`, { signal }).catch((error: Error) => {
      throw error.name === 'AbortError' ? new Error('The demo was not opened, because it was cancelled.') : new Error(`The demo’s file ${file} could not be fetched: the server does not answer. Start it again with “npm run demo”.`);
    });
    if (!response.ok) throw new Error(`The demo’s file ${file} is not on the server. Run “npm run demo” again.`);
    return response;
  };
  const { document, problems } = readDocument(await (await get(documentFile)).json());
  if (problems.length > 0) throw new Error(problems[0]);
  const needed = neededFiles(document);
  const stored = await storedHashes();
  for (const [i, file] of needed.entries()) {
    report(i / needed.length, file.name);
    if (stored.has(file.hash)) continue;
    const blob = await (await get(file.name)).blob();
    await storeFile(file.hash, blob).catch((error) => Promise.reject(storageError(error, 'the demo')));
  }
  await createDocument(document);
}
