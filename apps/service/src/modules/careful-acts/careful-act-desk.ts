import { mayDo, refuse, type Person, type SessionState } from '@porch/core';
import { AppError, type CarefulActView } from '@porch/wire';
import type { Kit } from '../../module/kit.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { CarefulActEntity, type CarefulActRow } from './careful-act-table.ts';

/** The oldest first; more than these nobody reads at once. */
const MOST_SHOWN = 50;

export interface CarefulActParts extends Pick<Kit, 'records'> {
  readonly book: SessionBook;
  readonly technicians: Technicians;
}

/** Acts on careful devices that somebody else has something to say to. */
export class CarefulActDesk {
  readonly #parts: CarefulActParts;

  constructor(parts: CarefulActParts) {
    this.#parts = parts;
  }

  /** All that are open, whoever may say something to them. */
  async open(): Promise<CarefulActView[]> {
    const rows = await this.#parts.records
      .getRepository(CarefulActEntity)
      .find({ order: { askedAt: 'ASC' }, take: MOST_SHOWN });
    const views = await Promise.all(rows.map((row) => this.#viewOf(row)));
    return views.flatMap((view) => view ?? []);
  }

  /** Those among them that this person may say something to. */
  static forPerson(all: readonly CarefulActView[], me: Person): CarefulActView[] {
    return all.filter(({ kind, askedById, askedByTeam }) =>
      mayDo(me, kind === 'override' ? 'look at an override' : 'give a second yes', {
        isOwnAct: askedById === me.id,
        ownerTeam: askedByTeam,
      }),
    );
  }

  /** Throws SECOND_YES_OWN, SECOND_YES_NOT_OPEN, SESSION_NOT_FOUND. */
  async answer(me: Technician, sessionId: string, actId: string, isYes: boolean): Promise<void> {
    await this.#parts.book.act(sessionId, ({ state }) => {
      const act = state.slices['risky-acts'][actId];
      // Answered so already, and the answer was lost on its way: it is the same answer.
      if (act?.standing === (isYes ? 'cleared' : 'refused')) return [];
      if (act?.standing !== 'waits') return refuse('SECOND_YES_NOT_OPEN');
      if (!mayDo(me, 'give a second yes', { isOwnAct: askerOf(state, actId) === me.id }))
        return refuse('SECOND_YES_OWN');
      const personal = { name: act.name ?? '', secondName: me.name };
      return [{ type: 'risky-acts/answered', by: `technician:${me.id}`, actId, isYes, personal }];
    });
  }

  /** Throws SECOND_YES_NOT_OPEN for one that was within its hours, or that this person leads nobody of. */
  async lookAt(me: Technician, sessionId: string, actId: string): Promise<void> {
    const ownerTeam = await this.#teamOf(sessionId, actId);
    if (!mayDo(me, 'look at an override', { ownerTeam })) throw new AppError('SECOND_YES_NOT_OPEN');
    await this.#parts.book.act(sessionId, ({ state }) => {
      const act = state.slices['risky-acts'][actId];
      if (!act?.isOverride) return refuse('SECOND_YES_NOT_OPEN');
      const personal = { name: act.name ?? '', leadName: me.name };
      return [{ type: 'risky-acts/lookedAt', by: `technician:${me.id}`, actId, personal }];
    });
  }

  async #teamOf(sessionId: string, actId: string): Promise<string | undefined> {
    const { state } = await this.#parts.book.open(sessionId);
    const id = askerOf(state, actId);
    return id === undefined ? undefined : this.#parts.technicians.get(id)?.team;
  }

  async #viewOf({ sessionId, actId, kind, askedAt }: CarefulActRow): Promise<CarefulActView | undefined> {
    const { state, entries } = await this.#parts.book.open(sessionId);
    const asked = entries.find(({ event }) => event.type === 'risky-acts/asked' && event.actId === actId)?.event;
    const askedById = askerOf(state, actId);
    const asker = askedById === undefined ? undefined : this.#parts.technicians.get(askedById);
    if (asked?.type !== 'risky-acts/asked' || !asker) return undefined;
    return {
      ...{ sessionId, actId, kind, askedAtMs: askedAt.getTime(), deviceLabel: state.deviceLabel ?? '' },
      ...{ act: asked.act, name: asked.personal?.name ?? '…' },
      ...(state.customerName ? { customerName: state.customerName } : {}),
      ...(asked.personal?.reason ? { reason: asked.personal.reason } : {}),
      ...{ askedById: asker.id, askedByName: asker.name, askedByTeam: asker.team },
    };
  }
}

/** Whose act it is, as a person of the desk. */
const askerOf = (state: SessionState, actId: string): string | undefined =>
  state.participants[state.slices['risky-acts'][actId]?.byId ?? '']?.technicianId;
