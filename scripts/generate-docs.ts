/**
 * Writes the parts of docs/ that follow from declarations: shortcuts, blend modes, corrections, mask terms, elements. `npm run docs`; with
 * --check it only says whether they are current.
 */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { blendModes, corrections, maskTerms, paramKind, type ParamTable, resamplingFilters, roleLabel, tones } from '@tazzel/core';
import { commands, keyLabel } from '@tazzel/editor';
import { pictureFormats } from '@tazzel/formats';
import { ELEMENT_SETS, elementRows, isInSet, SET_LABELS } from '@tazzel/renderer';

const NOTE = '<!-- Made by “npm run docs” from the code. Change the code, not this page. -->';
const table = (head: readonly string[], rows: readonly (readonly string[])[]) => [`| ${head.join(' | ')} |`, `|${head.map(() => '---').join('|')}|`, ...rows.map((row) => `| ${row.map((cell) => cell.replaceAll('|', '\\|')).join(' | ')} |`)].join('\n');

function shortcuts(): string {
  const groups = [...new Set(commands.map(({ group }) => group))];
  const parts = groups.map((group) => `## ${group}\n\n${table(['Command', 'Keys'], commands.filter((command) => command.group === group).map(({ label, keys }) => [label, keys.map((key) => `\`${keyLabel(key)}\``).join(', ') || 'in the command finder']))}`);
  return `# Keyboard\n\n${NOTE}\n\nEverything has a name in the command finder (\`Ctrl K\`; on a Mac, Command stands for Ctrl). \`?\` shows this list in the product.\nIn number fields the arrow keys nudge, with Shift ten times as far, with Alt a tenth; a double click on the name resets.\nCards are picked up at their grip with Space and moved with the arrow keys.\n\n${parts.join('\n\n')}\n`;
}

function modes(): string {
  const rows = blendModes.map(({ label, summary, scene, aboveOne }) => [label, summary, scene ? 'both sides' : 'over it only', aboveOne]);
  return `# Blend modes\n\n${NOTE}\n\nThe sixteen modes of the W3C Compositing and Blending standard keep its names and formulas over the tone line. *Add* is the\nstandard’s plus-lighter; *subtract* and *divide* are common practice without a published source. Under the tone line light is\nlinear and has no upper end, so only those modes are offered there that keep their meaning above 1.\n\n${table(['Mode', 'What it does', 'Tone line', 'Above 1, under the tone line'], rows)}\n`;
}

const parameterRows = (params: ParamTable) => Object.entries(params).map(([name, param]) => [param.label, `\`${name}\``, paramKind(param).range(param), `\`${paramKind(param).write(param, param.default)}\``, param.help]);

const DOMAINS = { light: 'linear light, on both sides of the tone line', display: 'display values', 'as-found': 'the values that are there' } as const;

const CORRECTION_RULES = `**Order.** They work one after the other: a chain from its first to its last, then the layer is blended, then the corrections above it from the base to the finish. What computes in light stands best below what computes in picture values: exposure, white balance and
repainting first, then contrast and tone, then colour, then detail, lens and finish. Exchanging two of them changes the picture wherever they do not commute: contrast about mid grey after an exposure of one stop is not the exposure after that contrast.

**Bad numbers.** What is read from files is finite. Point corrections pass NaN and infinities on at their own pixel and keep them there; tables take NaN for their first entry; powers leave what is not above 0 as it is. Corrections that read across pixels count NaN as 0 and
what is beyond ±65504 as that, so that one bad pixel spoils no other. Parameters out of range are brought into it; of files that are none (tables, decision lists, looks) a sentence says what was found.`;

function correctionPages(): string {
  const parts = corrections.map(({ label, id, summary, params, domain, source, examples }) => {
    const rows = parameterRows(params);
    return `## ${label}\n\n\`${id}\`. ${summary} Computes on ${DOMAINS[domain]}.\n\n${table(['Parameter', 'Name in files and on the command line', 'Range', 'Default', ''], rows)}\n\nSource: ${source}. ${examples.length} parameter sets run in the tests.`;
  });
  return `# Corrections\n\n${NOTE}\n\nA correction works on everything below it as a layer, or on one layer alone in its chain; each has an opacity and, if wanted, a mask.\n\n${CORRECTION_RULES}\n\n${parts.join('\n\n')}\n`;
}

function tonePages(): string {
  const parts = tones.map(({ label, id, summary, params, source }) => {
    const rows = parameterRows(params);
    return `## ${label}\n\n\`${id}\`. ${summary}\n\n${rows.length > 0 ? `${table(['Parameter', 'Name in files and on the command line', 'Range', 'Default', ''], rows)}\n\n` : ''}Source: ${source}.`;
  });
  return `# Tone line\n\n${NOTE}\n\nThe curve by which scene light becomes the picture. It is chosen on the bench when the tone line in the build-up is selected; in the shell: \`tazzel flatten --tone ID:NAME=VALUE,…\`.\n\n${parts.join('\n\n')}\n`;
}

