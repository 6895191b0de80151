import { applyEdit, asPicture, figuresValues, findSource, freshIds, groundElement, heightAt, isFigures, layersInOrder, ownFigure, type PlacedFigure, standingAt, type TazzelDocument } from '@tazzel/core';
import { outlineOf, type Engine } from '@tazzel/engine';
import { sourcesFromReport } from '@tazzel/formats';
import { type Command, type Invocation, text, UsageError } from '../command.ts';
import { fileRef, megabytes, mustNotExist, openProject, withEngine, writeProjectFile } from '../files.ts';

export const figures: Command = {
  name: 'figures',
  summary: 'Stands cut-out pictures into a project file by its camera and depth, or lists those that stand there.',
  usage: 'figures doc.tazzel --list | --add FILE --at X,Y [--height METRES] --out other.tazzel',
  options: {
    list: { type: 'boolean', help: 'Say what stands where, and how tall it is.' },
    add: { type: 'string', value: 'FILE', help: 'A picture with an alpha: PNG, TIFF, WebP or OpenEXR.' },
    at: { type: 'string', value: 'X,Y', help: 'Where its foot is to be seen, in pixels of the picture. It stands on what the depth says is there.' },
    height: { type: 'string', value: 'METRES', help: 'From its foot to its top; 1.75 if it is not said.' },
    mirror: { type: 'boolean', help: 'Exchange left and right.' },
    out: { type: 'string', value: 'FILE', help: 'The project file to write.' },
    force: { type: 'boolean', help: 'Replace it if it exists.' },
  },
  run: async (invocation) => {
    if (invocation.files.length !== 1) throw new UsageError('Name one project file: figures doc.tazzel --list');
    const [add, out] = [text(invocation, 'add'), text(invocation, 'out')];
    if ((add === undefined) !== (out === undefined)) throw new UsageError('--add and --out belong together: the picture to stand up, and the project file to write.');
    if (out !== undefined) mustNotExist(out, invocation.values.force === true);
    await withEngine(async (engine) => {
      const opened = await openProject(engine, invocation.files[0], invocation.problem);
      const document = add === undefined ? opened : await withFigure(engine, opened, add, invocation);
      if (invocation.values.list === true || add === undefined) list(document, invocation);
      if (out !== undefined) invocation.say(`${out}: ${megabytes(await writeProjectFile(engine, document, out))}`);
    });
  },
};

/** @throws UsageError */
function numbers(option: string, given: string | undefined, count: number): readonly number[] {
  const found = given?.split(',').map((part) => Number(part.trim().replace('−', '-'))) ?? [];
  if (found.length !== count || given?.trim() === '' || found.some((value) => !Number.isFinite(value))) throw new UsageError(`--${option} ${given ?? ''}: expected ${count === 1 ? 'a number' : 'two numbers, X,Y'}.`);
  return found;
}

async function withFigure(engine: Engine, document: TazzelDocument, path: string, invocation: Invocation): Promise<TazzelDocument> {
  const [x, y] = numbers('at', text(invocation, 'at'), 2);
  const height = text(invocation, 'height');
  const ref = await fileRef(path);
  const hash = await engine.hash(ref);
  engine.files.set(hash, ref);
  const [source] = sourcesFromReport(await engine.inspect(ref), hash, freshIds(document, 'source')).map(asPicture);
  const outline = await outlineOf(engine, source);
  if (!outline) throw new Error(`${path}: all of it is transparent.`);
  if (source.alphaChannel === null) invocation.problem(`${path} has no alpha: all of it stands there. Cut it out first, or give the layer a mask.`);
  const hand = ownFigure(source.id, outline);
  const metres = groundElement(document);
  const there = metres && (await engine.valuesAt(metres, Math.floor(x), Math.floor(y)));
  const stood = standingAt(document, height === undefined ? hand : { ...hand, heightMetres: numbers('height', height, 1)[0] }, [x, y], metres ? heightAt(document, [x, y], there?.[0] ?? null, metres.role) : null);
  if (typeof stood === 'string') throw new Error(stood);
  return applyEdit(document, { type: 'add-figures', figures: [{ ...stood, mirrored: invocation.values.mirror === true }], sources: [source] });
}

function list(document: TazzelDocument, { say, result }: Invocation): void {
  const rows = layersInOrder(document).flatMap(({ layer }) => (isFigures(layer) ? figuresValues(layer).figures.map((figure) => ({ layer: layer.name, picture: findSource(document, figure.sourceId)?.name ?? '', ...figure })) : []));
  if (rows.length === 0) say('No figures stand in the picture.');
  for (const { picture, at, heightMetres, groundMetres } of rows as readonly (PlacedFigure & { readonly picture: string })[]) say(`${picture.padEnd(24)}${`${at[0].toFixed(0)}, ${at[1].toFixed(0)}`.padStart(12)}${`${heightMetres.toFixed(2)} m`.padStart(10)}  on ${groundMetres.toFixed(2)} m`);
  result({ figures: rows });
}
