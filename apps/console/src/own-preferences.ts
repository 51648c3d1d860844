import type { RestClient } from '@porch/client';
import { firstPreferences, keyMapFor, type KeyboardSystem, type Preferences } from '@porch/core';
import { shallowRef } from 'vue';
import { inWords } from './in-words.ts';

/** Which keyboard this browser sits at; the browser is asked, and a wrong answer costs a choice in the panel of keys. */
export function ownSystem(): KeyboardSystem {
  const { userAgentData, platform } = navigator as Navigator & { userAgentData?: { platform: string } };
  const name = userAgentData?.platform ?? platform;
  if (/mac|iphone|ipad/i.test(name)) return 'apple';
  return /win/i.test(name) ? 'windows' : 'linux';
}

/** What the technician here chose for themselves; until it is read, what everybody has at first. */
export class OwnPreferences {
  readonly now = shallowRef<Preferences>(firstPreferences);
  readonly trouble = shallowRef('');
  readonly system = ownSystem();
  readonly #rest: RestClient;

  constructor(rest: RestClient) {
    this.#rest = rest;
  }

  keyMap = () => keyMapFor(this.now.value, this.system);

  async read(): Promise<void> {
    this.now.value = await this.#rest.preferences();
  }

  /** At once here; what the service does not take is as it was, and why is said. */
  async choose(change: Partial<Preferences>): Promise<void> {
    const before = this.now.value;
    this.now.value = { ...before, ...change };
    this.trouble.value = '';
    try {
      this.now.value = await this.#rest.setPreferences(this.now.value);
    } catch (error) {
      this.now.value = before;
      this.trouble.value = inWords(error);
    }
  }
}
