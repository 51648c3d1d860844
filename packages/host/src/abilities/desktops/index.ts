import { SealedLine } from '@porch/client';
import { mayNotCome, type Participant } from '@porch/core';
import { desktopsChannel, MAX_DESKTOPS, type DesktopsMessage } from '@porch/wire';
import { beginWith, type HostAbility, type Kit, type Running } from '../../kit.ts';
import { ofEarlierStart } from '../../of-earlier-start.ts';
import type { DesktopsPort } from '../../ports/desktops-port.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import { Rings } from './rings.ts';

/** Who looks at who is signed in, and what each was sent last. */
class Lookers {
  readonly #kit: Kit;
  readonly #port: DesktopsPort;
  readonly #line: SealedLine<DesktopsMessage>;
  /** By their key. */
  readonly #sent = new Map<string, string>();
  #listing: Promise<void> = Promise.resolve();
  #isWaiting = false;

  constructor(kit: Kit, port: DesktopsPort, line: SealedLine<DesktopsMessage>) {
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
  }

  /** All of it is sent, whatever they were sent before. */
  begin({ id, signKey }: Participant): void {
    if (!this.#kit.connection.state.slices.desktops.lookedBy.includes(id) && !this.#sent.has(signKey))
      this.#kit.report((fact) => ({ type: 'desktops/tellLooked', participantId: id, fact }));
    this.#sent.set(signKey, '');
    this.list();
  }

  /** To whoever looks and may; what changes meanwhile is in the next list. */
  list(): void {
    if (this.#isWaiting || !this.#sent.size) return;
    this.#isWaiting = true;
    this.#listing = this.#listing
      .then(() => {
        this.#isWaiting = false;
        return this.#port.list();
      })
      .then((rows) => this.#send({ type: 'desktops', rows: rows.slice(0, MAX_DESKTOPS) }))
      .catch((error: unknown) =>
        this.#kit.log.warn({ why: String(error) }, 'who is signed in at this computer could not be found out'),
      );
  }

  check(): void {
    for (const signKey of this.#sent.keys())
      if (!this.#kit.held.holds('call-desktops', signKey)) this.#sent.delete(signKey);
  }

  #send(message: DesktopsMessage): void {
    const text = JSON.stringify(message);
    const { participants } = this.#kit.connection.state;
    for (const { signKey, seat, side, isGone } of Object.values(participants)) {
      const isNew = this.#sent.has(signKey) && this.#sent.get(signKey) !== text;
      const may = side === 'desk' && !isGone && this.#kit.held.may('call-desktops', signKey);
      if (isNew && may && this.#line.send(seat, message)) this.#sent.set(signKey, text);
    }
  }
}

function beginDesktops(kit: Kit, port: DesktopsPort): Running {
  const line = new SealedLine(kit.connection, desktopsChannel);
  const lookers = new Lookers(kit, port, line);
  const rings = new Rings(kit, port, line);
  const hear = (from: Participant, message: DesktopsMessage) => {
    if (message.type === 'look') lookers.begin(from);
    else if (message.type === 'ring') rings.begin(from, message);
    else if (message.type === 'stop') rings.stop(from, message.id);
  };
  const offs = [
    line.listen(
      ({ from, message }) => hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('call-desktops', from.signKey),
    ),
    port.onChanged(() => lookers.list()),
  ];
  for (const ringId of ofEarlierStart(kit, kit.connection.state.slices.desktops.rings, mayNotCome))
    kit.report((fact) => ({ type: 'desktops/tellNotCome', ringId, why: 'failed', fact }));
  return {
    changed: () => {
      lookers.check();
      rings.check();
    },
    banner: (soFar) => {
      const says = rings.ringing.map(({ who, account }) => kit.words.desktops.rings({ first: who, account }));
      return says.length ? { ...soFar, besides: [...soFar.besides, ...says] } : soFar;
    },
    close: () => {
      offs.forEach((off) => off());
      return rings.close();
    },
  };
}

/** Several people signed in at this computer. */
export const desktops: HostAbility = {
  name: 'desktops',
  whyNot: (_permission, ports) => whyWithout(ports, 'desktops'),
  warn: ({ words, firstName }) => words.desktops.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.desktops, (port) => beginDesktops(kit, port)),
};