function maskTermPages(): string {
  const parts = maskTerms.map(({ id, label, summary, params, reads, source }) => {
    const rows = parameterRows(params);
    const what = reads ? ` Reads ${reads.roles.map((role) => roleLabel(role).toLowerCase()).join(', ')}${reads.any ? ', or any other element' : ''}${reads.picture ? ', or the picture after a layer' : ''}.` : '';
    return `### ${label}\n\n\`${id}\`. ${summary}${what}\n\n${rows.length > 0 ? `${table(['Parameter', 'Name in files', 'Range', 'Default', ''], rows)}\n\n` : ''}Source: ${source}.`;
  });
  return `# Mask terms\n\n${NOTE}\n\nThe lines of which [masks](masks.md) are made. Each is added, taken away, or says where the others count; each can be left out for the moment.\n\n${parts.join('\n\n')}\n`;
}

function formatPages(): string {
  const parts = pictureFormats.map(({ label, endings, hint, params }) => {
    const rows = parameterRows(params);
    return `## ${label}\n\n${endings.map((ending) => `\`.${ending}\``).join(', ')}. ${hint}\n\n${rows.length > 0 ? table(['Parameter', 'On the command line', 'Range', 'Default', ''], rows) : 'Nothing to set.'}`;
  });
  return `# Pictures out\n\n${NOTE}\n\nIn the stage *Deliver* a format is chosen, in the shell by the ending: \`tazzel flatten doc.tazzel --out picture.tif --bits 16 --dpi 300\`. Both write the same pixels. What holds the finished picture is sRGB, or on request Display P3 or opRGB (IEC 61966-2-5) with the profile of it in the file (\`--space oprgb\`): the finished picture lies within sRGB, so these spaces lose nothing of it and add nothing to it. What holds scene light is linear Rec. 709,
the light under the tone line. Proportions are its own, or others, as large as they allow and moved to where they are wanted (\`--cut 16:9 --shift -40\`). A size is the full one, a half, a quarter, an eighth, or any width (\`--width 2400\`, \`--width 420mm --dpi 300\`),
filtered from the full size in light: ${Object.entries(resamplingFilters).map(([id, { label, hint }]) => `${label} (\`--filter ${id}\`; ${hint.charAt(0).toLowerCase()}${hint.slice(1)})`).join(', ')}. Title and author stand in the file where they are given (\`--title\`, \`--author\`). Dither is left out with \`--no-dither\`. Files are checked against OpenImageIO, ImageMagick, libtiff and libvips.\n\n${parts.join('\n\n')}\n`;
}

function elements(): string {
  const sets = ELEMENT_SETS.filter((set) => set !== 'everything');
  const rows = elementRows.map((row) => [row.label, `\`${row.id}\``, roleLabel(row.role), ...sets.map((set) => (isInSet(row, set) ? '●' : ''))]);
  return `# Elements of the stand-in renderer\n\n${NOTE}\n\nNames as they follow \`--elements\`; in files underscores stand for the hyphens. The set \`everything\` has them all. Light groups and RGB mattes\nare several pictures, one for each group and for each three numbers.\n\n${table(['Element', 'Name', 'Role', ...sets.map((set) => `${SET_LABELS[set]} (\`${set}\`)`)], rows)}\n\nWhat holds to rounding, and is tested:\n\n- direct lighting + GI + reflection + refraction + specular + self-illumination + background + atmosphere = beauty; without noise, too;\n- the light groups sum to the beauty;\n- diffuse filter × raw lighting = direct lighting; likewise GI, reflection, refraction, shadow with their filters;\n- direct lighting + shadow = direct lighting if nothing stood in between;\n- the coverage of all IDs in a pixel = alpha.\n`;
}

const pages: Readonly<Record<string, string>> = { 'shortcuts.md': shortcuts(), 'blend-modes.md': modes(), 'corrections.md': correctionPages(), 'tone-line.md': tonePages(), 'elements.md': elements(), 'mask-terms.md': maskTermPages(), 'pictures-out.md': formatPages() };
let stale = false;
for (const [name, text] of Object.entries(pages)) {
  const path = fileURLToPath(new URL(`../docs/${name}`, import.meta.url));
  if (existsSync(path) && readFileSync(path, 'utf8') === text) continue;
  if (process.argv.includes('--check')) {
    console.error(`docs/${name} is not current: run “npm run docs”.`);
    stale = true;
  } else writeFileSync(path, text);
}
if (stale) process.exitCode = 1;
