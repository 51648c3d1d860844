import {
  backBytes,
  hashOfText,
  isSignedBy,
  holderProofBytes,
  leaveBytes,
  orderBytes,
  serviceOrderBytes,
  signInOrderBytes,
  warrantBytes,
} from '@porch/wire';
import { isOfComputer, readActionText, takesAway, valueFaults, valuesFor, type RunbookAction } from '@porch/core';
import { ADMINISTRATORS_FOLDER, isRaised, RunRefused, scriptOf, type ScriptEnded } from '@porch/host';
import { randomBytes } from 'node:crypto';
import { rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { isNeededService } from '../programs/guards.ts';
import { planFor } from '../programs/plans.ts';
import { runScript } from '../runbook/run-script.ts';
import { hearLines } from '../json-lines.ts';
import { FromPart, MAX_PRINTED_CHARACTERS, sayLine, ToPart } from './lines.ts';
import { GuardedRuns } from './guarded-runs.ts';
import { callersUid } from '../system/callers-uid.ts';
import { putBack } from './put-back.ts';
import { signInOnce } from './sign-in-once.ts';
import { readInstalled, takeOnce, type Installed } from './installed.ts';

/*
 * What runs as the computer's administrator: a process of its own that speaks with one Doorstep alone, over what it was
 * started with. It takes actions of the runbook, whole, stops and starts services of the computer, and nothing else. It
 * ends, and all that it began, when that pipe closes, when Doorstep is not heard any longer, and when what the desk gave
 * leave for is over.
 */

/** So often it is looked whether Doorstep was heard, and so many looks in vain end it: 2.5 s; a busy computer takes one. */
const LOOK_MS = 100;
const MOST_SILENT_LOOKS = 25;
const MOST_RUNS = 4;
const MAX_ABOUT_CHARACTERS = 400;
/** Its clock and the desk's may differ; a leave that is longer than any was made by nobody. */
const MOST_LEAVE_MS = 9 * 60 * 60_000;
/** Whoever connects and has no leave by then has none. */
const MOST_UNBEGUN_MS = 10_000;
/** Whoever does not read what runs print is not there any longer. */
const MOST_UNREAD_BYTES = 16 * 1024 * 1024;
const NOT_APPROVED = 'it is not what the desk approved';
const OWN_COPY = /^\/run\/doorstep-[A-Za-z0-9]{10}\/doorstep$/;

type Begin = ToPart & { do: 'begin' };
type Order = ToPart & { do: 'run' };
type ServiceOrder = ToPart & { do: 'service' };
type BackOrder = ToPart & { do: 'put-back' };
type SignInOrder = ToPart & { do: 'sign-in' };
/** Whose orders it takes. */
interface Begun {
  readonly sessionId: string;
  readonly technicianKey: string;
  readonly deskKey: string;
}

class RootPart {
  readonly #installed: Installed | undefined;
  readonly #uid: number | undefined;
  readonly #nonce = randomBytes(32).toString('hex');
  readonly #runs = new Map<string, AbortController>();
  /** Each is run once: what was signed for one run is no leave for another. */
  readonly #begunRuns = new Set<string>();
  readonly #working = new Set<Promise<void>>();
  readonly #guard = new GuardedRuns();
  #begun: Begun | undefined;
  #silentLooks = 0;
  #isEnding = false;

  /** `uid`: of whoever asked for it. */
  constructor(installed: Installed | undefined, uid: number | undefined) {
    this.#installed = installed;
    this.#uid = uid;
  }

  start(): void {
    setInterval(() => {
      if (++this.#silentLooks > MOST_SILENT_LOOKS) this.#end();
    }, LOOK_MS);
    process.stdout.on('error', () => this.#end());
    hearLines(
      process.stdin,
      ToPart,
      (line) => this.#take(line),
      () => this.#end(),
    );
    // By whoever looks after this computer: nothing that runs is left behind.
    process.on('SIGTERM', () => this.#end());
    if (this.#installed) setTimeout(() => this.#begun ?? this.#end(), MOST_UNBEGUN_MS);
    this.#say(this.#installed ? { says: 'who', nonce: this.#nonce } : { says: 'ready' });
  }

  #take(line: ToPart): void {
    this.#silentLooks = 0;
    if (line.do === 'begin') this.#beginBy(line);
    else if (line.do === 'run') this.#run(line);
    else if (line.do === 'service') this.#service(line);
    else if (line.do === 'put-back') this.#putBack(line);
    else if (line.do === 'sign-in') this.#signIn(line);
    else if (line.do === 'stop') this.#runs.get(line.runId)?.abort();
  }

  #beginBy(line: Begin): void {
    if (!this.#installed || this.#begun) return this.#no('the desk has not given leave for this computer');
    const { deskKey } = this.#installed;
    const whyNot = whyNoLeave(line, this.#installed, this.#nonce);
    if (whyNot !== undefined) return this.#no(whyNot);
    this.#begun = { sessionId: line.sessionId, technicianKey: line.technicianKey, deskKey };
    setTimeout(() => this.#end(), line.leave.untilMs - Date.now());
    this.#say({ says: 'ready' });
  }

  #run(order: Order): void {
    const action = readActionText(order.text);
    const { runId } = order;
    if (!action || !isRaised(action)) return this.#say({ says: 'refused', runId, why: NOT_APPROVED });
    this.#begin(runId, this.#whyNot(action, order), (signal) => this.#carryOut(action, order, signal));
  }
  #service(order: ServiceOrder): void {
    const { actId } = order;
    this.#begin(actId, this.#whyNoService(order), (signal) => this.#actOn(order, signal));
  }

  #putBack({ orderId, back, signature = '' }: BackOrder): void {
    const whyNot = this.#whyUnsigned(({ sessionId, technicianKey }) =>
      isSignedBy(technicianKey, backBytes({ sessionId, orderId }, back), signature),
    );
    this.#begin(orderId, whyNot, async (signal) => {
      const may = () => !signal.aborted && !this.#isEnding;
      this.#ended(orderId, await putBack({ orderId, back }, this.#guard, { may, signal }));
    });
  }

  #signIn({ orderId, account, signature = '' }: SignInOrder): void {
    const whyNot = this.#whyUnsigned(({ sessionId, technicianKey }) =>
      isSignedBy(technicianKey, signInOrderBytes({ sessionId, orderId, account }), signature),
    );
    this.#begin(orderId, whyNot, async () => {
      const why = await signInOnce(account, this.#uid);
      this.#say(why === undefined ? { says: 'will-sign-in', orderId } : { says: 'refused', runId: orderId, why });
    });
  }

  /** `why`: it is not done at all. */
  #begin(runId: string, why: string | undefined, work: (signal: AbortSignal) => Promise<void>): void {
    const whyNot = this.#begunRuns.has(runId) ? 'it was run already' : why;
    const isTooMuch = this.#runs.size >= MOST_RUNS;
    if (isTooMuch || whyNot !== undefined)
      return this.#say({ says: 'refused', runId, why: whyNot ?? 'too many are on their way' });
    this.#begunRuns.add(runId);
    const stops = new AbortController();
    this.#runs.set(runId, stops);
    const done = work(stops.signal)
      .catch((error: unknown) =>
        this.#say({
          says: 'refused',
          runId,
          why: error instanceof RunRefused ? error.message : 'it failed at the computer',
        }),
      )
      .finally(() => {
        this.#runs.delete(runId);
        this.#working.delete(done);
      });
    this.#working.add(done);
  }

  /** Why it does not do that; undefined when it does. */
  #whyNot(action: RunbookAction, { runId, text, values, warrant = '', signature = '' }: Order): string | undefined {
    if (Object.keys(valueFaults(action, values)).length) return 'a value for it is missing or wrong';
    const hash = hashOfText(text);
    return this.#whyUnsigned(({ sessionId, technicianKey, deskKey }) => {
      const run = { sessionId, runId, hash };
      const isApproved = isSignedBy(deskKey, warrantBytes(run), warrant);
      return isApproved && isSignedBy(technicianKey, orderBytes(run, values), signature);
    });
  }
  #whyNoService({ actId, act, target, signature = '' }: ServiceOrder): string | undefined {
    const isNeeded = takesAway(act) && isNeededService(target.split('/')[1] ?? '');
    if (!isOfComputer(act, target) || isNeeded) return 'the computer or this session would stop with it';
    return this.#whyUnsigned(({ sessionId, technicianKey }) =>
      isSignedBy(technicianKey, serviceOrderBytes({ sessionId, actId, act, target }), signature),
    );
  }
  /** Whoever started this by a password is believed; by the desk's leave only signatures are. */
  #whyUnsigned(isSigned: (begun: Begun) => boolean): string | undefined {
    if (!this.#installed) return undefined;
    if (!this.#begun) return 'the desk has not given leave for this computer';
    return isSigned(this.#begun) ? undefined : 'the desk has not signed this action';
  }

  async #actOn({ actId, act, target }: ServiceOrder, signal: AbortSignal): Promise<void> {
    const plan = await planFor(act, target, signal);
    const { outcome, says } = await plan.act(() => !signal.aborted && !this.#isEnding, signal);
    this.#say({ says: 'acted', actId, outcome, about: says.slice(0, MAX_ABOUT_CHARACTERS) });
  }

  async #carryOut(action: RunbookAction, { runId, values }: Order, signal: AbortSignal): Promise<void> {
    const print = (printed: string) => {
      for (let at = 0; at < printed.length; at += MAX_PRINTED_CHARACTERS)
        this.#say({ says: 'printed', runId, text: printed.slice(at, at + MAX_PRINTED_CHARACTERS) });
    };
    const script = scriptOf(runId, action, valuesFor(action, values));
    const may = () => !signal.aborted && !this.#isEnding;
    const held = { home: ADMINISTRATORS_FOLDER, guard: this.#guard };
    this.#ended(runId, await runScript(script, held, { may, print, signal }));
  }
  #ended(runId: string, { code, mayGoOn }: ScriptEnded): void {
    this.#say({ says: 'ended', runId, ...(code === undefined ? {} : { code }), mayGoOn });
  }

  #no(why: string): void {
    process.stdout.write(`${JSON.stringify({ says: 'no', why } satisfies FromPart)}\n`, () => this.#end());
  }
  #say(line: FromPart): void {
    if (!this.#isEnding || line.says === 'ended') sayLine(process.stdout, line);
    if (process.stdout.writableLength > MOST_UNREAD_BYTES) this.#end();
  }

  /** Everything that it began first. */
  #end(): void {
    if (this.#isEnding) return;
    this.#isEnding = true;
    for (const stops of this.#runs.values()) stops.abort();
    // What came of each was said already, or there is nobody to say it to.
    Promise.allSettled(this.#working).then(
      () => process.exit(0),
      () => process.exit(1),
    );
  }
}

/** Why the desk's leave does not count here; undefined when it does, this once. */
function whyNoLeave(line: Begin, { deskKey, deviceId }: Installed, nonce: string): string | undefined {
  const { raiseId, sessionId, holderKey, technicianKey, leave, proof } = line;
  const { untilMs, signature } = leave;
  const isOurs =
    leave.deviceId === deviceId &&
    isSignedBy(deskKey, leaveBytes({ raiseId, sessionId, deviceId, holderKey, technicianKey, untilMs }), signature) &&
    isSignedBy(holderKey, holderProofBytes(nonce, raiseId), proof);
  if (!isOurs) return 'the desk has not given leave for this computer';
  const leftMs = untilMs - Date.now();
  const isNow = leftMs > 0 && leftMs <= MOST_LEAVE_MS;
  return isNow && takeOnce(raiseId) ? undefined : 'the leave of the desk was used already, or is too old';
}

/**
 * `installed`: it was put here by the desk's administrators, and begins by the desk's leave alone; with the name that systemd
 * gave the connection, which ends with whose it is.
 */
export function runRootPart(installed: true | string | undefined): Promise<never> {
  if (process.getuid?.() !== 0) throw new Error('this part is started by Doorstep, with administrator rights');
  // A copy that was made for this start goes with it.
  if (OWN_COPY.test(process.execPath)) rmSync(dirname(process.execPath), { recursive: true, force: true });
  for (const signal of ['SIGINT', 'SIGHUP'] as const) process.on(signal, () => undefined);
  const connection = installed === true ? '' : installed;
  new RootPart(installed ? readInstalled() : undefined, callersUid(process.env, connection)).start();
  return new Promise(() => undefined);
}
