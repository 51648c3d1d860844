import { AppError, type PackFile, type PackSigner } from '@porch/wire';
import { createHash, createPrivateKey, createPublicKey, sign, verify, type KeyObject } from 'node:crypto';

/*
 * What signs a pack, in open forms that common tools check, too: `pack.sums` lists the SHA-256 of each file as sha256sum
 * does, `pack.sig` is the Ed25519 signature (RFC 8032) of that list in Base64, `pack.pem` the key it is checked with.
 */
const [SUMS, SIGNATURE, KEY] = ['pack.sums', 'pack.sig', 'pack.pem'];
export const isSigning = ({ name }: PackFile): boolean => [SUMS, SIGNATURE, KEY].includes(name);

const sha256 = (text: string | Buffer): string => createHash('sha256').update(text).digest('hex');
/** An Ed25519 key from its 32 bytes (RFC 8410, PKCS #8). */
const keyFrom = (seed: Buffer): KeyObject =>
  createPrivateKey({
    key: Buffer.concat([Buffer.from('302e020100300506032b657004220420', 'hex'), seed]),
    format: 'der',
    type: 'pkcs8',
  });
const pemOf = (key: KeyObject): string => createPublicKey(key).export({ type: 'spki', format: 'pem' }).toString();
const fingerprintOf = (key: KeyObject): string => sha256(key.export({ type: 'spki', format: 'der' }));

/** Signs packs for this desk, and says who signed those of others. */
export class PackSignature {
  readonly #keys: readonly [KeyObject, ...KeyObject[]];

  /** `seeds`: 32 bytes each, the newest first; what older ones signed is this desk's as well. */
  constructor([newest, ...older]: readonly [Buffer, ...Buffer[]]) {
    this.#keys = [keyFrom(newest), ...older.map(keyFrom)];
  }

  /** The files that sign these. */
  sign(files: readonly PackFile[]): PackFile[] {
    const sums = files.map(({ name, text }) => `${sha256(text)}  ${name}\n`).join('');
    const [key] = this.#keys;
    return [
      { name: SUMS, text: sums },
      { name: SIGNATURE, text: `${sign(undefined, Buffer.from(sums), key).toString('base64')}\n` },
      { name: KEY, text: pemOf(key) },
    ];
  }

  /**
   * Who signed a pack, and which of its files are in the list that was. Throws PACK_CHANGED when it says that it is
   * signed, and is not, or a file is other than it was.
   */
  signerOf(files: readonly PackFile[]): { signer: PackSigner; signed: ReadonlySet<string> } {
    const [sums, signature, pem] = [SUMS, SIGNATURE, KEY].map((name) => files.find((file) => file.name === name)?.text);
    if (sums === undefined && signature === undefined && pem === undefined)
      return { signer: { who: 'nobody' }, signed: new Set() };
    const key = readKey(pem ?? '');
    const isRight = key && verify(undefined, Buffer.from(sums ?? ''), key, Buffer.from(signature ?? '', 'base64'));
    if (!key || !isRight) throw new AppError('PACK_CHANGED');
    const listed = new Map(
      [...(sums ?? '').matchAll(/^([0-9a-f]{64}) [ *](.+)$/gm)].map(([, sum = '', name = '']) => [name, sum]),
    );
    for (const { name, text } of files)
      if (listed.has(name) && listed.get(name) !== sha256(text)) throw new AppError('PACK_CHANGED', { file: name });
    const fingerprint = fingerprintOf(key);
    const isOurs = this.#keys.some((one) => fingerprintOf(createPublicKey(one)) === fingerprint);
    return { signer: { who: isOurs ? 'this-desk' : 'somebody', key: fingerprint }, signed: new Set(listed.keys()) };
  }
}

function readKey(pem: string): KeyObject | undefined {
  try {
    const key = createPublicKey(pem);
    return key.asymmetricKeyType === 'ed25519' ? key : undefined;
  } catch {
    return undefined;
  }
}
