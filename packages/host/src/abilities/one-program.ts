import type { ShownPart } from '@porch/core';
import { beginWith, type HostAbility, type Kit, type Running } from '../kit.ts';
import type { HidingPort } from '../ports/hiding-port.ts';
import { shortened } from '../shortened.ts';

/** Says what of this computer is shown at most. Which program that is stays here. */
class OneProgramHere implements Running {
  readonly #kit: Kit;
  readonly #hiding: HidingPort;
  readonly #off: () => void;
  #told: ShownPart = 'everything';

  constructor(kit: Kit, hiding: HidingPort) {
    this.#kit = kit;
    this.#hiding = hiding;
    this.#off = hiding.onShownChanged(() => this.#tell());
    this.#tell();
  }

  banner(soFar: Parameters<NonNullable<Running['banner']>>[0]) {
    const { shown } = this.#hiding;
    if (soFar.isPrivate || shown.what === 'everything') return soFar;
    const title = shortened(shown.title);
    return { ...soFar, besides: [this.#kit.words.oneProgram[shown.what]({ title }), ...soFar.besides] };
  }

  close(): void {
    this.#off();
  }

  #tell(): void {
    const { what: shows } = this.#hiding.shown;
    this.#kit.changed();
    if (shows === this.#told) return;
    this.#told = shows;
    this.#kit.report((fact) => ({ type: 'one-program/tellShown', shows, fact }));
  }
}

/** One program only: nothing but its windows is shown, and nothing else can be worked. */
export const oneProgram: HostAbility = {
  name: 'one-program',
  // It has no permissions: nobody asks for it.
  whyNot: () => undefined,
  begin: (kit) => beginWith(kit.ports.hiding, (hiding) => new OneProgramHere(kit, hiding)),
};
