import { SealedLine } from '@porch/client';
import { firstName, type Participant } from '@porch/core';
import { encodeWords, printsChannel, type PrintsMessage } from '@porch/wire';
import { beginWith, type HostAbility, type Kit, type Running } from '../../kit.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import type { PrintsPort } from '../../ports/prints-port.ts';
import { UnderWay } from '../../under-way.ts';
import { PrinterFor } from './printer-for.ts';

/** Printers in this computer's list at once: one for each technician. */
const MAX_PRINTERS = 4;
/** Documents on their way to one technician. */
const MAX_UNDER_WAY = 2;

/** A printer for each technician who may have what is printed here. */
class PrintsHere implements Running {
  readonly #kit: Kit;
  readonly #port: PrintsPort;
  readonly #line: SealedLine<PrintsMessage>;
  readonly #underWay: UnderWay;
  readonly #off: () => void;
  readonly #printers = new Map<string, PrinterFor>();
  /** Those that are being taken away. */
  readonly #closing = new Set<Promise<void>>();

  constructor(kit: Kit, port: PrintsPort) {
    this.#kit = kit;
    this.#port = port;
    const line = new SealedLine(kit.connection, printsChannel);
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      ...{ permission: 'take-prints', most: MAX_UNDER_WAY },
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, printId, why) => line.send(seat, { type: 'refused', printId, why }),
    });
    this.#off = line.listen(
      ({ from, message }) => this.#hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('take-prints', from.signKey),
    );
    this.#loseWhatWas();
  }

  /** For whoever may there is a printer, and for nobody else. */
  changed(): void {
    this.#underWay.check();
    for (const [signKey, printer] of this.#printers)
      if (printer.lease.state.name === 'over') this.#close(signKey, printer);
      else printer.look();
    for (const from of Object.values(this.#kit.connection.state.participants)) {
      const mayHave = from.side === 'desk' && !from.isGone && !this.#printers.has(from.signKey);
      if (mayHave && this.#printers.size < MAX_PRINTERS && this.#kit.held.may('take-prints', from.signKey))
        this.#open(from);
    }
  }

  banner(soFar: Parameters<NonNullable<Running['banner']>>[0]) {
    const says = this.#there.map(({ who }) => this.#kit.words.prints.isThere({ first: firstName(who) }));
    return says.length ? { ...soFar, besides: [...soFar.besides, ...says] } : soFar;
  }

  barAlone() {
    const [one] = this.#there;
    return one && { who: one.who, what: this.#kit.words.prints.alone };
  }

  get #there(): PrinterFor[] {
    return [...this.#printers.values()].filter(({ isThere }) => isThere);
  }

  async close(): Promise<void> {
    this.#off();
    this.#underWay.close();
    for (const [signKey, printer] of this.#printers) this.#close(signKey, printer);
    await Promise.all(this.#closing);
  }

  /** What this program did not print itself is not here: the one before it went with its memory. */
  #loseWhatWas(): void {
    for (const [printId, { stage }] of Object.entries(this.#kit.connection.state.slices.prints.documents))
      if (stage === 'waits') this.#kit.report((fact) => ({ type: 'prints/tellLost', printId, fact }));
  }

  #open(from: Participant): void {
    const lease = this.#kit.held.during('take-prints', from.signKey);
    const { signKey } = from;
    const printer = new PrinterFor({
      ...{ kit: this.#kit, port: this.#port, from, lease },
      send: (message) => {
        const may = () => lease.isRunning || (message.type === 'printer' && lease.state.name === 'paused');
        // Who they are now: they may have come back on another line.
        const now = this.#kit.connection.state.participants[from.id] ?? from;
        if (may()) this.#line.sendPlain(now.seat, encodeWords(message), may);
      },
    });
    this.#printers.set(signKey, printer);
    lease.signal.addEventListener('abort', () => this.changed(), { once: true });
  }

  #close(signKey: string, printer: PrinterFor): void {
    this.#printers.delete(signKey);
    const done = printer
      .close()
      .catch((error: unknown) => this.#kit.log.error({ why: String(error) }, 'a printer could not be taken away'))
      .finally(() => {
        this.#closing.delete(done);
        this.#kit.changed();
      });
    this.#closing.add(done);
  }

  #hear(from: Participant, message: PrintsMessage): void {
    const printer = this.#printers.get(from.signKey);
    if (message.type === 'look') printer?.tell();
    else if (message.type === 'want') this.#send(from, printer, message);
  }

  #send(
    from: Participant,
    printer: PrinterFor | undefined,
    { printId, offset }: Extract<PrintsMessage, { type: 'want' }>,
  ): void {
    const document = printer?.held.of(printId);
    if (!printer || !document)
      return this.#underWay.refuse(from.seat, printId, 'that document is not there any longer');
    const isAll = offset === document.bytes.length;
    if (!this.#underWay.has(printId)) {
      // Said again by somebody who has it already.
      if (isAll || !this.#underWay.begin(from, printId)) return;
      this.#underWay.hold(printId, document.bytes);
    }
    if (!this.#underWay.heard(from, printId)) return;
    this.#underWay.send(from, printId, offset);
    if (isAll && printer.held.hasArrived(printId))
      this.#kit.report((fact) => ({ type: 'prints/tellArrived', printId, fact }));
  }
}

/** What is printed here comes out at the technician's. */
export const prints: HostAbility = {
  name: 'prints',
  whyNot: (_permission, ports) => whyWithout(ports, 'prints'),
  warn: ({ words, firstName }) => words.prints.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.prints, (port) => new PrintsHere(kit, port)),
};
