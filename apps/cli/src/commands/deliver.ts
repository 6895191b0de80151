import { dayOf, type Delivery, plannedPictures } from '@tazzel/core';
import { type Command, text, UsageError } from '../command.ts';
import { deliverInto, openProject, withEngine } from '../files.ts';

export const deliver: Command = {
  name: 'deliver',
  summary: 'Writes all pictures of the list of deliveries that a project file holds, of each scheme.',
  usage: 'deliver doc.tazzel --out FOLDER',
  options: {
    out: { type: 'string', value: 'FOLDER', help: 'Where the pictures go; it is made if it is not there. Files that lie there stay: another one gets a number.' },
    format: { type: 'string', value: 'NAME', help: 'Only deliveries of this format: png, tiff, jpeg …' },
    list: { type: 'boolean', help: 'Only says what would be written.' },
  },
  run: async (invocation) => {
    const out = text(invocation, 'out');
    const isList = invocation.values.list === true;
    if ((!out && !isList) || invocation.files.length !== 1) throw new UsageError('Name one project file and a folder: deliver doc.tazzel --out pictures');
    await withEngine(async (engine) => {
      const document = await openProject(engine, invocation.files[0], invocation.problem);
      const format = text(invocation, 'format');
      const deliveries = document.deliveries.filter((delivery) => format === undefined || delivery.format === format);
      if (deliveries.length === 0) throw new Error(lackOf(document.deliveries, format));
      if (isList) {
        const planned = plannedPictures(document, deliveries, dayOf(new Date()));
        for (const { name, size, delivery } of planned) invocation.say(`${name}: ${delivery.format}, ${size.width} × ${size.height}`);
        return invocation.result(planned.map(({ name, size, delivery, schemeId }) => ({ name, ...size, format: delivery.format, scheme: document.schemes.list.find(({ id }) => id === schemeId)?.name ?? null })));
      }
      invocation.result(await deliverInto(engine, out as string, document, deliveries, invocation));
    });
  },
};

const lackOf = (all: readonly Delivery[], format: string | undefined): string =>
  all.length === 0 ? 'The document has no list of deliveries. Add some in the stage Deliver, or use flatten.' : `No delivery of the document is of the format “${format}”. There are: ${[...new Set(all.map((delivery) => delivery.format))].join(', ')}.`;
