import { POINT_MS, SealedLine, withMark, withoutMark, type ShownMark } from '@porch/client';
import { presentOf, type Participant } from '@porch/core';
import { drawingChannel, type DrawingMessage } from '@porch/wire';
import type { HostAbility, Kit } from '../kit.ts';
import type { CopyPort } from '../ports/desktop-ports.ts';
import { whyWithout } from '../ports/host-ports.ts';

/** Shows what technicians point at and draw, on a copy of what is shown. */
export const drawing: HostAbility = {
  name: 'drawing',
  whyNot: (_permission, ports) => whyWithout(ports, 'copy'),
  begin(kit) {
    const { copy } = kit.ports;
    if (!copy) return { close: () => undefined };
    const marks = new MarksHere(kit, copy);
    return { changed: () => marks.check(), close: () => marks.close() };
  },
};

class MarksHere {
  readonly #kit: Kit;
  readonly #copy: CopyPort;
  readonly #off: () => void;
  readonly #timers = new Set<() => void>();
  #marks: readonly ShownMark[] = [];
  #last = 0;

  constructor(kit: Kit, copy: CopyPort) {
    this.#kit = kit;
    this.#copy = copy;
    this.#off = new SealedLine(kit.connection, drawingChannel).listen(
      ({ from, message }) => this.#take(from, message),
      (from) => this.#mayDraw(from),
    );
  }

  /** What was drawn goes with the right to draw. */
  check(): void {
    const here = presentOf(this.#kit.connection.state, 'desk');
    const kept = this.#marks.filter(({ seat }) => here.some((p) => p.seat === seat && this.#mayDraw(p)));
    if (kept.length !== this.#marks.length) this.#show(kept);
  }

  close(): void {
    this.#off();
    for (const cancel of this.#timers) cancel();
    this.#show([]);
  }

  #mayDraw({ signKey, isGone }: Participant): boolean {
    return !isGone && this.#kit.held.may('draw-on-screen', signKey);
  }

  #show(marks: readonly ShownMark[]): void {
    this.#marks = marks;
    this.#copy.showMarks(marks);
  }

  #take({ seat }: Participant, message: DrawingMessage): void {
    if (message.type === 'unmark') return this.#show(withoutMark(this.#marks, seat, message.which));
    const id = ++this.#last;
    this.#show(withMark(this.#marks, { id, seat, mark: message.mark }));
    if (message.mark.kind !== 'point') return;
    // A point goes by itself.
    const cancel = this.#kit.time.after(POINT_MS, () => {
      this.#timers.delete(cancel);
      this.#show(this.#marks.filter((m) => m.id !== id));
    });
    this.#timers.add(cancel);
  }
}
