import { TechnicianDoor, type SecretState } from '@porch/client';
import { shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** For visits to devices: the second secret, and where it stands. */
export const standingTool = defineTool({
  name: 'standing',
  begin({ connection }) {
    const door = new TechnicianDoor(connection);
    const secret = shallowRef<SecretState>({ name: 'notNeeded' });
    door.listeners.on('secret', (state) => (secret.value = state));
    return { door, secret, close: () => door.close() };
  },
});
