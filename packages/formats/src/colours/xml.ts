/** Small XML files as tables: elements are lists under their name, attributes stand under “@…”, text under “#text”. */
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { FormatError } from '../errors.ts';

export interface XmlElement {
  readonly [name: string]: readonly XmlElement[] | string | undefined;
}

const MOST_LETTERS = 64 * 2 ** 20;
// Entities are not followed: a few lines of them can become gigabytes.
const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '@', parseTagValue: false, parseAttributeValue: false, processEntities: false, alwaysCreateTextNode: true, removeNSPrefix: true, isArray: (_name, _path, _isLeaf, isAttribute) => !isAttribute });

function mustBeXml(text: string, fileName: string): void {
  if (text.length > MOST_LETTERS) throw new FormatError('too-large', fileName, 'it holds more text than is read');
  const valid = XMLValidator.validate(text);
  if (valid !== true) throw new FormatError('corrupt', fileName, `line ${valid.err.line}: ${valid.err.msg}`);
}

/** @throws FormatError */
export function parseXml(text: string, fileName: string): XmlElement {
  mustBeXml(text, fileName);
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
  return typeof found === 'string' ? withoutEntities(found) : undefined;
};
const withoutEntities = (text: string): string => text.replace(/&(lt|gt|amp|quot|apos);/g, (_, entity: string) => ENTITIES[entity]);
export const textOf = (element: XmlElement | undefined): string => (typeof element?.['#text'] === 'string' ? element['#text'] : '');
/** Numbers of a text; what is none becomes NaN. */
export const numbersOf = (element: XmlElement | undefined): number[] => {
  const text = textOf(element).trim();
  return text === '' ? [] : text.split(/[\s,]+/).map(Number);
};

/** An element with its children in their order. */
export interface OrderedElement {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: readonly OrderedElement[];
}
const inOrder = new XMLParser({ preserveOrder: true, ignoreAttributes: false, attributeNamePrefix: '', parseTagValue: false, parseAttributeValue: false, processEntities: false });

/** The same with elements in their order, without text. @throws FormatError */
export function orderedXml(text: string, fileName: string): readonly OrderedElement[] {
  mustBeXml(text, fileName);
  type Raw = Readonly<Record<string, unknown>> & { readonly ':@'?: Readonly<Record<string, string>> };
  const elements = (list: readonly Raw[]): OrderedElement[] =>
    list.flatMap((raw) => {
      const name = Object.keys(raw).find((key) => key !== ':@' && key !== '#text' && !key.startsWith('?'));
      if (name === undefined) return [];
      return [{ name, attributes: Object.fromEntries(Object.entries(raw[':@'] ?? {}).map(([key, value]) => [key, withoutEntities(value)])), children: elements(raw[name] as readonly Raw[]) }];
    });
  return elements(inOrder.parse(text) as readonly Raw[]);
}

/** Words as they stand between tags and in quotes. */
export const escapedXml = (text: string): string => text.replace(/[&<>"]/g, (char) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[char] ?? char);
