import { DESK_TEAM, faultsIn, searchWords, textOfAction, type RunbookAction } from '@porch/core';
import {
  AppError,
  MAX_LISTED_VERSIONS,
  runbookStates,
  type RunbookActionView,
  type RunbookActionWhole,
  type RunbookScope,
  type RunbookState,
} from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { In, Not, type DataSource, type EntityManager, type FindOptionsWhere } from 'typeorm';
import { permit } from '../../auth/permit.ts';
import { inTransaction } from '../../db/data-source.ts';
import { skippedBy, skipping } from '../../http/skipping-cursor.ts';
import type { Technician } from '../people/technician.ts';
import { actionOf, hashOf, versionOf, viewOf } from './action-view.ts';
import { RunbookActionEntity, type RunbookActionRow } from './runbook-action-table.ts';

/** Of all names; versions of before do not count. */
const MAX_ACTIONS = 2_000;
const inUse = In([...runbookStates]);

export interface RunbookSearch {
  readonly words?: string | undefined;
  readonly name?: string | undefined;
  readonly topic?: string | undefined;
  readonly kind?: RunbookAction['kind'] | undefined;
  readonly state?: RunbookState | undefined;
  readonly limit: number;
  readonly cursor?: string | undefined;
}
export interface ToWrite {
  readonly action: RunbookAction;
  readonly scope: RunbookScope;
  readonly basedOn?: string | undefined;
}

/** Within which a name means one action. */
export const ownerOf = (scope: RunbookScope, me: Technician): string =>
  scope === 'desk' ? 'desk' : scope === 'team' ? `team ${me.team}` : `person ${me.id}`;

/** Whose somebody may see: the desk's, their team's, their own; a lead also those of whom they lead, to approve them. */
const seenBy = ({ id, team, role }: Technician): FindOptionsWhere<RunbookActionRow>[] => {
  const leads = role === 'lead' ? (team === DESK_TEAM ? [{}] : [{ team }]) : [];
  return [{ scope: 'desk' }, { scope: 'team', team }, { authorId: id }, ...leads];
};

/** The runbook: actions drafted by one, reviewed by another, approved by a lead, in use until a better one is. */
export class RunbookDesk {
  readonly #records: DataSource;

  constructor(records: DataSource) {
    this.#records = records;
  }

  /** The last written first. Throws CURSOR_UNKNOWN. */
  async find(
    me: Technician,
    { limit, cursor, ...search }: RunbookSearch,
  ): Promise<{ items: RunbookActionView[]; next?: string }> {
    const skipped = skippedBy(search, cursor);
    const { words = '', name, topic, kind, state } = search;
    const conditions = {
      state: state ?? inUse,
      ...(name === undefined ? {} : { name }),
      ...(topic === undefined ? {} : { topic }),
      ...(kind === undefined ? {} : { kind }),
    };
    const asked = searchWords(words);
    // Somebody typed something, and nothing of it is a word.
    if (!asked.length && words.trim()) return { items: [] };
    const rows = await this.#records
      .getRepository(RunbookActionEntity)
      .createQueryBuilder('a')
      .setFindOptions({ where: seenBy(me).map((seen) => ({ ...seen, ...conditions })) })
      .andWhere(asked.map((_, at) => `a.words LIKE :word${at}`).join(' AND ') || 'true')
      // Words are letters and digits: none of them means anything to LIKE.
      .setParameters(Object.fromEntries(asked.map((word, at) => [`word${at}`, `% ${word}%`])))
      .orderBy('a.writtenAt', 'DESC')
      .addOrderBy('a.id')
      .offset(skipped)
      .limit(limit + 1)
      .getMany();
    const items = rows.slice(0, limit).map(viewOf);
    return rows.length > limit ? { items, next: skipping(search, skipped + limit) } : { items };
  }

  /** Throws ACTION_NOT_FOUND, for what somebody may not see, too. */
  async read(me: Technician, id: string): Promise<RunbookActionWhole> {
    return this.#whole(await current(this.#records.manager, me, id));
  }

