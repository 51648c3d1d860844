import { until } from '@porch/testkit';
import { describe, expect, it } from 'vitest';
import { Additions } from './added.ts';
import { furnish } from './furnish.ts';
import type { Kit } from './kit.ts';
import { defineModule, ModuleList } from './service-module.ts';

const bare = (): Kit => ({ additions: new Additions() }) as Kit;

function rooms(said: string[]) {
  const below = defineModule({
    name: 'below',
    build: (_: object) => ({
      gives: { floor: 'stone' },
      open: () => void said.push('below opens'),
      close: () => void said.push('below closes'),
    }),
  });
  const above = defineModule({
    name: 'above',
    build: ({ floor }: { readonly floor: string }) => {
      said.push(`above stands on ${floor}`);
      return { gives: {}, open: () => void said.push('above opens'), close: () => void said.push('above closes') };
    },
  });
  return { below, above };
}

describe('the house of modules', () => {
  it('hands each what those before gave, and closes the last one first, once', async () => {
    const said: string[] = [];
    const { below, above } = rooms(said);
    const { modules } = ModuleList.startWith<Kit>().with(below).with(above);
    const house = await furnish(modules, bare());
    await house.open();
    await Promise.all([house.close(), house.close()]);
    await house.close();
    expect(said).toEqual(['above stands on stone', 'below opens', 'above opens', 'above closes', 'below closes']);
  });

  it('closes what was built when a later one fails, and says why it failed', async () => {
    const said: string[] = [];
    const { below } = rooms(said);
    const broken = defineModule({
      name: 'broken',
      build: (_: object): { gives: object } => {
        throw new Error('no roof');
      },
    });
    const { modules } = ModuleList.startWith<Kit>().with(below).with(broken);
    await expect(furnish(modules, bare())).rejects.toThrow('no roof');
    expect(said).toEqual(['below closes']);
  });

  it('closes the others when one cannot, and waits for a round that is being done', async () => {
    const said: string[] = [];
    const { below } = rooms(said);
    let finish = () => {};
    const busy = defineModule({
      name: 'busy',
      build: (_: object) => ({
        gives: {},
        repeated: [
          {
            what: 'working',
            pauseMs: 0,
            work: () =>
              new Promise<void>((resolve) => {
                finish = resolve;
                said.push('working');
              }),
          },
        ],
        close: () => Promise.reject(new Error('it is stuck')),
      }),
    });
    const { modules } = ModuleList.startWith<Kit>().with(below).with(busy);
    const house = await furnish(modules, bare());
    await house.open();
    await until('a round', () => said.includes('working'));
    const closing = house.close();
    finish();
    await expect(closing).rejects.toThrow('not everything could be closed');
    expect(said).toEqual(['below opens', 'working', 'below closes']);
  });

  it('refuses two that give the same, or carry the same', async () => {
    const { below } = rooms([]);
    await expect(furnish([below, { ...below, name: 'twin' }] as never, bare())).rejects.toThrow('twin gives floor');
    const carrier = (name: string) =>
      defineModule({ name, build: (_: object) => ({ gives: {}, carriers: { remark: { carry: async () => {} } } }) });
    const { modules } = ModuleList.startWith<Kit>().with(carrier('one')).with(carrier('two'));
    await expect(furnish(modules, bare())).rejects.toThrow('two modules carry parcels of the kind remark');
  });

  it('does not take a module whose needs nobody gives: that is no type', () => {
    const { above } = rooms([]);
    // @ts-expect-error Nobody gives a floor.
    ModuleList.startWith<Kit>().with(above);
  });
});

describe('what modules add to each other', () => {
  it('is asked of all, in order, and put together for each session', async () => {
    const additions = new Additions();
    const asked: string[] = [];
    const undelivered = new Map([['s1', { undelivered: 2 }]]);
    additions.add({ beside: async () => undelivered, alongside: async () => void asked.push('first') });
    additions.add({
      beside: async (ids) => new Map(ids.map((id) => [id, { invitations: [] }])),
      alongside: async () => void asked.push('second'),
    });
    expect(await additions.beside(['s1', 's2'])).toEqual(
      new Map([
        ['s1', { undelivered: 2, invitations: [] }],
        ['s2', { invitations: [] }],
      ]),
    );
    await additions.alongside({} as never, {} as never, [], 0);
    expect(asked).toEqual(['first', 'second']);
  });

  it('knows every sign-in with which something is open, once, and ends it everywhere', () => {
    const additions = new Additions();
    const ended: string[] = [];
    for (const place of ['feed', 'live'])
      additions.add({ opened: { signIns: ['a', 'b'], endSignIn: (id) => void ended.push(`${place} ${id}`) } });
    expect(additions.signIns).toEqual(['a', 'b']);
    additions.endSignIns(['b']);
    expect(ended).toEqual(['feed b', 'live b']);
  });
});
