import { ledger, w } from '../../words/index.ts';
import {
  customerStep,
  LiveConnection,
  isHolderThere,
  PlannedAsks,
  ReturnAsks,
  type LiveStatus,
  type RestClient,
  type SocketLike,
} from '@porch/client';
import {
  consentHolderOf,
  isEffective,
  isOver,
  isTakingOver,
  leadOf,
  newSession,
  standingOf,
  tellToTechnicians,
  type Permission,
  type SessionState,
  type ToldEntry,
} from '@porch/core';
import type { AsideMessage, CustomerStep } from '@porch/wire';
import { computed, effectScope, shallowRef, watch, type Component, type ShallowRef } from 'vue';
import type { ConsoleAbility, ConsoleSession, Tool, ToolKind } from '../../abilities/console-ability.ts';
import type { OwnPreferences } from '../../own-preferences.ts';
import { inWords } from '../../in-words.ts';
import { forgetKeys } from './forget-keys.ts';
import { keysOfTab } from './kept-keys.ts';

/**
 * One session as its technician has it open: the connection, what is true now, and what each ability has going. Lives until
 * closed, on whatever page.
 */
export class TechnicianSession implements ConsoleSession {
  readonly id: string;
  readonly connection: LiveConnection;
  readonly rest: RestClient;
  readonly preferences: OwnPreferences;
  readonly state: ShallowRef<SessionState> = shallowRef(newSession);
  readonly told: ShallowRef<readonly ToldEntry[]> = shallowRef([]);
  readonly asides: ShallowRef<readonly AsideMessage[]> = shallowRef([]);
  readonly status: ShallowRef<LiveStatus> = shallowRef('connecting');
  readonly step: ShallowRef<CustomerStep | undefined> = shallowRef();
  readonly isHolderThere: ShallowRef<boolean> = shallowRef(false);
  readonly failed: ShallowRef<string> = shallowRef('');
  /** Why what was planned was not asked. */
  readonly plannedTrouble: ShallowRef<string> = shallowRef('');
  readonly unread: ShallowRef<number> = shallowRef(0);
  /** Whether this technician holds the session, or takes it over just now: only then is there anything to ask. */
  readonly isLead: ShallowRef<boolean> = shallowRef(false);
  readonly #planned: PlannedAsks;
  readonly #returning: ReturnAsks;
  readonly #abilities: readonly ConsoleAbility[];
  readonly #tools = new Map<ToolKind<Tool>, Tool>();
  /** Told anew when another language is spoken. */
  readonly #stopFollowing: () => void;
  #isShown = false;
  #isTellDue = false;

  constructor(
    { rest, preferences }: { readonly rest: RestClient; readonly preferences: OwnPreferences },
    id: string,
    abilities: readonly ConsoleAbility[],
  ) {
    this.id = id;
    this.rest = rest;
    this.preferences = preferences;
    this.#abilities = abilities;
    this.connection = new LiveConnection({
      pass: () => rest.livePass(id),
      openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
      keys: keysOfTab(id),
    });
    this.connection.on('entry', (entry) => {
      if (entry.event.type === 'chatSent' && !this.#isShown && entry.event.by !== this.connection.participantId)
        this.unread.value++;
      this.#tellSoon();
    });
    this.connection.on('status', (status) => {
      this.status.value = status;
    });
    this.connection.on('presence', () => this.#seeWhoIsThere());
    this.connection.on('asides', (asides) => (this.asides.value = asides));
    this.connection.on('failed', (error) => (this.failed.value = inWords(error)));
    const trouble = (error: unknown) => (this.plannedTrouble.value = inWords(error));
    this.#planned = new PlannedAsks(this.connection, trouble);
    this.#returning = new ReturnAsks(this.connection, trouble);
    for (const { tool } of abilities) if (tool) this.tool(tool);
    // It outlives the page that opens it.
    const scope = effectScope(true);
    scope.run(() => watch(ledger, () => this.#tellSoon()));
    this.#stopFollowing = () => scope.stop();
  }

  /** What an ability has going here; begun when it is first wanted, and at the latest with the session. */
  tool<T extends Tool>(kind: ToolKind<T>): T {
    const known = this.#tools.get(kind as ToolKind<Tool>);
    if (known) return known as T;
    const made = kind.begin(this);
    this.#tools.set(kind as ToolKind<Tool>, made);
    return made;
  }

  get notes(): Component[] {
    return this.#abilities.flatMap(({ note }) => note ?? []);
  }

  /** What goes on in it on whatever page one is, in words. */
  get besideName(): string[] {
    return this.#abilities.flatMap(({ besideName }) => besideName?.(this) ?? []);
  }

  /** What a participant's computer calls itself, as it said when it came in. */
  computerOf(participantId: string | undefined): string | undefined {
    const joined = this.connection.entries.find(
      ({ event }) => event.type === 'participantJoined' && event.participantId === participantId,
    )?.event;
    return joined?.type === 'participantJoined' ? joined.personal?.computer : undefined;
  }

  /** As the ticket names it, else as it calls itself; undefined while nothing is known. */
  readonly computer = computed(
    () => (void this.told.value, this.state.value.asset ?? this.computerOf(this.state.value.holderId)),
  );
  readonly theirComputer = computed(() => this.computer.value ?? w.value.session.theirComputer);

  /** Resolves once this technician is out of the session, for whatever reason. */
  whenOut(): Promise<void> {
    if (this.connection.status === 'closed') return Promise.resolve();
    return new Promise((resolve) => {
      const off = this.connection.on('failed', () => {
        off();
        resolve();
      });
    });
  }

  get isFromBrowser(): boolean {
    return consentHolderOf(this.state.value)?.part === 'page';
  }

  may(permission: Permission): boolean {
    return isEffective(
      standingOf(this.connection.state, this.connection.participantId, permission),
      this.connection.serviceNowMs,
    );
  }

  async ask(...permissions: Permission[]): Promise<void> {
    await this.connection.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
  }
  async giveBack(permission: Permission): Promise<void> {
    const { participantId } = this.connection;
    await this.connection.command({ type: 'withdrawPermission', participantId, permission, why: 'given back' });
  }

  /** A page shows this session; hands back its stop. */
  show(): () => void {
    this.#isShown = true;
    this.unread.value = 0;
    return () => {
      this.#isShown = false;
      for (const tool of this.#tools.values()) tool.hidden?.();
    };
  }

  close(): void {
    this.#stopFollowing();
    this.#planned.close();
    this.#returning.close();
    for (const tool of [...this.#tools.values()].reverse()) tool.close();
    this.connection.close();
  }

  /** From presence and ledger together: either may be told first. */
  #seeWhoIsThere(): void {
    const { state, presence } = this.connection;
    this.step.value = customerStep(state, presence);
    this.isHolderThere.value = isHolderThere(this.connection);
  }

  #tellSoon(): void {
    if (this.#isTellDue) return;
    this.#isTellDue = true;
    queueMicrotask(() => {
      this.#isTellDue = false;
      this.state.value = this.connection.state;
      this.#seeWhoIsThere();
      const { state, participantId } = this.connection;
      const me = state.participants[participantId];
      this.isLead.value =
        me !== undefined && !me.isGone && (leadOf(state)?.id === me.id || isTakingOver(state, me.technicianId));
      if (isOver(this.connection.state)) forgetKeys(this.id);
      this.told.value = tellToTechnicians(this.connection.entries, ledger.value);
    });
  }
}
