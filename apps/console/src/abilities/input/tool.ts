import { InputLease, type LeaseState } from '@porch/client';
import type { InputAct } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';
import { pictureTool } from '../picture/tool.ts';

/** How long the stage says that input was not done. */
const DROPPED_WORD_MS = 4_000;

/** The customer's mouse and keyboard, aimed at what a stage shows. */
export const inputTool = defineTool({
  name: 'input',
  begin(session) {
    const picture = session.tool(pictureTool);
    const state = shallowRef<LeaseState>({ name: 'closed', why: '' });
    const dropped = shallowRef('');
    let workedDisplay = 0;
    let droppedTimer: ReturnType<typeof setTimeout> | undefined;
    const lease = new InputLease(session.connection, () => picture.aimAt(workedDisplay));
    lease.listeners.on('state', (now) => (state.value = now));
    lease.listeners.on('dropped', (why) => {
      dropped.value = why;
      clearTimeout(droppedTimer);
      droppedTimer = setTimeout(() => (dropped.value = ''), DROPPED_WORD_MS);
    });
    picture.onOld = () => lease.release();
    picture.isWorked = () => lease.state.name === 'open';
    return {
      state,
      dropped,
      isWorking: computed(() => state.value.name === 'open' || state.value.name === 'paused'),
      mayWork: computed(() => (void session.told.value, session.may('control-input'))),
      open: () => lease.open(),
      release: () => lease.release(),
      /** Works one display; what is aimed at is what its stage shows. False when it was not sent. */
      act(display: number, act: InputAct): boolean {
        if (picture.isOld || !picture.isShown(display)) return false;
        workedDisplay = display;
        const isSent = lease.act(act);
        if (isSent && (!('isDown' in act) || act.isDown) && act.act !== 'move') picture.noteAct();
        return isSent;
      },
      askToWork: () => session.ask('control-input'),
      hidden: () => lease.release(),
      close: () => {
        clearTimeout(droppedTimer);
        lease.close();
      },
    };
  },
});
