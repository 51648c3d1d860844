import { readdirSync, readFileSync } from 'node:fs';

/** Processes of desktops in a folder that run for the desk, by the mark in their environment. */
export const markedProcesses = (folder: string): string[] =>
  readdirSync('/proc').filter((pid) => {
    try {
      const environment = /^\d+$/.test(pid) ? readFileSync(`/proc/${pid}/environ`, 'latin1') : '';
      return environment.includes('DOORSTEP_RUN=') && environment.includes(folder);
    } catch {
      // It went meanwhile.
      return false;
    }
  });
