/* Pieces of files on their way here lie in the browser's own database: on its disk, and there still after a reload. */

const NAME = 'porch-pieces';
const STORE = 'pieces';
/** What nobody came back for in a day is forgotten. */
const FORGOTTEN_MS = 24 * 60 * 60_000;

interface Row {
  readonly hash: string;
  readonly offset: number;
  readonly atMs: number;
  readonly blob: Blob;
}

const done = <T>(request: IDBRequest<T>): Promise<T> =>
  new Promise((resolve, reject) => {
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error ?? new Error('the browser keeps nothing'));
  });

function open(): Promise<IDBDatabase> {
  const request = indexedDB.open(NAME, 1);
  request.onupgradeneeded = () => request.result.createObjectStore(STORE, { keyPath: ['hash', 'offset'] });
  return done(request);
}
const ofHash = (hash: string) => IDBKeyRange.bound([hash, 0], [hash, Infinity]);

async function within<T>(mode: IDBTransactionMode, work: (store: IDBObjectStore) => Promise<T>): Promise<T> {
  const database = await open();
  try {
    return await work(database.transaction(STORE, mode).objectStore(STORE));
  } finally {
    database.close();
  }
}

/** What is there of the file with this hash, without a gap from its beginning. */
export const piecesOf = (hash: string): Promise<Blob[]> =>
  within('readonly', async (store) => {
    const rows = (await done(store.getAll(ofHash(hash)))) as Row[];
    const blobs: Blob[] = [];
    let end = 0;
    for (const { offset, blob } of rows) {
      if (offset !== end) break;
      blobs.push(blob);
      end += blob.size;
    }
    return blobs;
  });

export const keepPiece = (hash: string, offset: number, blob: Blob): Promise<unknown> =>
  within('readwrite', (store) => done(store.put({ hash, offset, atMs: Date.now(), blob } satisfies Row)));

export const forgetPieces = (hash: string): Promise<unknown> =>
  within('readwrite', (store) => done(store.delete(ofHash(hash))));

export const forgetOldPieces = (): Promise<void> =>
  within('readwrite', async (store) => {
    for (const row of (await done(store.getAll())) as Row[])
      if (Date.now() - row.atMs > FORGOTTEN_MS) await done(store.delete([row.hash, row.offset]));
  });
