import {
  isRightsBackEmpty,
  PointTouches,
  type LeftAsItIs,
  type PointDifference,
  type RightsBack,
  type SafePoint,
} from '@porch/core';
import { PointRefused, type ByRights, type SafePointsPort, type WentBackHere } from '@porch/host';
import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, readFile, realpath, rename, rm, statfs } from 'node:fs/promises';
import { join, relative } from 'node:path';
import { z } from 'zod';
import { FileState, hashOf, placesIn } from './file-states.ts';
import { placeWithin } from './place-within.ts';
import {
  otherPackages,
  otherPlaces,
  otherServices,
  toldPackage,
  toldPlace,
  toldService,
  type OtherPackage,
  type OtherService,
} from './point-differences.ts';
import { rightsBackFor } from './rights-back-for.ts';
import { isRunning, ownMaker } from '../system/maker.ts';
import { packagesNow, ServiceState, servicesNow } from './service-states.ts';
import { takeBackPlaces, takeBackServices } from './take-back.ts';

/** So much stays free on the disk that copies go to. */
const SPARE_BYTES = 100 * 1024 * 1024;
const isId = (text: string) => z.uuid().safeParse(text).success;

const Meta = z.strictObject({
  version: z.literal(1),
  id: z.uuid(),
  name: z.string(),
  sessionId: z.string(),
  /** Which program made it: while that runs, its points are its own. */
  maker: z.string(),
  madeAtMs: z.number(),
  touches: PointTouches,
  roots: z.array(z.string()),
  files: z.array(FileState),
  services: z.array(ServiceState),
  packages: z.record(z.string(), z.string()).optional(),
  keptUntilMs: z.number().optional(),
  isUsed: z.boolean(),
});
type Meta = z.infer<typeof Meta>;

export interface PointPlaces {
  readonly home: string;
  /** Where points lie, each in a folder of its own. */
  readonly folder: string;
  /** Doorstep's own: in no point. */
  readonly own: readonly string[];
  readonly sessionId: string;
  readonly nowMs: () => number;
  readonly freeBytes?: (folder: string) => Promise<number>;
}

/** Safe points of whoever this program runs for. A point that is not whole is none: it takes its place in one step. */
export class PointStore implements SafePointsPort {
  readonly #places: PointPlaces;

  constructor(places: PointPlaces) {
    this.#places = places;
  }

  async make(
    { name, touches, mostBytes }: { name: string; touches: PointTouches; mostBytes: number },
    signal: AbortSignal,
    tell: (files: number, sizeBytes: number) => void,
  ): Promise<SafePoint> {
    if (!touches.paths.length && !touches.services.length && !touches.hasPackages)
      throw new PointRefused('a safe point holds something');
    const { home, own, folder, sessionId, nowMs } = this.#places;
    const roots: string[] = [];
    for (const path of touches.paths) roots.push(await placeWithin(home, path, own));
    const id = randomUUID();
    const half = join(folder, `${id}.${ownMaker}.half`);
    await mkdir(half, { recursive: true, mode: 0o700 });
    try {
      await this.#needRoom(roots, mostBytes, signal);
      const files = await copyAll(outermost(roots), half, { mostBytes, signal, tell });
      const services = await servicesNow(touches.services, signal);
      const meta: Meta = {
        ...{
          version: 1,
          id,
          name,
          sessionId,
          maker: ownMaker,
          madeAtMs: nowMs(),
          touches,
          roots,
          files,
          services,
          isUsed: false,
        },
        ...(touches.hasPackages ? { packages: packagesNow() } : {}),
      };
      await writeMeta(half, meta);
      signal.throwIfAborted();
      await rename(half, join(folder, id));
      return await this.#told(meta);
    } catch (error) {
      await rm(half, { recursive: true, force: true });
      throw (error as NodeJS.ErrnoException).code === 'ENOSPC'
        ? new PointRefused('there is not enough room for it')
        : error;
    }
  }

