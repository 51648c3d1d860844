import type { Kit } from './kit.ts';
import { RepeatedWork } from './repeated-work.ts';
import type { Built, ServiceModule } from './service-module.ts';
import { SharedRounds } from './shared-rounds.ts';

interface Room extends Built<object> {
  readonly name: string;
  readonly working: readonly RepeatedWork[];
}

/** All modules, built. */
export interface Furnished {
  readonly rooms: readonly Room[];
  /** What was not let in before is from here on; repeated work begins. */
  open(): Promise<void>;
  /** No round of anything begins any longer; then each module ends, the last first. Done again it does nothing more. */
  close(): Promise<void>;
}

/** Builds the modules in their order, handing each what those before have given. What was built is closed when one fails. */
export async function furnish(modules: readonly ServiceModule<never, object>[], kit: Kit): Promise<Furnished> {
  const rooms: Room[] = [];
  const rounds = new SharedRounds(kit.records);
  let handed: object = kit;
  let closing: Promise<void> | undefined;
  try {
    for (const module of modules) {
      const built = await module.build(handed as never);
      for (const name of Object.keys(built.gives))
        if (name in handed) throw new Error(`the module ${module.name} gives ${name}, which there is already`);
      handed = { ...handed, ...built.gives };
      kit.additions.add(built);
      const working = (built.repeated ?? []).map(({ what, pauseMs, isShared, isDue = () => true, work }) => {
        const round = isShared ? () => rounds.take(what, pauseMs, work) : work;
        return new RepeatedWork(what, pauseMs, kit.log, async () => isDue() && round());
      });
      rooms.push({ ...built, name: module.name, working });
    }
  } catch (error) {
    await closeAll(rooms);
    throw error;
  }
  return {
    rooms,
    open: async () => {
      for (const room of rooms) await room.open?.();
      for (const work of rooms.flatMap(({ working }) => working)) work.start();
    },
    close: () => (closing ??= closeAll(rooms)),
  };
}

/** One that cannot close keeps none of the others from closing. */
async function closeAll(rooms: readonly Room[]): Promise<void> {
  const ending = new Map(rooms.map((room) => [room, Promise.all(room.working.map((work) => work.close()))]));
  const failures: unknown[] = [];
  for (const room of rooms.toReversed())
    try {
      await room.close?.();
      // What it was doing may still need those that it stands on.
      await ending.get(room);
    } catch (error) {
      failures.push(error);
    }
  if (failures.length) throw new AggregateError(failures, 'not everything could be closed');
}