  /** A draft, beside what is in use. Throws ACTION_FAULTY, ACTION_CHANGED, TOO_MANY_ACTIONS. */
  async write(me: Technician, { action, scope, basedOn }: ToWrite): Promise<RunbookActionWhole> {
    const faults = faultsIn(action);
    if (faults.length) throw new AppError('ACTION_FAULTY', { faults });
    const owner = ownerOf(scope, me);
    const row = await inTransaction(this.#records, async (tx) => {
      const rows = tx.getRepository(RunbookActionEntity);
      await waitForTurn(tx, owner, action.name);
      const versions = await rows.find({ where: { owner, name: action.name }, order: { version: 'DESC' } });
      const open = versions.find(({ state }) => state === 'draft' || state === 'reviewed');
      const last = open ?? versions.find(({ state }) => state === 'approved');
      if (last?.id !== basedOn) throw new AppError('ACTION_CHANGED');
      if (!last && (await rows.countBy({ state: inUse })) >= MAX_ACTIONS) throw new AppError('TOO_MANY_ACTIONS');
      if (open) await rows.update({ id: open.id }, { state: 'replaced' });
      const draft = draftOf(me, action, scope, owner, (versions[0]?.version ?? 0) + 1);
      await rows.insert(draft);
      return draft;
    });
    return this.#whole(row);
  }

  /** Throws ACTION_NOT_FOUND, ACTION_OF_YOUR_OWN. */
  async review(me: Technician, id: string): Promise<RunbookActionWhole> {
    return this.#change(me, id, (row) => {
      if (row.state !== 'draft') return {};
      if (row.authorId === me.id) throw new AppError('ACTION_OF_YOUR_OWN');
      return { state: 'reviewed', reviewerName: me.name };
    });
  }

  /** It is in use from now on, and what was before no longer. Throws ACTION_NOT_FOUND, ACTION_NOT_REVIEWED, NOT_YOUR_ROLE. */
  async approve(me: Technician, id: string): Promise<RunbookActionWhole> {
    return this.#change(me, id, async (row, tx) => {
      permit(me, 'approve a runbook action', { ownerTeam: row.team });
      if (row.state === 'approved') return {};
      if (row.state !== 'reviewed') throw new AppError('ACTION_NOT_REVIEWED');
      await tx
        .getRepository(RunbookActionEntity)
        .update({ owner: row.owner, name: row.name, state: 'approved', id: Not(id) }, { state: 'replaced' });
      return { state: 'approved', approverName: me.name };
    });
  }

  /** Whoever wrote it may, and whoever leads them. Throws ACTION_NOT_FOUND, NOT_YOUR_ROLE. */
  async withdraw(me: Technician, id: string): Promise<void> {
    await this.#change(me, id, (row) => {
      permit(me, 'withdraw a runbook action', { ownerId: row.authorId, ownerTeam: row.team });
      return { state: 'withdrawn' };
    });
  }

  /** Everything in use that somebody may see. Of one name that several own, their own counts, then their team's. */
  async inUseFor(me: Technician): Promise<RunbookAction[]> {
    const rows = await this.#records
      .getRepository(RunbookActionEntity)
      .find({ where: seenBy(me).map((seen) => ({ ...seen, state: 'approved' as const })), order: { name: 'ASC' } });
    const rank = ({ scope }: RunbookActionRow) => ['personal', 'team', 'desk'].indexOf(scope);
    const byName = new Map<string, RunbookActionRow>();
    for (const row of rows) {
      const known = byName.get(row.name);
      if (!known || rank(row) < rank(known)) byName.set(row.name, row);
    }
    return [...byName.values()].map(actionOf);
  }

  /** What is there of a name within one owner: what is open first. */
  async named(owner: string, name: string): Promise<RunbookActionRow | undefined> {
    const rows = await this.#records.getRepository(RunbookActionEntity).findBy({ owner, name, state: inUse });
    return rows.find(({ state }) => state !== 'approved') ?? rows[0];
  }

  /** One that may be run by somebody now. Throws ACTION_NOT_FOUND, ACTION_NOT_APPROVED. */
  async toRun(me: Technician, id: string, mayRunDrafts: boolean): Promise<{ row: RunbookActionRow; isDraft: boolean }> {
    const row = await current(this.#records.manager, me, id);
    const isDraft = row.state !== 'approved';
    if (isDraft && !(mayRunDrafts && row.authorId === me.id)) throw new AppError('ACTION_NOT_APPROVED');
    return { row, isDraft };
  }

  async #change(
    me: Technician,
    id: string,
    how: (row: RunbookActionRow, tx: EntityManager) => Partial<RunbookActionRow> | Promise<Partial<RunbookActionRow>>,
  ): Promise<RunbookActionWhole> {
    const changed = await inTransaction(this.#records, async (tx) => {
      const { owner, name } = await current(tx, me, id);
      await waitForTurn(tx, owner, name);
      const row = await current(tx, me, id);
      const change = await how(row, tx);
      if (Object.keys(change).length) await tx.getRepository(RunbookActionEntity).update({ id }, change);
      return { ...row, ...change };
    });
    return this.#whole(changed);
  }

  async #whole(row: RunbookActionRow): Promise<RunbookActionWhole> {
    const versions = await this.#records.getRepository(RunbookActionEntity).find({
      where: { owner: row.owner, name: row.name },
      order: { version: 'DESC' },
      take: MAX_LISTED_VERSIONS,
    });
    return { ...viewOf(row), action: actionOf(row), hash: hashOf(row.text), versions: versions.map(versionOf) };
  }
}

function draftOf(
  me: Technician,
  action: RunbookAction,
  scope: RunbookScope,
  owner: string,
  version: number,
): RunbookActionRow {
  const { name, title, topic = null, kind, about } = action;
  return {
    ...{ id: randomUUID(), owner, name, version, state: 'draft', scope, team: me.team, title, topic, kind },
    text: textOfAction(action),
    words: searchWords([title, about, topic ?? '', name].join(' '))
      .map((word) => ` ${word}`)
      .join(''),
    ...{ authorId: me.id, authorName: me.name, writtenAt: new Date(), reviewerName: null, approverName: null },
  };
}

async function current(tx: EntityManager, me: Technician, id: string): Promise<RunbookActionRow> {
  const row = await tx
    .getRepository(RunbookActionEntity)
    .findOne({ where: seenBy(me).map((seen) => ({ ...seen, id, state: inUse })) });
  if (!row) throw new AppError('ACTION_NOT_FOUND');
  return row;
}

/** Who writes, reviews or approves an action waits for whoever does the same right now. */
const waitForTurn = (tx: EntityManager, owner: string, name: string): Promise<unknown> =>
  tx.query(`SELECT pg_advisory_xact_lock(hashtext('runbook'), hashtext($1))`, [`${owner} ${name}`]);
