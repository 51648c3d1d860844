import { EntitySchema } from 'typeorm';

/** An act on a careful device that somebody else still has something to say to. Made from the ledger of its session. */
export interface CarefulActRow {
  sessionId: string;
  actId: string;
  kind: 'second-yes' | 'override';
  askedAt: Date;
}
export const CarefulActEntity = new EntitySchema<CarefulActRow>({
  name: 'careful_act',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    actId: { type: 'uuid', primary: true, name: 'act_id' },
    kind: { type: 'text', primary: true },
    askedAt: { type: 'timestamptz', name: 'asked_at' },
  },
  indices: [{ name: 'careful_act_asked', columns: ['askedAt'] }],
});
