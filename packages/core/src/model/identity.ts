/** What a source is, for keys: two sources that agree here look alike wherever they are used. Names and ids play no part. */
import type { Encoding } from '../color/zones.ts';
import { roleKeepsValues, roleNature } from '../elements/roles.ts';
import type { Source } from './model.ts';

/** Whether colours of another space are converted: never those of data. */
export const isManaged = ({ role, encoding }: { readonly role: Source['role']; readonly encoding: Encoding }): boolean => roleNature(role) === 'light' && encoding !== 'data';

/** What the decoded and reduced pixels of a source depend on. The file's hash comes first, up to the first bar. */
export const pixelIdentity = (source: Source): string =>
  [source.file.hash, source.part, source.colorChannels.join(','), source.alphaChannel ?? '', roleKeepsValues(source.role), isManaged(source), source.fit ? `${source.fit.width}×${source.fit.height}` : ''].join('|');

/** The same, and all that says where the pixels lie in the picture and what their numbers mean. */
export const sourceIdentity = (source: Source): string => [pixelIdentity(source), source.alpha, source.x, source.y, source.scale, source.offset, source.encoding, source.role].join('|');

/** The file that an identity speaks of. */
export const hashOfIdentity = (identity: string): string => identity.slice(0, identity.indexOf('|'));
