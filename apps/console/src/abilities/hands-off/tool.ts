import { clockLeft, TechnicianHandsOff, type RestingNow, type RestingPermission } from '@porch/client';
import { restingBy } from '@porch/core';
import { computed, shallowRef } from 'vue';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';
import { pictureTool } from '../picture/tool.ts';

const CLOCK_MS = 500;

/** Whose hands rest: this technician's own, at once; the customer's, as far as they let them. */
class HandsOffTool implements Tool {
  readonly resting = shallowRef<readonly RestingNow[]>([]);
  /** By the service's clock. */
  readonly #nowMs = shallowRef(0);
  readonly isStepBackAsked = computed(
    () => this.#session.state.value.slices['hands-off'].stepBackFor === this.#session.connection.participantId,
  );
  readonly #session: ConsoleSession;
  readonly #handsOff: TechnicianHandsOff;
  readonly #timer: ReturnType<typeof setInterval>;

  constructor(session: ConsoleSession) {
    this.#session = session;
    this.#handsOff = new TechnicianHandsOff(session.connection);
    this.#timer = setInterval(() => this.#follow(), CLOCK_MS);
    session.connection.on('entry', () => this.#follow());
  }

  /** Nothing of mine reaches them, nothing of theirs comes here. */
  pauseView(): void {
    this.#session.tool(inputTool).hidden();
    this.#session.tool(pictureTool).isPaused.value = true;
  }

  askStepBack(isAsked: boolean): Promise<void> {
    return this.#handsOff.askStepBack(isAsked);
  }
  /** How long this rests still, "4:07"; undefined while it does not. */
  leftOf(permission: RestingPermission): string | undefined {
    const resting = this.resting.value.find(({ what }) => what === restingBy[permission]);
    return resting && clockLeft(resting.endsAtMs - this.#nowMs.value);
  }

  close(): void {
    clearInterval(this.#timer);
    this.#handsOff.close();
  }

  #follow(): void {
    const now = this.#handsOff.resting;
    if (now.length || this.resting.value.length) {
      this.resting.value = now;
      this.#nowMs.value = this.#session.connection.serviceNowMs;
    }
  }
}

export const handsOffTool = defineTool({ name: 'hands-off', begin: (session) => new HandsOffTool(session) });
