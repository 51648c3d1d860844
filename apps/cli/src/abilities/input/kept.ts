import { InputLease, type LeaseState } from '@porch/client';
import { AppError } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { keptPicture } from '../picture/kept.ts';
import { inputCalls } from './calls.ts';

const LEASE_WAIT_MS = 5_000;

export const keptInput = defineKept({
  name: 'input',
  calls: inputCalls,
  begin(kit) {
    const picture = kit.kept(keptPicture);
    const lease = new InputLease(kit.connection, () => picture.aim);
    lease.listeners.on('state', () => kit.changed());
    const stateName = (): LeaseState['name'] => lease.state.name;
    return {
      lease,
      async open(): Promise<void> {
        kit.need('control-input');
        if (stateName() === 'closed') lease.open();
        await kit.until(() => stateName() === 'open' || stateName() === 'closed', LEASE_WAIT_MS);
        if (stateName() !== 'open') throw new AppError('NOT_GRANTED');
      },
      close: () => lease.close(),
    };
  },
  answer: {
    async acts({ lease, open }, { acts }) {
      await open();
      for (const act of acts) {
        // The person's own hand comes first: wait until it rests, then go on.
        if (lease.state.name === 'paused') await open();
        if (!lease.act(act)) throw new AppError('NOT_GRANTED');
      }
      return { sent: acts.length };
    },
  },
});
