import { ledger } from '@porch/words/ledger';
import {
  abilitiesHanded,
  isEffective,
  newSession,
  evolveSession,
  mayReadPersonal,
  replay,
  tellToCustomer,
  type Language,
  type LedgerEntry,
  type Permission,
  type Policy,
  type Reader,
  type SessionEvent,
} from '@porch/core';
import type { ReceiptView } from '@porch/wire';
import type { OpenSession } from '../../module/open-session.ts';

/** A session as its entries tell it to one reader: what they may not read is not there. */
export function asReadBy(session: OpenSession, reader: Reader): OpenSession {
  const entries = session.entries.map((entry) => {
    if (mayReadPersonal(entry.event, reader) || !('personal' in entry.event)) return entry;
    const { personal: _withheld, ...event } = entry.event;
    return { ...entry, event: event as SessionEvent };
  });
  return { ...session, entries, state: replay(entries) };
}

/** The customer's copy of what was allowed and done. */
export function receiptOf({ id, state, entries }: OpenSession, policy: Policy, language: Language): ReceiptView {
  const lines = tellToCustomer(entries, ledger[language]).filter(
    (e) => e.event.type !== 'chatSent' && e.event.type !== 'outcomeLogged',
  );
  const accepted = entries.find((e) => e.event.type === 'customerAccepted');
  const last = entries.at(-1);
  const liveMs = state.phase.name === 'ended' || state.phase.name === 'logged' ? state.phase.liveMs : 0;
  const technicians = Object.values(state.participants)
    .filter((p) => p.side === 'desk')
    .map((p) => p.name ?? ledger[language].kernel.erased);
  return {
    sessionId: id,
    deskName: policy.deskName,
    deskPhone: policy.deskPhone,
    isSuspect: (state.phase.name === 'ended' || state.phase.name === 'logged') && state.phase.reason === 'fraud',
    customerName: state.customerName ?? '',
    technicians: [...new Set(technicians)],
    ...(state.ticketRef ? { ticketRef: state.ticketRef } : {}),
    ...(accepted ? { startedAtMs: accepted.atMs } : {}),
    minutes: Math.ceil(liveMs / 60_000),
    allowed: allowedPeriods(entries),
    files: abilitiesHanded(state.slices).map((f) => ({
      name: f.name ?? '…',
      sizeBytes: f.sizeBytes,
      isToCustomer: state.participants[f.fromId]?.side === 'desk',
      stage: f.stage,
    })),
    lines: lines.map(({ atMs, sentence }) => ({ atMs, sentence })),
    head: { seq: last?.seq ?? 0, hash: last?.hash ?? '' },
    phase: state.phase.name,
  };
}

/** Read off the states between the entries, so that whatever ends a permission ends its period. */
function allowedPeriods(entries: readonly LedgerEntry[]): ReceiptView['allowed'] {
  const periods: { name: string; permission: Permission; fromMs: number; toMs?: number; key: string }[] = [];
  let state = newSession;
  for (const { event, atMs } of entries) {
    state = evolveSession(state, event, atMs);
    const isOver = state.phase.name === 'ended' || state.phase.name === 'logged';
    const now = new Map<string, { name: string; permission: Permission; endsAtMs: number }>();
    for (const [id, standings] of Object.entries(isOver ? {} : state.standings))
      for (const [permission, standing] of Object.entries(standings))
        if (standing.name === 'allowed' && isEffective(standing, atMs))
          now.set(`${id} ${permission}`, {
            name: state.participants[id]?.name ?? '…',
            permission: permission as Permission,
            endsAtMs: standing.endsAtMs,
          });
    for (const period of periods) if (period.toMs === undefined && !now.has(period.key)) period.toMs = atMs;
    for (const [key, { name, permission }] of now)
      if (!periods.some((p) => p.key === key && p.toMs === undefined))
        periods.push({ key, name, permission, fromMs: atMs });
  }
  return periods.map(({ key: _, ...period }) => period);
}
