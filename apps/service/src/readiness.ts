import type { DataSource } from 'typeorm';
import { refusalOf } from './refusal-of.ts';

/** Whether the service should get new work. */
export function readiness(records: DataSource): { drain(): void; whyNot(): Promise<string | undefined> } {
  let isDraining = false;
  return {
    /** From here on it is not: it is stopping. */
    drain: () => void (isDraining = true),
    /** In words; undefined when it should. */
    whyNot: async () => {
      if (isDraining) return 'it is stopping';
      try {
        await records.query('SELECT 1');
        return (await records.showMigrations()) ? 'the records are of another release; migrate them' : undefined;
      } catch (error) {
        if (refusalOf(error).code !== 'RECORDS_DOWN') throw error;
        return 'the records cannot be reached';
      }
    },
  };
}
