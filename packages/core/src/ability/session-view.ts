import type { AnyPart, Side } from '../people/part.ts';

/** Somebody of the session, as an ability sees them. */
export interface PersonView {
  readonly id: string;
  readonly side: Side;
  readonly part: AnyPart;
  readonly isGone: boolean;
}

/** What an ability may know of the session beside its own slice. It can read it, and change none of it. */
export interface SessionView {
  readonly nowMs: number;
  readonly isOver: boolean;
  readonly holderId: string | undefined;
  /** Whose computer the customer sits at, as they say. */
  readonly computer: 'own' | 'works' | 'shared' | 'others' | undefined;
  /** What kind of device it is, where that is known: a till, a ship's bridge. */
  readonly deviceLabel: string | undefined;
  readonly participants: Readonly<Record<string, PersonView>>;
  /** Whether this participant may do that now. */
  holds(permission: string, participantId: string): boolean;
  /** Whether a visitor showed by the device's second secret that nobody sits between the two programs. */
  isProven(participantId: string): boolean;
}
