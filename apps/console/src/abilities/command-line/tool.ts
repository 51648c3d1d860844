import {
  CommandLineRefusedThere,
  inBackground,
  TechnicianCommandLine,
  type CommandLineOpened,
  type CommandLineOver,
} from '@porch/client';
import { computed, ref, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';
import type { LineTerminal, LineTerminalOn } from './line-terminal.ts';

/** A command line and the terminal that shows it, which lives on while its panel is closed. */
function useLine(technician: TechnicianCommandLine) {
  const now = shallowRef<CommandLineOpened>();
  const over = shallowRef<CommandLineOver>();
  const rests = ref('');
  const terminal = shallowRef<LineTerminal>();
  /** What the panel does while it is open. */
  const panel: Pick<LineTerminalOn, 'tooMuch' | 'find' | 'isForPage'> = {
    ...{ tooMuch: () => undefined, find: () => undefined, isForPage: () => false },
  };
  async function makeTerminal(name: string): Promise<LineTerminal> {
    const { LineTerminal } = await import('./line-terminal.ts');
    terminal.value?.close();
    const on: LineTerminalOn = {
      keys: (text) => {
        rests.value = '';
        technician.keys(text);
      },
      size: (columns, rows) => technician.size(columns, rows),
      tooMuch: () => panel.tooMuch(),
      find: () => panel.find(),
      isForPage: (event) => panel.isForPage(event),
    };
    return (terminal.value = new LineTerminal(on, name));
  }
  technician.listeners.on('printed', (bytes) => {
    terminal.value?.write(bytes, () => technician.took(bytes.length));
  });
  technician.listeners.on('anew', () => terminal.value?.reset());
  technician.listeners.on('rests', (why) => (rests.value = why));
  technician.listeners.on('over', (told) => {
    [now.value, over.value, rests.value] = [undefined, told, ''];
  });
  return { now, over, rests, terminal, panel, makeTerminal };
}

export const commandLineTool = defineTool({
  name: 'command-line',
  begin(session) {
    const technician = new TechnicianCommandLine(session.connection);
    const line = useLine(technician);
    const { now, over, rests, terminal, makeTerminal } = line;
    /** By folder: command lines that ask for the desk's leave first. */
    const careful = shallowRef<Readonly<Record<string, string>>>({});
    let isBeginning = false;
    return {
      ...{ ...line, technician, careful },
      mayUse: computed(() => (void session.told.value, session.may('use-command-line'))),
      ask: () => session.ask('use-command-line'),
      /** `name`: what readers of the screen call it. */
      async open(folder: string, name: string): Promise<void> {
        const asked = { lineId: careful.value[folder] ?? technician.newId(), folder };
        isBeginning = true;
        try {
          const { size } = await makeTerminal(name);
          [over.value, rests.value] = [undefined, ''];
          now.value = await technician.open({ ...asked, ...size });
          careful.value = {};
        } catch (error) {
          if (!(error instanceof CommandLineRefusedThere) || !error.isCareful) throw error;
          careful.value = { ...careful.value, [folder]: asked.lineId };
        } finally {
          isBeginning = false;
        }
      },
      /** After a reload what was open before is still there. */
      resume(name: string): void {
        if (isBeginning || !session.may('use-command-line') || technician.earlierId === undefined) return;
        isBeginning = true;
        const resumed = makeTerminal(name)
          .then(() => {
            now.value = technician.resume();
          })
          .finally(() => (isBeginning = false));
        inBackground('going on with a command line', resumed);
      },
      close: () => {
        technician.close();
        terminal.value?.close();
      },
    };
  },
});
