import type { Damage, Fixes, Randr, Shape, Shm, XInput, XTest } from 'x11';
import { DisplayGone, type XConnection } from './connection.ts';

/** What fetches pixels and says what changed. */
export interface ScreenExtensions {
  readonly shm: Shm;
  readonly damage: Damage;
  readonly fixes: Fixes;
  readonly randr: Randr;
}
/** Without these two nobody can be asked and nothing can be said: there is no session then. */
export interface BasicExtensions {
  readonly xinput: XInput;
  readonly shape: Shape;
}
export interface FoundExtensions {
  readonly basic: BasicExtensions;
  readonly screen: ScreenExtensions | undefined;
  /** Whether a picture can be taken of what lies beneath something. */
  readonly hasBeneath: boolean;
  readonly xtest: XTest | undefined;
  /** Names of those that this server lacks. */
  readonly lacking: readonly string[];
}

type Name = Parameters<XConnection['extension']>[0];
const lackOf = (name: Name, cause: unknown) =>
  new DisplayGone(`the X server lacks the extension ${name}, which Doorstep needs`, { cause });

/** What this X server has of all that Doorstep can use. Throws DisplayGone without the basic ones. */
export async function findExtensions(x: XConnection): Promise<FoundExtensions> {
  const lacking: string[] = [];
  const find = async <T>(name: Name): Promise<T | undefined> => {
    try {
      return await x.extension<T>(name);
    } catch (error) {
      if (x.isGone) throw error;
      lacking.push(name);
      return undefined;
    }
  };
  const need = async <T>(name: Name): Promise<T> => {
    const found = await find<T>(name);
    if (!found) throw lackOf(name, undefined);
    return found;
  };
  const xinput = await need<XInput>('xinput');
  await x.ask((cb) => xinput.XIQueryVersion(2, 2, cb));
  const shape = await need<Shape>('shape');
  const randr = await find<Randr>('randr');
  if (randr) await x.ask((cb) => randr.QueryVersion(1, 5, cb));
  const [shm, damage, fixes] = [await find<Shm>('shm'), await find<Damage>('damage'), await find<Fixes>('fixes')];
  const xtest = await find<XTest>('xtest');
  const hasBeneath = !!(await find('composite')) && !!(await find('render'));
  const screen = shm && damage && fixes && randr ? { shm, damage, fixes, randr } : undefined;
  return { basic: { xinput, shape }, screen, hasBeneath, xtest, lacking };
}

export interface XExtensions extends BasicExtensions, ScreenExtensions {
  readonly xtest: XTest;
}
/** All that Doorstep can use; says which one is missing. */
export async function loadExtensions(x: XConnection): Promise<XExtensions> {
  const { basic, screen, xtest, lacking } = await findExtensions(x);
  if (!screen || !xtest) throw lackOf(lacking[0] as Name, undefined);
  return { ...basic, ...screen, xtest };
}
