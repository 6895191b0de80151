/** Colour decision lists: slope, offset, power and saturation in XML (.cdl, .cc, and .ccc with several of them). @source ASC, “Color Decision List (ASC CDL) Transfer Functions and Interchange Syntax”, version 1.2, 2009 */
import { FormatError } from '../errors.ts';
import { attributeOf, childOf, childrenOf, escapedXml, numbersOf, parseXml, type XmlElement } from './xml.ts';

export interface ColorDecision {
  /** What it is called in its file; empty if it has no name. */
  readonly name: string;
  readonly slope: readonly [number, number, number];
  readonly offset: readonly [number, number, number];
  readonly power: readonly [number, number, number];
  readonly saturation: number;
}

/** Slope, offset, power and saturation inside an element. @throws FormatError */
export function readCdlNode(element: XmlElement, fileName: string): Omit<ColorDecision, 'name'> {
  const [sop, sat] = [childOf(element, 'SOPNode'), childOf(element, 'SatNode') ?? childOf(element, 'SATNode')];
  const three = (name: string, otherwise: number): readonly [number, number, number] => {
    const found = childOf(sop, name);
    const values = found ? numbersOf(found) : [otherwise, otherwise, otherwise];
    if (values.length !== 3 || !values.every(Number.isFinite)) throw new FormatError('corrupt', fileName, `${name} must be three numbers`);
    return values as unknown as [number, number, number];
  };
  const found = childOf(sat, 'Saturation');
  const [saturation] = found ? numbersOf(found) : [1];
  if (!Number.isFinite(saturation)) throw new FormatError('corrupt', fileName, 'Saturation must be a number');
  return { slope: three('Slope', 1), offset: three('Offset', 0), power: three('Power', 1), saturation };
}

/** Every decision of a file, in its order. @throws FormatError if there is none */
export function readCdl(text: string, fileName: string): ColorDecision[] {
  const root = parseXml(text, fileName);
  const lists = [root, ...childrenOf(root, 'ColorCorrectionCollection'), ...childrenOf(root, 'ColorDecisionList').flatMap((list) => childrenOf(list, 'ColorDecision'))];
  const found = lists.flatMap((list) => childrenOf(list, 'ColorCorrection'));
  if (found.length === 0) throw new FormatError('not-recognised', fileName, 'this is no colour decision list: it holds no ColorCorrection');
  return found.map((element) => ({ name: attributeOf(element, 'id') ?? '', ...readCdlNode(element, fileName) }));
}

const figures = (values: readonly number[]) => values.map((value) => String(Number(value.toPrecision(7)))).join(' ');

const correctionText = ({ name, slope, offset, power, saturation }: ColorDecision, indent: string) =>
  [
    `<ColorCorrection id="${escapedXml(name)}">`,
    '  <SOPNode>',
    `    <Slope>${figures(slope)}</Slope>`,
    `    <Offset>${figures(offset)}</Offset>`,
    `    <Power>${figures(power)}</Power>`,
    '  </SOPNode>',
    '  <SatNode>',
    `    <Saturation>${figures([saturation])}</Saturation>`,
    '  </SatNode>',
    '</ColorCorrection>',
  ]
    .map((line) => indent + line)
    .join('\n');

/** A .cdl file of one decision. */
export const cdlFile = (decision: ColorDecision): string =>
  `<?xml version="1.0" encoding="UTF-8"?>\n<ColorDecisionList xmlns="urn:ASC:CDL:v1.2">\n  <ColorDecision>\n${correctionText(decision, '    ')}\n  </ColorDecision>\n</ColorDecisionList>\n`;

/** A .ccc file of several. */
export const cccFile = (decisions: readonly ColorDecision[]): string => `<?xml version="1.0" encoding="UTF-8"?>\n<ColorCorrectionCollection xmlns="urn:ASC:CDL:v1.2">\n${decisions.map((decision) => correctionText(decision, '  ')).join('\n')}\n</ColorCorrectionCollection>\n`;
