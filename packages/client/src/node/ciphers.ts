import type { Ciphers } from '@porch/wire';
import { createCipheriv, createDecipheriv, createHash } from 'node:crypto';

const ALGORITHM = 'aes-256-gcm';
const TAG_BYTES = 16;

/** Node's own: for programs that move files. */
export const nodeCiphers: Ciphers = {
  seal(key, nonce, header, plain) {
    const cipher = createCipheriv(ALGORITHM, key, nonce);
    cipher.setAAD(header);
    return Buffer.concat([header, cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
  },
  open(key, nonce, header, sealed) {
    if (sealed.length < TAG_BYTES) throw new Error('it is shorter than its tag');
    const end = sealed.length - TAG_BYTES;
    const decipher = createDecipheriv(ALGORITHM, key, nonce, { authTagLength: TAG_BYTES });
    decipher.setAAD(header);
    decipher.setAuthTag(sealed.subarray(end));
    const plain = decipher.update(sealed.subarray(0, end));
    decipher.final();
    return plain;
  },
  hash: () => createHash('sha256'),
};
