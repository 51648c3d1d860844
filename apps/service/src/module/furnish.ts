import type { Kit } from './kit.ts';
import { RepeatedWork } from './repeated-work.ts';
import type { Built, ServiceModule } from './service-module.ts';

interface Room extends Built<object> {
  readonly name: string;
}

/** All modules, built. */
export interface Furnished {
  readonly rooms: readonly Room[];
  /** What was not let in before is from here on; repeated work begins. */
  open(): Promise<void>;
  /** Repeated work ends, then each module, the last first. Done again it does nothing. */
  close(): Promise<void>;
}

/** Builds the modules in their order, handing each what those before have given. What was built is closed when one fails. */
export async function furnish(modules: readonly ServiceModule<never, object>[], kit: Kit): Promise<Furnished> {
  const rooms: Room[] = [];
  let handed: object = kit;
  let repeated: readonly RepeatedWork[] = [];
  let closing: Promise<void> | undefined;

  const closeAll = async (): Promise<void> => {
    await Promise.all(repeated.map((work) => work.close()));
    for (const room of rooms.toReversed()) await room.close?.();
  };
  try {
    for (const module of modules) {
      const built = await module.build(handed as never);
      for (const name of Object.keys(built.gives))
        if (name in handed) throw new Error(`the module ${module.name} gives ${name}, which there is already`);
      handed = { ...handed, ...built.gives };
      kit.additions.add(built);
      rooms.push({ ...built, name: module.name });
    }
  } catch (error) {
    await closeAll();
    throw error;
  }
  return {
    rooms,
    open: async () => {
      for (const room of rooms) await room.open?.();
      repeated = rooms
        .flatMap((room) => room.repeated ?? [])
        .map(({ what, pauseMs, work }) => new RepeatedWork(what, pauseMs, kit.log, work));
      for (const work of repeated) work.start();
    },
    close: () => (closing ??= closeAll()),
  };
}
