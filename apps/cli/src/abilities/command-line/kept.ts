import { CommandLineRefusedThere, RefusedThere, TechnicianCommandLine, type CommandLineOver } from '@porch/client';
import { defineKept } from '../cli-ability.ts';
import { awaitLeave } from '../leave-kept.ts';
import { commandLineCalls } from './calls.ts';

/** What is told of an open command line; bytes in Base64. */
export type LineNews =
  | { readonly is: 'opened'; readonly program: string; readonly folder: string; readonly mayGoOn: boolean }
  | { readonly is: 'printed'; readonly bytes: string }
  | { readonly is: 'anew' }
  | { readonly is: 'rests'; readonly why: string };
export type LineEnded = CommandLineOver | { readonly isCareful: true };

/** As long as a session may be. */
const LINE_MS = 24 * 60 * 60_000;

export const keptCommandLine = defineKept({
  name: 'command-line',
  calls: commandLineCalls,
  begin(kit) {
    const technician = new TechnicianCommandLine(kit.connection);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    async openCommandLine({ kit, technician }, { lineId, folder, columns, rows }, tell, signal): Promise<LineEnded> {
      kit.need('use-command-line');
      if (technician.now) throw new RefusedThere('too many are on their way');
      let over: CommandLineOver | undefined;
      // What is printed may come in the same turn as the word that it is open: whoever asked hears of that first.
      const early: LineNews[] = [];
      let isTold = false;
      const news = (one: LineNews) => {
        if (isTold) tell(one);
        else early.push(one);
      };
      const offs = [
        technician.listeners.on('printed', (bytes) =>
          news({ is: 'printed', bytes: Buffer.from(bytes).toString('base64') }),
        ),
        technician.listeners.on('anew', () => news({ is: 'anew' })),
        technician.listeners.on('rests', (why) => news({ is: 'rests', why })),
        technician.listeners.on('over', (told) => {
          over = told;
          kit.changed();
        }),
      ];
      const shut = () => technician.shut();
      signal.addEventListener('abort', shut);
      try {
        const { program, folder: at, mayGoOn } = await technician.open({ lineId, folder, columns, rows });
        isTold = true;
        for (const one of [{ is: 'opened', program, folder: at, mayGoOn } as const, ...early]) news(one);
        // Whoever asked went away while it was opened.
        if (signal.aborted) shut();
        await kit.until(() => over !== undefined, LINE_MS);
        return over ?? { how: 'broken-off', code: undefined, mayGoOn: false };
      } catch (error) {
        if (error instanceof CommandLineRefusedThere && error.isCareful) return { isCareful: true };
        throw error;
      } finally {
        signal.removeEventListener('abort', shut);
        offs.forEach((off) => off());
      }
    },
    /** Resolves with what the desk says; a second person is waited for. */
    async askLeaveForLine({ kit, technician }, { lineId, folder, reason }) {
      await technician.askLeave({ lineId, folder }, reason);
      return awaitLeave(kit, lineId);
    },
    typeOnLine({ technician }, { text }) {
      technician.keys(text);
      return Promise.resolve({});
    },
    resizeLine({ technician }, { columns, rows }) {
      technician.size(columns, rows);
      return Promise.resolve({});
    },
    tookOfLine({ technician }, { bytes }) {
      technician.took(bytes);
      return Promise.resolve({});
    },
    shutLine({ technician }) {
      technician.shut();
      return Promise.resolve({});
    },
  },
});
