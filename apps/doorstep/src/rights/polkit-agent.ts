import dbus, { Variant } from '@particle/dbus-next';
import { MOST_TRIES, type PasswordTyped, type PasswordWanted } from '@porch/host';
import { spawn } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { z } from 'zod';
import { MessageBus, SYSTEM_BUS } from '../accessibility/message-bus.ts';
import { runCommand } from '../system/run-command.ts';
import type { NotRaised } from './refusals.ts';

/*
 * An authentication agent (polkit reference manual, org.freedesktop.PolicyKit1.AuthenticationAgent) for this process alone:
 * what polkit asks about it is asked in Doorstep's own window. The password goes to polkit's own helper over a pipe.
 */

const AUTHORITY = {
  ...{ to: 'org.freedesktop.PolicyKit1', path: '/org/freedesktop/PolicyKit1/Authority' },
  on: 'org.freedesktop.PolicyKit1.Authority',
};
const PATH = '/org/zesty_porch/Agent';
const HELPERS = ['/usr/lib/polkit-1/polkit-agent-helper-1', '/usr/libexec/polkit-agent-helper-1'];
const MOST_ACCOUNTS = 6;
const LOOK_MS = 5_000;

type Identity = readonly [kind: string, details: Readonly<Record<string, Variant>>];
/** What came of it. */
export type AgentOutcome = 'right' | NotRaised;

/** polkit tells processes apart by their number and when they began (proc(5), the 22nd field of `stat`). */
function ownSubject(): readonly [string, Record<string, Variant>] {
  const began = readFileSync('/proc/self/stat', 'latin1').split(') ').at(-1)?.split(' ')[19] ?? '0';
  return [
    'unix-process',
    {
      pid: new Variant('u', process.pid),
      'start-time': new Variant('t', BigInt(began)),
      uid: new Variant('i', process.getuid?.() ?? 0),
    },
  ];
}

class Agent extends dbus.interface.Interface {
  readonly #put: (wanted: PasswordWanted) => Promise<PasswordTyped | undefined>;
  outcome: AgentOutcome = 'nobody';

  constructor(put: (wanted: PasswordWanted) => Promise<PasswordTyped | undefined>) {
    super('org.freedesktop.PolicyKit1.AuthenticationAgent');
    this.#put = put;
  }

  async BeginAuthentication(
    _action: string,
    _message: string,
    _icon: string,
    _details: unknown,
    cookie: string,
    identities: readonly Identity[],
  ): Promise<void> {
    const accounts = await accountsOf(identities);
    if (!accounts.length) return;
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      const typed = await this.#put({ accounts, triesLeft: MOST_TRIES - tries });
      if (!typed) {
        this.outcome = 'not-typed';
        return;
      }
      this.outcome = (await isRight(typed, cookie)) ? 'right' : 'wrong';
      if (this.outcome === 'right') return;
    }
  }
  CancelAuthentication(_cookie: string): void {
    // Whoever waits hears it from the program that was to be started.
  }
}
Agent.configureMembers({
  methods: {
    BeginAuthentication: { inSignature: 'sssa{ss}sa(sa{sv})', outSignature: '' },
    CancelAuthentication: { inSignature: 's', outSignature: '' },
  },
});

/** Names of those who may answer, this account's own first. */
async function accountsOf(identities: readonly Identity[]): Promise<string[]> {
  const uids = identities.flatMap(([kind, details]) =>
    kind === 'unix-user' && details['uid'] ? [String(details['uid'].value)] : [],
  );
  const rows = await runCommand('getent', ['passwd', ...uids.slice(0, MOST_ACCOUNTS)], AbortSignal.timeout(LOOK_MS));
  const names = rows.split('\n').flatMap((row) => row.split(':', 1)[0] || []);
  const own = userInfo().username;
  return names.includes(own) ? [own, ...names.filter((name) => name !== own)] : names;
}

/** Whether polkit's helper, which is set-user-id root, took the password (it asks as PAM does, a line each). */
function isRight({ account, password }: PasswordTyped, cookie: string): Promise<boolean> {
  return new Promise((resolve, reject) => {
    const helper = spawn(HELPERS.find((path) => existsSync(path)) ?? '', [account], {
      stdio: ['pipe', 'pipe', 'ignore'],
      env: {},
    });
    let said = '';
    let isTaken = false;
    helper.once('error', reject);
    helper.stdin.on('error', () => undefined); // It went: its end says what of it.
    helper.stdin.write(`${cookie}\n`);
    helper.stdout.on('data', (bytes: Buffer) => {
      const lines = (said + bytes.toString('utf8')).split('\n');
      said = lines.pop() ?? '';
      for (const line of lines) {
        if (line.startsWith('PAM_PROMPT_ECHO_OFF')) helper.stdin.write(`${password}\n`);
        // Something else than a password, a second factor for example: that is not known here.
        else if (line.startsWith('PAM_PROMPT_ECHO_ON')) helper.kill();
        else if (line === 'SUCCESS') isTaken = true;
      }
    });
    helper.once('close', () => resolve(isTaken));
  });
}

/** Asks for this process from now on, until it is closed. Throws where there is no polkit. */
export class PolkitAgent {
  readonly #bus: MessageBus;
  readonly #agent: Agent;

  private constructor(bus: MessageBus, agent: Agent) {
    this.#bus = bus;
    this.#agent = agent;
  }

  static async open(put: (wanted: PasswordWanted) => Promise<PasswordTyped | undefined>): Promise<PolkitAgent> {
    const bus = await MessageBus.open(SYSTEM_BUS);
    try {
      const agent = new Agent(put);
      bus.offer(PATH, agent);
      await bus.call(z.unknown(), {
        ...{ ...AUTHORITY, member: 'RegisterAuthenticationAgent', signature: '(sa{sv})ss' },
        body: [ownSubject(), 'en_US.UTF-8', PATH],
      });
      return new PolkitAgent(bus, agent);
    } catch (error) {
      bus.close();
      throw error;
    }
  }

  get outcome(): AgentOutcome {
    return this.#agent.outcome;
  }
  close(): void {
    this.#bus.close();
  }
}
