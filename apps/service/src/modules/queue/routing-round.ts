import { routeQueue, type PolicyFor, type RoutedEntry, type Topic } from '@porch/core';
import type { DataSource } from 'typeorm';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { QueueEntryEntity, type QueueEntryRow } from './queue-tables.ts';
import type { TechnicianStates } from './technician-states.ts';

/** One round of routing at a time, whichever process does it: a number that nobody else locks. */
const ROUTING_LOCK = 8_420_001;

/** An entry as routing looks at it. */
export function routed(row: QueueEntryRow, topics: readonly Topic[]): RoutedEntry {
  const topic = topics.find((one) => one.topic === row.topic);
  return {
    id: row.id,
    sinceMs: row.since.getTime(),
    language: row.language,
    topic: row.topic,
    team: topic?.team,
    skills: topic?.skills ?? [],
    wants: row.wants,
    passedBy: row.passedBy,
    offer:
      row.offeredTo && row.offerEndsAt
        ? { technicianId: row.offeredTo, endsAtMs: row.offerEndsAt.getTime() }
        : undefined,
  };
}

export interface RoutingParts {
  readonly records: DataSource;
  readonly policyFor: PolicyFor;
  readonly states: TechnicianStates;
}

/** One round of routing: offers made, and those that nobody took passed on. True when anything changed. */
export async function routingRound(parts: RoutingParts): Promise<boolean> {
  const { records, policyFor, states } = parts;
  const policy = policyFor();
  if (!(await records.getRepository(QueueEntryEntity).existsBy({ state: 'waiting' }))) return false;
  return inTransaction(records, async (tx) => {
    await tx.query('SELECT pg_advisory_xact_lock($1)', [ROUTING_LOCK]);
    const rows = await tx
      .getRepository(QueueEntryEntity)
      .createQueryBuilder('q')
      .setLock('pessimistic_write')
      .where(`q.state = 'waiting'`)
      .orderBy('q.since')
      .limit(policy.maxWaiting)
      .getMany();
    const nowMs = await databaseNowMs(tx);
    const { lapsed, offers } = routeQueue(
      rows.map((row) => routed(row, policy.topics)),
      await states.all(tx),
      policy.routing,
      nowMs,
    );
    const entries = tx.getRepository(QueueEntryEntity);
    for (const { entryId, technicianId } of lapsed) {
      const passedBy = [...(rows.find((r) => r.id === entryId)?.passedBy ?? []), technicianId];
      await entries.update({ id: entryId }, { offeredTo: null, offerEndsAt: null, passedBy });
      await states.missedOffer(tx, technicianId);
    }
    for (const { entryId, technicianId, endsAtMs } of offers)
      await entries.update({ id: entryId }, { offeredTo: technicianId, offerEndsAt: new Date(endsAtMs) });
    return lapsed.length + offers.length > 0;
  });
}
