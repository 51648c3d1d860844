import type { PasswordCare, Permission } from '@porch/core';
import { isForNobody } from '../for-nobody.ts';
import { beginWith, type BannerLine, type HostAbility, type Kit, type Running } from '../kit.ts';
import type { PasswordField, SecretsPort } from '../ports/secrets-port.ts';

/** From one field to the next it does not stop: whoever fills in a form does not make the picture come and go. */
const REST_MS = 400;
/** What lasts shorter is told nobody, and nothing more often: a form that moves the keyboard about fills no ledger. */
const TELL_AFTER_MS = 250;
const TELL_GAP_MS = 2_000;

/**
 * Somebody types a password here: where its field certainly lies only that is covered; otherwise the picture rests until
 * the field has lost the keyboard, or the person says that it may go on.
 */
class PasswordsHere implements Running {
  readonly #kit: Kit;
  readonly #port: SecretsPort;
  readonly #offs: (() => void)[];
  #field: PasswordField | undefined;
  /** The person said that the picture may go on, though this field has the keyboard. */
  #dismissedId: number | undefined;
  #endRest: (() => void) | undefined;
  #told: PasswordCare | undefined;
  #toldAtMs = -Infinity;
  #endTelling: (() => void) | undefined;
  #showNotifications: (() => void) | undefined;

  constructor(kit: Kit, port: SecretsPort) {
    this.#kit = kit;
    this.#port = port;
    kit.shared.endPasswordPause = () => this.#dismiss();
    this.#offs = [port.onPassword((field) => this.#take(field)), kit.connection.on('entry', () => this.#keepOut())];
  }

  pauses(permission: Permission): string | undefined {
    return this.#care === 'paused' && isForNobody(permission) ? 'they are typing a password' : undefined;
  }

  changed(): void {
    this.#keepOut();
  }

  banner(soFar: BannerLine): BannerLine {
    const { passwords } = this.#kit.words;
    if (this.#care === 'paused' && !soFar.isPrivate) return { what: passwords.paused, besides: [], isPrivate: true };
    if (this.#care === 'covered' && !soFar.isPrivate)
      return { ...soFar, besides: [...soFar.besides, passwords.covered] };
    return soFar;
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.#endRest?.();
    this.#endTelling?.();
    this.#showNotifications?.();
  }

  get #care(): PasswordCare | undefined {
    if (!this.#field) return undefined;
    if (this.#field.isCovered) return 'covered';
    return this.#field.id === this.#dismissedId ? undefined : 'paused';
  }

  #take(field: PasswordField | undefined): void {
    this.#endRest?.();
    this.#endRest = undefined;
    if (field) this.#set(field);
    else if (this.#field)
      this.#endRest = this.#kit.time.after(REST_MS, () => {
        this.#endRest = undefined;
        this.#set(undefined);
      });
  }

  #set(field: PasswordField | undefined): void {
    this.#field = field;
    // Whoever comes back to it later types anew.
    if (!field) this.#dismissedId = undefined;
    this.#follow();
  }

  /** Whether that was what the person meant. */
  #dismiss(): boolean {
    if (this.#care !== 'paused') return false;
    this.#dismissedId = this.#field?.id;
    this.#follow();
    return true;
  }

  #follow(): void {
    this.#keepOut();
    this.#tellSoon();
    this.#kit.changed();
  }

  /** A code that comes by a message is not for everybody's eyes, either. */
  #keepOut(): void {
    const isOn = this.#field !== undefined || this.#kit.shared.isPrivate();
    if (isOn) this.#showNotifications ??= this.#port.keepNotificationsOut();
    else {
      this.#showNotifications?.();
      this.#showNotifications = undefined;
    }
  }

  #tellSoon(): void {
    const { time, report } = this.#kit;
    if (this.#endTelling) return;
    const waitMs = Math.max(TELL_AFTER_MS, this.#toldAtMs + TELL_GAP_MS - time.nowMs());
    this.#endTelling = time.after(waitMs, () => {
      this.#endTelling = undefined;
      const care = this.#care;
      if (care === this.#told) return;
      this.#told = care;
      this.#toldAtMs = time.nowMs();
      if (care) report((fact) => ({ type: 'passwords/tellBegun', care, fact }));
      else report((fact) => ({ type: 'passwords/tellEnded', fact }));
    });
  }
}

/** Notices that a password is typed, where the computer tells of it. */
export const passwords: HostAbility = {
  name: 'passwords',
  // It has no permissions: nobody asks for it.
  whyNot: () => undefined,
  begin: (kit) => beginWith(kit.ports.secrets, (port) => new PasswordsHere(kit, port)),
};
