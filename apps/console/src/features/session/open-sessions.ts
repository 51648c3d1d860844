import { shallowRef } from 'vue';
import { forgetAllKeys, forgetKeys } from './forget-keys.ts';
import type { TechnicianSession } from './technician-session.ts';

/** The sessions this technician has open in this window: they stay connected while other pages are shown. */
export class OpenSessions {
  readonly list = shallowRef<readonly TechnicianSession[]>([]);

  /** `begin` makes it where it is not open yet: whoever never opens one loads nothing for it. */
  open(id: string, begin: () => TechnicianSession): TechnicianSession {
    const known = this.list.value.find((s) => s.id === id && !s.failed.value);
    if (known) return known;
    this.list.value.find((s) => s.id === id)?.close();
    const session = begin();
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
