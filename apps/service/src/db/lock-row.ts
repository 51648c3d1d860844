import type { EntityManager, EntitySchema } from 'typeorm';

/** The row, and nobody else changes it until the transaction ends; null when there is none. */
export const lockRow = <Row extends { id: string }>(
  tx: EntityManager,
  table: EntitySchema<Row>,
  id: string,
): Promise<Row | null> =>
  tx.getRepository(table).createQueryBuilder('r').setLock('pessimistic_write').where('r.id = :id', { id }).getOne();
