import type { Figure } from '../http/figure.ts';
import type { FastifyInstance, FastifyPluginAsync } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { EntitySchema } from 'typeorm';
import type { Added } from './added.ts';
import type { Projection } from './projection.ts';
import type { UpgradeHandler } from '../sockets/upgrades.ts';

/** Work that is done again and again from the start to the end, a pause after each time. */
export interface Repeated {
  /** In words for a log; of shared work, also what tells it from all other. */
  readonly what: string;
  readonly pauseMs: number;
  /** Whether there is anything to do at all, asked first, since it costs nothing; always, unless it says otherwise. */
  isDue?(): boolean;
  /** For all processes together, not for what this one has in memory: one of them does each round. */
  readonly isShared?: boolean;
  work(): Promise<unknown>;
}

export interface Routes {
  /** Where they begin; `/api` unless said otherwise. */
  readonly prefix?: string;
  readonly plugin: FastifyPluginAsyncZod | FastifyPluginAsync;
}

/** What a module is once it is built: what later ones may need of it, and what it adds to the service. */
export interface Built<Gives extends object> extends Partial<Added> {
  readonly gives: Gives;
  readonly routes?: readonly Routes[];
  readonly repeated?: readonly Repeated[];
  /** What holds for every route, before any is added. */
  beforeRoutes?(app: FastifyInstance): void;
  /** Sockets, by their path. */
  readonly upgrades?: Readonly<Record<string, UpgradeHandler>>;
  readonly figures?: readonly Figure[];
  /** When everything is built, before anybody is let in. */
  open?(): void | Promise<void>;
  /** Modules close in the opposite order of their building: what stands on others closes before them. */
  close?(): void | Promise<void>;
}

/**
 * One feature of the desk, whole: its tables, which nobody else touches, its routes, its repeated work, and what it adds
 * to what others do. `Needs` is all that it is handed.
 */
export interface ServiceModule<Needs, Gives extends object> {
  readonly name: string;
  // A schema's type parameter stands on both sides of its methods: no common type but this one.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  readonly tables?: readonly EntitySchema<any>[];
  /** Kept beside sessions' ledgers; said here, since they can be made anew without building anything. */
  readonly projections?: readonly Projection[];
  // As a property, so that what it needs is compared with what there is.
  readonly build: (kit: Needs) => Built<Gives> | Promise<Built<Gives>>;
}

/** Only so that both types are read off what `build` takes and answers. */
export const defineModule = <Needs, Gives extends object>(
  module: ServiceModule<Needs, Gives>,
): ServiceModule<Needs, Gives> => module;

/** Modules in the order of their building, each with what it needs given by those before: a missing one is no type. */
export class ModuleList<Kit extends object> {
  readonly modules: readonly ServiceModule<never, object>[];

  private constructor(modules: readonly ServiceModule<never, object>[]) {
    this.modules = modules;
  }

  static startWith<Kit extends object>(): ModuleList<Kit> {
    return new ModuleList<Kit>([]);
  }

  with<Gives extends object>(module: ServiceModule<Kit, Gives>): ModuleList<Kit & Gives> {
    return new ModuleList<Kit & Gives>([...this.modules, module as ServiceModule<never, object>]);
  }
}
