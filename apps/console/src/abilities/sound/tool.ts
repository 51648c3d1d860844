import { inBackground, TechnicianSound } from '@porch/client';
import type { BrowserSound } from '@porch/pages/sound';
import { computed, shallowRef } from 'vue';
import { inWords } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { CannotPlay, pageSound } from '../page-sound.ts';

/** How often the level is shown. */
const LEVEL_MS = 100;

/** What programs there play, heard in this page as long as it is wanted. */
class SoundTool implements Tool {
  readonly isOn = shallowRef(false);
  readonly peak = shallowRef(0);
  readonly trouble = shallowRef('');
  readonly volume = shallowRef(1);
  readonly mayHear = computed(() => (void this.#session.told.value, this.#session.may('hear-sound')));
  readonly #session: ConsoleSession;
  #sound: TechnicianSound | undefined;
  #speaker: ReturnType<BrowserSound['speaker']> | undefined;
  #endLevel: (() => void) | undefined;
  #isClosed = false;
  #might = false;

  constructor(session: ConsoleSession) {
    this.#session = session;
    const follow = () => {
      const may = session.may('hear-sound');
      if (may === this.#might) return;
      this.#might = may;
      // It was asked for in order to be heard.
      inBackground('listening', this.setOn(may));
    };
    session.connection.on('entry', follow);
    session.connection.on('caughtUp', follow);
  }

  async setOn(isOn: boolean): Promise<void> {
    this.trouble.value = '';
    try {
      if (isOn) this.#sound ??= await this.#make();
      this.#sound?.setOn(isOn);
      this.isOn.value = this.#sound?.isOn ?? false;
    } catch (error) {
      this.trouble.value = error instanceof CannotPlay ? w.value.sound.cannot : inWords(error);
    }
    this.#endLevel?.();
    this.#endLevel = this.isOn.value
      ? this.#session.connection.clock.every(LEVEL_MS, () => (this.peak.value = this.#sound?.peak ?? 0))
      : undefined;
    if (!this.isOn.value) this.peak.value = 0;
  }
  setVolume(gain: number): void {
    this.volume.value = gain;
    this.#speaker?.setVolume(gain);
  }

  close(): void {
    this.#isClosed = true;
    this.#endLevel?.();
    this.#sound?.close();
  }

  async #make(): Promise<TechnicianSound> {
    const page = await pageSound((error) => (this.trouble.value = inWords(error)));
    const sound = new TechnicianSound(this.#session.connection, () => {
      this.#speaker = page.speaker();
      this.#speaker.setVolume(this.volume.value);
      return this.#speaker;
    });
    page.wake();
    if (this.#isClosed) sound.close();
    return sound;
  }
}

export const soundTool = defineTool({ name: 'sound', begin: (session) => new SoundTool(session) });
