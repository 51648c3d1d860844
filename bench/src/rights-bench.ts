import { TechnicianRights, TechnicianRunbook, type LiveConnection, type RestClient, type RunNow } from '@porch/client';
import type { PersonAtDesk, XDesktop } from '@porch/demo';
import { sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const TIMES = 5;
const ASKED = /Password of an administrator/;
/** PAM answers a right password at once, and a wrong one after two seconds: the same for everybody. */
const PAUSE_MS = 300;

export interface RightsToMeasure {
  readonly technician: LiveConnection;
  readonly person: PersonAtDesk;
  readonly computer: NonNullable<XDesktop['computer']>;
  readonly login: string;
  readonly password: string;
  /** Who works, who reviews, who approves. */
  readonly people: readonly [RestClient, RestClient, RestClient];
}

/** An action that does nothing, in use at this desk. */
async function nothingToDo([pim, rune, odalys]: RightsToMeasure['people'], rights: 'person' | 'administrator') {
  const action = {
    name: `nothing-${rights}`,
    title: 'Nothing',
    kind: 'script',
    interpreter: 'sh',
    body: 'true',
  } as const;
  const draft = await pim.writeRunbookAction({ action: { ...action, rights }, scope: 'desk' });
  await rune.reviewRunbookAction(draft.id);
  return odalys.approveRunbookAction(draft.id);
}

/** Administrator rights at their computer: raised by a password, used, and given back. */
export async function rightsRows(to: RightsToMeasure): Promise<Row[]> {
  const { technician, person, computer, login, password, people } = to;
  const rights = new TechnicianRights(technician, people[0]);
  const runbook = new TechnicianRunbook(technician, people[0]);
  const timed = async (work: () => Promise<unknown>) => {
    const begunAt = performance.now();
    await work();
    return performance.now() - begunAt;
  };
  const run = async ({ id, title }: Awaited<ReturnType<typeof nothingToDo>>) => {
    const looked = await runbook.look(id, { title }, {});
    return timed(async () => {
      let now: RunNow | undefined;
      runbook.run(looked, (next) => (now = next));
      await until('its end', () => now?.ended !== undefined || now?.refused !== undefined);
    });
  };
  const [plain, raisedAction] = [await nothingToDo(people, 'person'), await nothingToDo(people, 'administrator')];
  const [bare, raised, as, asRoot, back]: number[][] = [[], [], [], [], []];
  for (let i = 0; i < TIMES; i++) {
    const sudo = `echo ${password} | runuser -u ${login} -- sudo -S -k -p '' true`;
    bare?.push(await timed(() => computer.read('sh', '-c', sudo)));
    const wanted = rights.wanted('a bench');
    const raising = rights.raise(wanted, 'password', { installed: undefined });
    await person.questionSaying(ASKED);
    await person.type(password);
    await person.press(ASKED, 'yes');
    raised?.push(await timed(() => raising));
    as?.push(await run(plain));
    asRoot?.push(await run(raisedAction));
    rights.lower(wanted.raiseId);
    const isBack = () => technician.state.slices['administrator-rights'][wanted.raiseId]?.standing === 'fallen';
    back?.push(await timed(() => until('them to be back', isBack)));
    await sleep(PAUSE_MS);
  }
  rights.close();
  runbook.close();
  const ms = (times: readonly number[] | undefined) => `${quantile(times ?? [], 0.5)?.toFixed(0) ?? '–'} ms`;
  return [
    { what: 'administrator rights: password typed to raised, median', value: ms(raised), aim: '–' },
    { what: 'yardstick: sudo with the same password, from outside', value: ms(bare), aim: '–' },
    { what: 'an action that does nothing: as the person / with rights', value: `${ms(as)} / ${ms(asRoot)}`, aim: '–' },
    { what: 'administrator rights: given back, with what held them', value: ms(back), aim: '–' },
  ];
}
