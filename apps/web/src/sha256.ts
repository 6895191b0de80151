/** SHA-256 as lower-case hex. */
export const sha256Of = async (bytes: Uint8Array<ArrayBuffer> | ArrayBuffer): Promise<string> => [...new Uint8Array(await crypto.subtle.digest('SHA-256', bytes))].map((byte) => byte.toString(16).padStart(2, '0')).join('');
