import type { FastifyBaseLogger, FastifyRequest } from 'fastify';
import type { Server } from 'node:http';
import type { DataSource } from 'typeorm';
import type { CodeSecrets } from '../auth/tokens.ts';
import type { Config } from '../config.ts';
import type { WrittenLevel } from '../db/records-level.ts';
import type { Additions } from './added.ts';
import type { Background } from './background.ts';
import type { Changes } from './changes.ts';
import type { Projecting } from './projecting.ts';

/** What there is before any module: each names what it needs of it, and is handed no more by its type. */
export interface Kit {
  readonly config: Config;
  readonly records: DataSource;
  readonly log: FastifyBaseLogger;
  readonly background: Background;
  readonly level: Pick<WrittenLevel, 'current'>;
  readonly secrets: CodeSecrets;
  readonly changes: Changes;
  readonly additions: Additions;
  readonly projecting: Projecting;
  /** Tells this program from every other. */
  readonly program: string;
  /** Grows with every process that serves these records. */
  readonly ownerEpoch: number;
  publicUrl(): string;
  liveUrl(request: FastifyRequest): string;
}

/** What the desk says its address is counts; the request's own word on it is anybody's. */
export const addressesOf = (
  server: Server,
  { publicUrl, host, port }: Pick<Config, 'publicUrl' | 'host' | 'port'>,
): Pick<Kit, 'publicUrl' | 'liveUrl'> => ({
  publicUrl: () =>
    publicUrl ?? `http://${host}:${String((server.address() as { port?: number } | null)?.port ?? port)}`,
  liveUrl: (request) =>
    publicUrl
      ? `${publicUrl.replace(/^http/, 'ws').replace(/\/$/, '')}/live`
      : `${request.protocol === 'https' ? 'wss' : 'ws'}://${request.host}/live`,
});
