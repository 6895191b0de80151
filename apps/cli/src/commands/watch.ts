import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { applyEdit, type Delivery, pictureSize, planRefresh, type TazzelDocument, USUAL_NAME } from '@tazzel/core';
import { type Engine, FolderWatch, isHalfWritten, isPassedOver, type ListedFile } from '@tazzel/engine';
import { neededFiles } from '@tazzel/formats';
import { type Command, type Invocation, roleOptions, text, UsageError } from '../command.ts';
import { deliverInto, expandFolders, megabytes, openProject, takeFiles, withEngine, writeProjectFile } from '../files.ts';

const SECONDS = 2;

/** What is delivered of a document that has no list. */
const FINISH: Delivery = { id: 'delivery-1', name: USUAL_NAME, format: 'png', values: {}, width: null, halvings: 0, filter: 'lanczos', upto: null, schemes: 'shown' };

export const watch: Command = {
  name: 'watch',
  summary: 'Looks at a folder: a render that is put into it takes the place of the one before, and the pictures are delivered again.',
  usage: 'watch FOLDER --document doc.tazzel --out pictures',
  options: {
    document: { type: 'string', value: 'FILE', help: 'The project file whose build-up is put over each render.' },
    out: { type: 'string', value: 'FOLDER', help: 'Where the pictures of its list of deliveries go; without a list the finished picture as PNG. Files that lie there stay: another one gets a number.' },
    save: { type: 'string', value: 'FILE', help: 'Keeps the document with the newest render in this project file as well.' },
    every: { type: 'string', value: 'SECONDS', help: `How often it looks, ${SECONDS} by default. What has changed between two looks is still being written, and waits.` },
    once: { type: 'boolean', help: 'Ends after the first render.' },
    ...roleOptions,
  },
  run: async (invocation) => {
    const [path, out, save] = ['document', 'out', 'save'].map((name) => text(invocation, name));
    const seconds = Number(text(invocation, 'every') ?? SECONDS);
    if (invocation.files.length !== 1 || !path || !out) throw new UsageError('Name one folder, a project file and a folder for the pictures: watch renders --document doc.tazzel --out pictures');
    if (!(seconds > 0 && seconds <= 86_400)) throw new UsageError(`--every ${text(invocation, 'every')}: expected seconds, up to 86400.`);
    const [folder] = invocation.files;
    if ((await stat(folder).catch(() => null))?.isDirectory() !== true) throw new UsageError(`${folder} is no folder.`);
    await withEngine(async (engine) => {
      let document = await openProject(engine, path, invocation.problem);
      const seen = new FolderWatch();
      invocation.say(`Looking at ${folder} every ${seconds} s. Ctrl+C ends it.`);
      for (;;) {
        const fresh = seen.look(await listed(folder));
        if (fresh.length > 0) {
          const next = await refreshed(engine, document, { ...invocation, files: fresh }, seen);
          if (next) {
            document = next;
            if (save) invocation.say(`${save}: ${megabytes(await writeProjectFile(engine, document, save))}`);
            const files = await deliverInto(engine, out, document, document.deliveries.length > 0 ? document.deliveries : [FINISH], invocation);
            if (invocation.values.once === true) return invocation.result({ elements: fresh.map((file) => basename(file)), files });
          }
        }
        await pause(seconds * 1000);
      }
    });
  },
};

/** Files of a folder, without hidden ones and what is written beside and moved into place. */
async function listed(folder: string): Promise<ListedFile[]> {
  const files: ListedFile[] = [];
  for (const path of await expandFolders([folder])) {
    const stats = await stat(path).catch(() => null);
    if (stats && !isPassedOver(basename(path))) files.push({ path, bytes: stats.size, changed: stats.mtimeMs });
  }
  return files;
}

/** The document with a newer render; null if one of the files is not whole and is waited for, or they fit nothing. */
async function refreshed(engine: Engine, document: TazzelDocument, invocation: Invocation, seen: FolderWatch): Promise<TazzelDocument | null> {
  const problems: string[] = [];
  const { read, facts, failed } = await takeFiles(engine, { ...invocation, problem: (sentence) => void problems.push(sentence) });
  const half = failed.find(isHalfWritten);
  if (half && seen.wait()) {
    invocation.say(`${half.message} It is looked at again when something changes.`);
    return null;
  }
  seen.done();
  for (const sentence of problems) invocation.problem(sentence);
  const sources = read.flatMap((file) => file.sources);
  const size = pictureSize(read);
  if (!size || sources.length === 0) return null;
  const { materials, problems: found } = await engine.findSchedule(sources);
  for (const sentence of found) invocation.problem(sentence);
  const plan = planRefresh(document, sources, materials, size, facts);
  if (plan.replaced.length === 0) {
    invocation.problem(`None of ${read.map(({ name }) => name).join(', ')} fits an element of the document, by role, name or part. Nothing was replaced.`);
    return null;
  }
  const next = applyEdit(document, { ...plan.edit, scales: plan.size !== null });
  invocation.say(`A newer render: ${plan.replaced.map(({ to }) => to).join(', ')}.${plan.added.length > 0 ? ` New: ${plan.added.join(', ')}.` : ''}`);
  // Pixels of the render before are let go.
  engine.keepOnly(new Set(neededFiles(next).map(({ hash }) => hash)));
  return next;
}
