import type { DocumentCamera, DocumentSun, Encoding, FileFormat, PlaneType, Region, RoleGuess, Size } from '@tazzel/core';

/** One element of a file: the channels that form it. */
export interface ElementReport {
  /** Name of the element within the file; empty for the only or unnamed one. */
  readonly name: string;
  readonly colorChannels: readonly string[];
  readonly alphaChannel: string | null;
  /** Where it differs from the rest of the file. */
  readonly premultiplied?: boolean;
  readonly types: readonly PlaneType[];
  /** Part of the file, counted over all of its parts, read or not. */
  readonly part: number;
  /** What its values are, where the file says so or the format allows nothing else. */
  readonly encoding: Encoding | null;
  /** What the file itself says that the element is; null if it does not. */
  readonly hint: RoleGuess | null;
  /** Where the element's pixels lie in the picture. */
  readonly window: Region;
}

/** One part of a file. */
export interface PartReport {
  /** Counted over all parts of the file, read or not. */
  readonly part: number;
  /** Empty in files of one part. */
  readonly name: string;
  readonly window: Region;
  readonly compression: string;
  readonly channels: readonly { readonly name: string; readonly type: PlaneType }[];
}

/** What a file holds, read from its header alone. */
export interface FileReport {
  readonly format: FileFormat;
  readonly fileName: string;
  readonly byteLength: number;
  /** The picture that the file describes; elements may cover only the data window. */
  readonly size: Size;
  readonly parts: readonly PartReport[];
  readonly elements: readonly ElementReport[];
  /** Whether alpha is stored multiplied into the colours. */
  readonly premultiplied: boolean;
  /** What the file says of the camera and the sun; null if it does not. */
  readonly camera: DocumentCamera | null;
  readonly sun: DocumentSun | null;
  /** What else the header says, for people. */
  readonly notes: Readonly<Record<string, string>>;
  /** One sentence for each part that is not read. */
  readonly leftOut: readonly string[];
  /** What an artist should know of what is read. */
  readonly remarks: readonly string[];
}