  async list(): Promise<SafePoint[]> {
    const points = await this.#all();
    return Promise.all(points.toSorted((a, b) => b.madeAtMs - a.madeAtMs).map((meta) => this.#told(meta)));
  }

  async compare(pointId: string, signal: AbortSignal): Promise<PointDifference[]> {
    const meta = await this.#read(pointId);
    const home = await realpath(this.#places.home);
    const places = await otherPlaces(outermost(meta.roots), meta.files, signal);
    const services = await otherServices(meta.services, signal);
    return [
      ...places.map((place) => toldPlace(home, place)),
      ...services.map((one) => toldService(one)),
      ...otherPackages(meta.packages).map((one) => toldPackage(one)),
    ];
  }

  async rightsFor(pointId: string, signal: AbortSignal): Promise<RightsBack> {
    const { services, packages } = await this.#read(pointId);
    return rightsBackFor(await otherServices(services, signal), otherPackages(packages));
  }

  async undo(
    pointId: string,
    { may, signal, byRights }: { may(): boolean; signal: AbortSignal; byRights?: ByRights | undefined },
  ): Promise<WentBackHere> {
    const meta = await this.#read(pointId);
    const home = await realpath(this.#places.home);
    const places = await otherPlaces(outermost(meta.roots), meta.files, signal);
    const services = await otherServices(meta.services, signal);
    const packages = otherPackages(meta.packages);
    const copies = join(this.#places.folder, pointId);
    const raised = byRights && rightsBackFor(services, packages);
    const isRaised = ({ was: { id } }: OtherService) => raised?.services.some(({ target }) => target === id) ?? false;
    const own = services.filter((one) => !isRaised(one));
    const left = [
      ...(await takeBackPlaces(places, { copies, home, may, signal })),
      ...(await takeBackServices(own, may, signal)),
    ];
    let why: string | undefined;
    if (!raised) left.push(...packages.map((one) => leftPackage(one, 'no-rights')));
    else {
      if (!isRightsBackEmpty(raised) && may()) why = await byRights(raised);
      // Looked at again: what somebody says of it is not what it is.
      const whyLeft = may() && !signal.aborted ? 'failed' : 'broken-off';
      const still = (await otherServices(meta.services, signal)).filter(isRaised);
      left.push(...still.map(({ was: { name } }) => ({ what: 'service' as const, name, why: whyLeft }) as const));
      left.push(...otherPackages(meta.packages).map((one) => leftPackage(one, whyLeft)));
    }
    await writeMeta(copies, { ...meta, isUsed: true });
    const count = places.length + services.length + packages.length - left.length;
    return { count, left, ...(why === undefined ? {} : { why }) };
  }

  async touchesOf(pointId: string): Promise<{ name: string; touches: PointTouches }> {
    const { name, touches } = await this.#read(pointId);
    return { name, touches };
  }

  async keep(pointId: string, untilMs: number): Promise<void> {
    await writeMeta(join(this.#places.folder, pointId), { ...(await this.#read(pointId)), keptUntilMs: untilMs });
  }
  async drop(pointId: string): Promise<void> {
    await this.#read(pointId);
    await rm(join(this.#places.folder, pointId), { recursive: true, force: true });
  }

  /** Those of this session that nobody lets stay, and what no longer may. */
  async dropUnkept(): Promise<void> {
    const { sessionId } = this.#places;
    await this.#clear((meta) => meta.sessionId === sessionId && meta.keptUntilMs === undefined);
  }
  /** What an earlier session left that was killed, and what has had its time. */
  async dropStale(): Promise<void> {
    const { sessionId } = this.#places;
    await this.#clear(
      (meta) => meta.sessionId !== sessionId && meta.keptUntilMs === undefined && !isRunning(meta.maker),
    );
  }

  async #clear(isOver: (meta: Meta) => boolean): Promise<void> {
    const { folder, nowMs } = this.#places;
    for (const name of await namesIn(folder)) {
      const maker = /^[^.]+\.(.+)\.half$/.exec(name)?.[1];
      if (maker !== undefined && isRunning(maker)) continue;
      const meta = isId(name) ? await readMeta(join(folder, name)) : undefined;
      // What cannot be read is no point of anybody's any longer.
      if (!meta || isOver(meta) || (meta.keptUntilMs ?? Infinity) < nowMs())
        await rm(join(folder, name), { recursive: true, force: true });
    }
    if (!(await namesIn(folder)).length) await rm(folder, { recursive: true, force: true });
  }

  async #needRoom(roots: readonly string[], mostBytes: number, signal: AbortSignal): Promise<void> {
    const { folder, freeBytes = freeBytesAt } = this.#places;
    let sizeBytes = 0;
    for (const root of outermost(roots))
      for await (const place of placesIn(root, signal)) {
        sizeBytes += place.kind === 'found' ? place.sizeBytes : 0;
        if (sizeBytes > mostBytes) throw new PointRefused('it is larger than this desk allows');
      }
    if (sizeBytes + SPARE_BYTES > (await freeBytes(folder))) throw new PointRefused('there is not enough room for it');
  }

  async #all(): Promise<Meta[]> {
    const { folder, nowMs } = this.#places;
    const names = (await namesIn(folder)).filter((name) => isId(name));
    const metas = await Promise.all(names.map((name) => readMeta(join(folder, name))));
    return metas.flatMap((meta) => (meta && (meta.keptUntilMs ?? Infinity) >= nowMs() ? meta : []));
  }
  async #read(pointId: string): Promise<Meta> {
    const meta = isId(pointId) ? (await this.#all()).find(({ id }) => id === pointId) : undefined;
    if (!meta) throw new PointRefused('there is no such safe point');
    return meta;
  }

  async #told(meta: Meta): Promise<SafePoint> {
    const home = await realpath(this.#places.home);
    const files = meta.files.filter((one) => one.kind === 'file');
    return {
      ...{ id: meta.id, name: meta.name, madeAtMs: Math.round(meta.madeAtMs), isUsed: meta.isUsed },
      paths: meta.roots.map((root) => relative(home, root)),
      files: files.length,
      sizeBytes: files.reduce((sum, one) => sum + one.sizeBytes, 0),
      services: meta.services.length,
      packages: Object.keys(meta.packages ?? {}).length,
      isOfThisSession: meta.sessionId === this.#places.sessionId,
      ...(meta.keptUntilMs === undefined ? {} : { keptUntilMs: meta.keptUntilMs }),
    };
  }
}

const leftPackage = (one: OtherPackage, why: LeftAsItIs['why']): LeftAsItIs => ({
  ...{ what: 'package', name: toldPackage(one).name, why },
});

/** Without those that lie in another one of them. */
const outermost = (roots: readonly string[]): string[] =>
  [...new Set(roots)].filter((root) => !roots.some((other) => root !== other && root.startsWith(`${other}/`)));

async function copyAll(
  roots: readonly string[],
  into: string,
  how: { mostBytes: number; signal: AbortSignal; tell: (files: number, sizeBytes: number) => void },
): Promise<FileState[]> {
  const states: FileState[] = [];
  let [files, sizeBytes] = [0, 0];
  for (const root of roots)
    for await (const place of placesIn(root, how.signal)) {
      if (place.kind !== 'found') {
        states.push(place);
        continue;
      }
      const copy = `${++files}`;
      const copied = await hashOf(place.path, how.signal, join(into, copy));
      sizeBytes += copied.sizeBytes;
      // It grew while it was copied.
      if (sizeBytes > how.mostBytes) throw new PointRefused('it is larger than this desk allows');
      states.push({ ...place, kind: 'file', ...copied, copy });
      how.tell(files, sizeBytes);
    }
  return states;
}

const namesIn = (folder: string): Promise<string[]> =>
  readdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return [];
    throw error;
  });
async function freeBytesAt(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}

async function readMeta(folder: string): Promise<Meta | undefined> {
  try {
    return Meta.parse(JSON.parse(await readFile(join(folder, 'point.json'), 'utf8')));
  } catch {
    return undefined;
  }
}
/** Whole or not at all, also when the plug is pulled. */
async function writeMeta(folder: string, meta: Meta): Promise<void> {
  const half = join(folder, 'point.json.half');
  const file = await open(half, 'w', 0o600);
  try {
    await file.writeFile(JSON.stringify(meta));
    await file.datasync();
  } finally {
    await file.close();
  }
  await rename(half, join(folder, 'point.json'));
}
