import { shallowRef } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';

/** Characters that go in one act; it is stopped between them. */
const AT_ONCE = 40;
const GAP_MS = 60;

/** Types a text there as if by hand, in any script. Ends as soon as mouse and keyboard are let go, by anybody. */
export class StageTyping {
  /** How much of it is typed, from 0 to 1; undefined while nothing is. */
  readonly share = shallowRef<number>();
  readonly #session: ConsoleSession;
  #isStopped = false;

  constructor(session: ConsoleSession) {
    this.#session = session;
  }

  async type(display: number, text: string): Promise<void> {
    if (this.share.value !== undefined) return;
    const input = this.#session.tool(inputTool);
    const characters = [...text.replaceAll('\r\n', '\n')];
    this.#isStopped = false;
    if (!input.isWorking.value) input.open();
    for (let at = 0; at < characters.length;) {
      this.share.value = at / characters.length;
      await new Promise((resolve) => setTimeout(resolve, GAP_MS));
      if (this.#isStopped || input.state.value.name === 'closed') break;
      // The person's own hand comes first.
      if (input.state.value.name !== 'open') continue;
      if (!input.act(display, { act: 'text', text: characters.slice(at, at + AT_ONCE).join('') })) break;
      at += AT_ONCE;
    }
    this.share.value = undefined;
  }

  /** What is on its way to be typed is not typed, either. */
  stop(): void {
    if (this.share.value === undefined) return;
    this.#isStopped = true;
    this.#session.tool(inputTool).release();
  }
}
