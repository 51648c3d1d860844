import { Listeners, type TalkState } from '@porch/client';
import { shallowRef } from 'vue';

/** What this page shows of speaking together, and its button: the host does the rest. */
export class PageVoice {
  /** Undefined while nobody may speak with the person here. */
  readonly now = shallowRef<TalkState>();
  readonly #wishes = new Listeners<{ mute: undefined }>();

  show(now: TalkState): void {
    this.now.value = now.microphone ? now : undefined;
  }
  toggleMute(): void {
    this.#wishes.emit('mute', undefined);
  }
  onMuteWanted(listener: () => void): () => void {
    return this.#wishes.on('mute', listener);
  }
}
