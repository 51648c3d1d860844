import { EntitySchema } from 'typeorm';

/** Work that is done again and again by whichever process gets to it: when it is due, and who has it. */
export interface RoundRow {
  what: string;
  dueAt: Date;
  /** Whoever does it has it until then, unless they are done before. */
  heldUntil: Date | null;
  /** In a row. */
  failures: number;
  lastError: string | null;
}
export const RoundEntity = new EntitySchema<RoundRow>({
  name: 'round',
  columns: {
    what: { type: 'text', primary: true },
    dueAt: { type: 'timestamptz', name: 'due_at' },
    heldUntil: { type: 'timestamptz', name: 'held_until', nullable: true },
    failures: { type: 'int' },
    lastError: { type: 'text', name: 'last_error', nullable: true },
  },
});
