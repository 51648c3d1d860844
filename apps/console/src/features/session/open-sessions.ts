import type { RestClient } from '@porch/client';
import { shallowRef } from 'vue';
import { consoleAbilities } from '../../abilities/index.ts';
import { forgetAllKeys, forgetKeys } from './kept-keys.ts';
import { TechnicianSession } from './technician-session.ts';

/** The sessions this technician has open in this window: they stay connected while other pages are shown. */
export class OpenSessions {
  readonly #rest: RestClient;
  readonly list = shallowRef<readonly TechnicianSession[]>([]);

  constructor(rest: RestClient) {
    this.#rest = rest;
  }

  open(id: string): TechnicianSession {
    const known = this.list.value.find((s) => s.id === id && !s.failed.value);
    if (known) return known;
    this.list.value.find((s) => s.id === id)?.close();
    const session = new TechnicianSession(this.#rest, id, consoleAbilities);
    this.list.value = [...this.list.value.filter((s) => s.id !== id), session];
    return session;
  }

  close(id: string): void {
    this.list.value.find((s) => s.id === id)?.close();
    forgetKeys(id);
    this.list.value = this.list.value.filter((s) => s.id !== id);
  }

  closeAll(): void {
    for (const session of this.list.value) session.close();
    this.list.value = [];
    forgetAllKeys();
  }
}
