import { escapedXml } from '../colours/xml.ts';

/** What a file says of itself beside its pixels: title and author, as those who deliver it wrote them. Nothing is said that nobody wrote. */
export interface Notes {
  readonly title: string;
  readonly author: string;
}

/** An XMP packet, or null where there is nothing to say. @source ISO 16684-1 (XMP), Dublin Core's title and creator */
export function xmpPacket({ title, author }: Notes): Uint8Array | null {
  if (title === '' && author === '') return null;
  const lines = [
    ...(title === '' ? [] : [`<dc:title><rdf:Alt><rdf:li xml:lang="x-default">${escapedXml(title)}</rdf:li></rdf:Alt></dc:title>`]),
    ...(author === '' ? [] : [`<dc:creator><rdf:Seq><rdf:li>${escapedXml(author)}</rdf:li></rdf:Seq></dc:creator>`]),
  ];
  const body = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/">${lines.join('')}</rdf:Description></rdf:RDF></x:xmpmeta>`;
  return new TextEncoder().encode(`<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>${body}<?xpacket end="r"?>`);
}
