import { inBackground, technicianTalk, type Talk, type TalkState } from '@porch/client';
import { computed, shallowRef } from 'vue';
import { inWords } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { CannotPlay, pageSound } from '../page-sound.ts';

const silent: TalkState = { microphone: undefined, isHushed: false, ownPeak: 0, others: [] };

/** Speaking with whoever may: they are heard as soon as they are allowed to be, and the microphone is opened by a press. */
class SpeakingTool implements Tool {
  readonly now = shallowRef<TalkState>(silent);
  readonly trouble = shallowRef('');
  readonly maySpeak = computed(() => (void this.#session.told.value, this.#session.may('speak-together')));
  readonly #session: ConsoleSession;
  #talk: Promise<Talk> | undefined;
  #isClosed = false;
  #might = false;

  constructor(session: ConsoleSession) {
    this.#session = session;
    const follow = () => inBackground('following who speaks', this.#follow());
    session.connection.on('entry', follow);
    session.connection.on('caughtUp', follow);
  }

  /** Opened, muted, and opened again: one press each. */
  press(): Promise<void> {
    return this.#attempt((talk) => {
      if (this.now.value.microphone === 'open') talk.setMuted(true);
      else talk.open();
    });
  }
  /** While it is held. */
  hold(isHeld: boolean): Promise<void> {
    return this.#attempt((talk) => talk.setMuted(!isHeld));
  }
  setHushed(isHushed: boolean): Promise<void> {
    return this.#attempt((talk) => talk.setHushed(isHushed));
  }

  /** Nobody is heard by accident where they do not see that they are. */
  hidden(): void {
    if (this.now.value.microphone === 'open') inBackground('muting', this.hold(false));
  }
  close(): void {
    this.#isClosed = true;
    this.#talk?.then((talk) => talk.close()).catch(() => undefined); // Told where it was made.
  }

  async #follow(): Promise<void> {
    const may = this.#session.may('speak-together');
    if (may) {
      const talk = await this.#made();
      talk.changed();
    } else if (this.#might) {
      // What was open is closed with the leave: a new one is a new press.
      const talk = await this.#talk;
      talk?.stop();
      talk?.changed();
    }
    this.#might = may;
  }

  async #attempt(work: (talk: Talk) => void): Promise<void> {
    this.trouble.value = '';
    try {
      work(await this.#made());
    } catch (error) {
      this.trouble.value = error instanceof CannotPlay ? w.value.speaking.cannot : inWords(error);
    }
  }
  #made(): Promise<Talk> {
    this.#talk ??= this.#make().catch((error: unknown) => {
      this.#talk = undefined;
      throw error;
    });
    return this.#talk;
  }
  async #make(): Promise<Talk> {
    const page = await pageSound((error) => (this.trouble.value = inWords(error)));
    const talk = technicianTalk(this.#session.connection, page);
    talk.listeners.on('now', (now) => (this.now.value = now));
    page.wake();
    if (this.#isClosed) talk.close();
    return talk;
  }
}

export const speakingTool = defineTool({ name: 'speaking', begin: (session) => new SpeakingTool(session) });
