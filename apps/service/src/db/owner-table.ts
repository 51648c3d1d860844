import { EntitySchema } from 'typeorm';

export interface OwnerRow {
  id: number;
  epoch: number;
}
/** One row: how often a service process has taken the sessions over. */
export const OwnerEntity = new EntitySchema<OwnerRow>({
  name: 'session_owner',
  columns: { id: { type: 'int', primary: true }, epoch: { type: 'int' } },
});
