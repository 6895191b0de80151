/** Small XML files as tables: elements are lists under their name, attributes stand under “@…”, text under “#text”. */
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { FormatError } from '../errors.ts';

export interface XmlElement {
  readonly [name: string]: readonly XmlElement[] | string | undefined;
}

const MOST_LETTERS = 64 * 2 ** 20;
// Entities are not followed: a few lines of them can become gigabytes.
const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '@', parseTagValue: false, parseAttributeValue: false, processEntities: false, alwaysCreateTextNode: true, removeNSPrefix: true, isArray: (_name, _path, _isLeaf, isAttribute) => !isAttribute });

/** @throws FormatError */
export function parseXml(text: string, fileName: string): XmlElement {
  if (text.length > MOST_LETTERS) throw new FormatError('too-large', fileName, 'it holds more text than a file of colours does');
  const valid = XMLValidator.validate(text);
  if (valid !== true) throw new FormatError('corrupt', fileName, `line ${valid.err.line}: ${valid.err.msg}`);
  return parser.parse(text) as XmlElement;
}

export const childrenOf = (element: XmlElement | undefined, name: string): readonly XmlElement[] => {
  const found = element?.[name];
  return Array.isArray(found) ? (found as readonly XmlElement[]) : [];
};
export const childOf = (element: XmlElement | undefined, name: string): XmlElement | undefined => childrenOf(element, name)[0];
/** The five that XML knows by itself. */
const ENTITIES: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };

export const attributeOf = (element: XmlElement | undefined, name: string): string | undefined => {
  const found = element?.[`@${name}`];
  return typeof found === 'string' ? found.replace(/&(lt|gt|amp|quot|apos);/g, (_, entity: string) => ENTITIES[entity]) : undefined;
};
export const textOf = (element: XmlElement | undefined): string => (typeof element?.['#text'] === 'string' ? element['#text'] : '');
/** Numbers of a text; what is none becomes NaN. */
export const numbersOf = (element: XmlElement | undefined): number[] => {
  const text = textOf(element).trim();
  return text === '' ? [] : text.split(/[\s,]+/).map(Number);
};
